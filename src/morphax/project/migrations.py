"""Steps from one schema version to the next, each a pure function on the document's dictionary."""

from collections.abc import Callable
from typing import Any

MIGRATIONS: tuple[Callable[[dict[str, Any]], dict[str, Any]], ...] = ()
"""Step i leads from version i + 1 to i + 2; there is only version 1 yet."""
