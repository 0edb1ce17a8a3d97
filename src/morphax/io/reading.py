"""Reading whole files of a limited size."""

from pathlib import Path

from morphax.io.errors import FileError

_UNITS = ((1 << 30, "GiB"), (1 << 20, "MiB"), (1_000_000, "MB"), (1_000, "kB"))


def read_within(path: Path, most: int, name: str = "") -> bytes:
    """A file's bytes, no more than ``most`` of them. Raises FileError with a sentence that calls it ``name``."""
    shown = name or path.name
    try:
        size = path.stat().st_size
        data = path.read_bytes() if size <= most else b""
    except OSError as error:
        raise FileError(f"{shown} could not be read: {error.strerror or error}") from error
    if size > most:
        unit, word = next(((u, w) for u, w in _UNITS if most % u == 0), (1, "bytes"))
        raise FileError(f"{shown} is larger than {most // unit} {word}")
    return data
