"""Pieces: forms that are repeated along a path, where they stand and how they lie."""
