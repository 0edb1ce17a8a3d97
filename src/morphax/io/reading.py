"""Reading whole files of a limited size: ordinary ones only, never a pipe or a device that has no end."""

import os
import stat
from pathlib import Path

from morphax.io.errors import FileError

_UNITS = ((1 << 30, "GiB"), (1 << 20, "MiB"), (1_000_000, "MB"), (1_000, "kB"))


def read_within(path: Path, most: int, name: str = "") -> bytes:
    """A file's bytes, no more than ``most`` of them. Raises FileError with a sentence that calls it ``name``."""
    shown = name or path.name
    try:
        handle = os.open(path, os.O_RDONLY | os.O_NONBLOCK)  # a pipe that nobody writes to is opened at once
        with os.fdopen(handle, "rb") as file:
            if not stat.S_ISREG(os.fstat(handle).st_mode):
                raise FileError(f"{shown} is no ordinary file")
            data = file.read(most + 1)
    except FileError:
        raise
    except OSError as error:
        raise FileError(f"{shown} could not be read: {error.strerror or error}") from error
    if len(data) > most:
        unit, word = next(((u, w) for u, w in _UNITS if most % u == 0), (1, "bytes"))
        raise FileError(f"{shown} is larger than {most // unit} {word}")
    return data
