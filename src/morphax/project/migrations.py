"""Steps from one schema version to the next, each a pure function on the document's dictionary."""

from collections.abc import Callable
from typing import Any


def _from_1(document: dict[str, Any]) -> dict[str, Any]:
    """Version 2 has hosts from files, places and ports of hosts, held knots: what is missing has its default."""
    return document


def _from_2(document: dict[str, Any]) -> dict[str, Any]:
    """Version 3 has ready-made paths, droops, tension, guides, runs laid on hosts, holds on paths, with defaults."""
    return document


MIGRATIONS: tuple[Callable[[dict[str, Any]], dict[str, Any]], ...] = (_from_1, _from_2)
"""Step i leads from version i + 1 to i + 2."""
