"""Frames: what carries a section along a path."""
