"""Starts the application."""

from collections.abc import Sequence


def launch(words: Sequence[str]) -> int:
    """Opens the window: empty, with the demo project, or with a file; returns the exit code."""
    raise NotImplementedError(words)
