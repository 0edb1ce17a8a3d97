"""Until the loops are compiled: another process compiles them, plain loops build coarser bodies meanwhile."""

import subprocess
import sys
from threading import Thread

from morphax.core.body.recipe import Density, Recipe, plain_recipe
from morphax.core.findings import Finding, Severity
from morphax.core.kernels.compiling import answer_plainly, cache_folder, compile_all, is_plain

MOST_POINTS = 10_000
"""Plain loops build bodies of about so many points at most."""
_FIRST_SIDES, _MOST_RINGS = 24, 200

FOR_NOW = Finding(
    "for-now", Severity.NOTE, "This body is coarser until the program has made itself ready; it is built anew then."
)


def begin() -> bool:
    """Starts compiling where that is not done yet; whether plain loops answer meanwhile.

    In a process of its own, which leaves the machine code on the disk; where nothing can be written, in a thread.
    """
    if not answer_plainly():
        Thread(target=compile_all, name="morphax-loops", daemon=True).start()  # loads what is on the disk
        return False
    if cache_folder() is None:
        Thread(target=compile_all, name="morphax-loops", daemon=True).start()
    else:
        words = [sys.executable, "-m", "morphax.core.kernels"]
        subprocess.Popen(words, stdin=subprocess.DEVNULL, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return True


def wait() -> None:
    """Comes back when loops are compiled: for exports, which are never coarser than they say."""
    if is_plain():
        compile_all()


def for_now(recipe: Recipe) -> tuple[Recipe, tuple[Finding, ...]]:
    """The recipe that is built while plain loops answer, and the note where it is coarser than was asked for."""
    density = recipe.density.in_force
    sides = min(density.sides or _FIRST_SIDES, MOST_POINTS // 2)
    rings = density.rings or min(_MOST_RINGS, MOST_POINTS // sides)
    coarser = Density(rings=max(2, min(rings, MOST_POINTS // sides)), sides=sides, crease=density.crease)
    if density == coarser:
        return recipe, ()
    return plain_recipe(recipe, coarser), (FOR_NOW,)
