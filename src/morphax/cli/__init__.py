"""Morphax cli; may import everything but app."""
