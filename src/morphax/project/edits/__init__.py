"""Edits: pure functions from a project to a project."""
