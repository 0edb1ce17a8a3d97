"""Morphax build; may import core, project."""
