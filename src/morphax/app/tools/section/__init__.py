"""Tools for the section board."""
