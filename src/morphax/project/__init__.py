"""Morphax project; may import core."""
