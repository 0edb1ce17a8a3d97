"""Morphax app; may import everything."""
