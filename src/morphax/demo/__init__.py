"""Morphax demo; may import project."""
