"""The section board."""
