"""The errors that core functions raise: one base, each also a builtin kind."""

import re

_LONG = re.compile(r"\S{200,}")
"""What nobody wrote by hand: a number of thousands of digits, a line of a damaged file."""


class MorphaxError(Exception):
    """Any error that Morphax raises on purpose; its text is a plain sentence for the user.

    What it repeats of a file or a field is cut where it is longer than anybody would read.
    """

    def __init__(self, *args: object) -> None:
        super().__init__(*(_LONG.sub(_cut, a) if isinstance(a, str) else a for a in args))


def _cut(found: re.Match[str]) -> str:
    words = found.group()
    return f"{words[:40]}\u2026{words[-8:]}"


class PathError(MorphaxError, ValueError):
    """A path that cannot be used."""


class SectionError(MorphaxError, ValueError):
    """A section or one of its values that cannot be used."""


class DensityError(MorphaxError, ValueError):
    """A density wish that cannot be met."""
