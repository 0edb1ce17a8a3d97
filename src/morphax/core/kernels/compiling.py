"""How loops are compiled: when they are first called, with fixed argument types, without the interpreter's lock.

The machine code is kept in a folder of Morphax's own under the user's cache, so that only the first start after an
installation has to make it; where nothing can be written there it is made in memory. A program that must answer at once
asks for plain loops until the code is there (``answer_plainly``): the same numbers, slowly.
"""

import os
import platform
import re
import sys
from collections.abc import Callable
from functools import cache
from hashlib import sha256
from importlib import import_module
from importlib.metadata import version
from pathlib import Path
from pkgutil import iter_modules
from threading import Lock
from time import monotonic
from typing import Any, TypeVar, cast

import numpy as np

from morphax.core import kernels

F = TypeVar("F", bound=Callable[..., Any])

_LOOK_SECONDS = 0.2
_ARGUMENT = re.compile(r"(\d*)([a-z])(\d*)")
_helpers: dict[str, list[Callable[..., Any]]] = {}
_kernels: list["_Kernel"] = []
_lock = Lock()


class _Plainly:
    """Whether plain loops may answer, and when it was last looked for the machine code."""

    is_on = False
    looked = 0.0


@cache
def fingerprint() -> str:
    """What machine code depends on: the loops' own text, the compiler, the language, the processor."""
    text = [platform.machine(), platform.processor(), sys.version, version("numba"), np.__version__]
    for path in kernels.__path__:
        text += [file.read_text() for file in sorted(Path(path).glob("*.py"))]
    return sha256("\n".join(text).encode()).hexdigest()[:16]


def cache_folder() -> Path | None:
    """Where machine code is kept; None where nothing can be written there."""
    home = os.environ.get("XDG_CACHE_HOME") or os.path.join(os.path.expanduser("~"), ".cache")
    folder = Path(home) / "morphax" / "loops" / fingerprint()
    try:
        folder.mkdir(parents=True, exist_ok=True)
        probe = folder / f".probe-{os.getpid()}"
        probe.touch()
        probe.unlink()
    except OSError:
        return None
    return folder


def is_complete() -> bool:
    """Whether the machine code of all loops lies on the disk."""
    folder = cache_folder()
    return folder is not None and (folder / "complete").exists()


@cache
def _numba() -> Any:
    import numba  # loaded with the first body, not with the window: it takes a third of a second

    folder = cache_folder()
    if folder is not None:
        numba.config.CACHE_DIR = str(folder)
    return numba


def _argument(text: str) -> Any:
    types = _numba().types
    names = {"f": "float64", "s": "float32", "i": "int64", "w": "int32", "b": "boolean"}
    written = text.startswith(">")
    several, letter, axes = _ARGUMENT.fullmatch(text.lstrip(">")).groups()  # type: ignore[union-attr]
    number = getattr(types, names[letter])
    own = types.Array(number, int(axes), "C", readonly=not written) if axes else number
    return types.UniTuple(own, int(several)) if several else own


class _Kernel:
    """A loop that becomes machine code when it is first called."""

    def __init__(self, function: Callable[..., Any], arguments: str) -> None:
        self.function, self.arguments = function, arguments
        self.made: Callable[..., Any] | None = None
        _kernels.append(self)

    def __call__(self, *values: Any) -> None:
        (self.made or self._ready())(*values)

    def _ready(self) -> Callable[..., Any]:
        return self.function if is_plain() else self.compile()

    def compile(self) -> Callable[..., Any]:
        with _lock:
            if self.made is None:
                numba, home = _numba(), self.function.__globals__
                for small in _helpers.pop(home["__name__"], []):
                    home[small.__name__] = numba.njit(nogil=True, error_model="numpy")(small)
                signature = numba.types.void(*(_argument(a) for a in self.arguments.split()))
                is_kept = bool(numba.config.CACHE_DIR)
                self.made = numba.njit(signature, cache=is_kept, nogil=True, error_model="numpy")(self.function)
            return self.made


def kernel(arguments: str) -> Callable[[F], F]:
    """A loop over arrays that writes into some of them; ``arguments`` are their types in short, parted by blanks.

    ``f2`` is a float64 array with two axes that is only read, ``>f2`` one that is written, ``i`` a whole number,
    ``3f2`` a tuple of three such arrays. Letters: f float64, s float32, i int64, w int32, b boolean. Arrays lie row by
    row in memory (see ``packed``).
    """

    def deferred(function: F) -> F:
        made: Any = _Kernel(function, arguments)
        return cast(F, made)

    return deferred


def helper(function: F) -> F:
    """A small function for the loops of its own file, which it becomes a part of."""
    _helpers.setdefault(function.__module__, []).append(function)
    return function


def packed(array: Any, dtype: type = np.float64) -> Any:
    """The array as loops take it: of one type, row by row in memory."""
    return np.ascontiguousarray(array, dtype=dtype)


def spread(array: Any, shape: tuple[int, ...]) -> Any:
    """The array in a shape that it can be spread to, row by row in memory."""
    return packed(array if array.shape == shape else np.broadcast_to(array, shape))


def compile_all() -> int:
    """Makes the machine code of every loop of this package, and counts them."""
    for module in iter_modules(kernels.__path__):
        import_module(f"{kernels.__name__}.{module.name}")
    for made in _kernels:
        made.compile()
    folder = cache_folder()
    if folder is not None:
        (folder / "complete").touch()
    _Plainly.is_on = False
    return len(_kernels)


def answer_plainly() -> bool:
    """From now on plain loops answer, until the machine code is on the disk; False where it is there already."""
    _Plainly.is_on, _Plainly.looked = not is_complete(), monotonic()
    return _Plainly.is_on


def is_plain() -> bool:
    """Whether plain loops answer now."""
    if _Plainly.is_on and monotonic() - _Plainly.looked > _LOOK_SECONDS:
        _Plainly.is_on, _Plainly.looked = not is_complete(), monotonic()
    return _Plainly.is_on
