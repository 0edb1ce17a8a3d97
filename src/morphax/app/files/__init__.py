"""Files in and out of the window."""
