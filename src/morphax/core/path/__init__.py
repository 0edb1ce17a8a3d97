"""Paths: chains of cubics, their length, legs, checks and edits."""
