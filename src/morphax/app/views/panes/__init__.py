"""Panes: views of the scene with the overlay on top."""
