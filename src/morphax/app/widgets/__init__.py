"""Small widgets, icons and the theme."""
