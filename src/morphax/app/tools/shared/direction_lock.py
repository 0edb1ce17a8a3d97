"""Held keys that keep a direction: Shift the nearest straight one, X, Y or Z that axis. Pure functions."""

from dataclasses import replace

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.tools.shared.landing import Caught, Landing


def directions(normal: np.ndarray, before: np.ndarray | None) -> list[tuple[str, np.ndarray]]:
    """Straight directions that Shift chooses from: the axes, 45 degrees between those of the plane with ``normal``
    (3,), and along ``before`` (3,), the last span, or at right angles to it in the plane."""
    found: list[tuple[str, np.ndarray]] = [(f"along {name}", np.eye(3)[i]) for i, name in enumerate("xyz")]
    axis = int(np.argmax(np.abs(normal)))
    a, b = (np.eye(3)[i] for i in range(3) if i != axis)
    found += [("at 45°", (a + b) / np.sqrt(2.0)), ("at 45°", (a - b) / np.sqrt(2.0))]
    size = 0.0 if before is None else float(np.linalg.norm(before))
    if before is not None and size > 0.0:
        along = before / size
        across = np.cross(normal, along)
        found.append(("along the last span", along))
        if np.linalg.norm(across) > 1e-6:
            found.append(("at right angles", across / np.linalg.norm(across)))
    return found


def locked(found: Landing, previous: np.ndarray, before: np.ndarray | None, at: Pointer) -> Landing:
    """A landing kept on a straight line through ``previous`` (3,), where a key for that is held.

    On an axis the place is where the line of sight passes it nearest; what caught the pointer gives how far.
    """
    if at.axis is not None:
        d = np.eye(3)[at.axis]
        name = f"along {'xyz'[at.axis]}"
        far = _on_line(at, previous, d) if found.target is None else float((found.place - previous) @ d)
    elif at.add:
        step = found.place - previous
        size = float(np.linalg.norm(step))
        if size == 0.0:
            return found
        name, d = max(directions(found.normal, before), key=lambda c: abs(float(c[1] @ step)))
        far = float(step @ d)
    else:
        return found
    rounds = at.step > 0.0 and found.caught is Caught.GRID
    far = round(far / at.step) * at.step if rounds else far
    return replace(found, place=previous + far * d, caught=Caught.NOTHING, plane=name, target=None)


def _on_line(at: Pointer, origin: np.ndarray, d: np.ndarray) -> float:
    """How far along a line (3,), (3,) it is passed nearest by the line of sight, m."""
    line = at.sight.line(at.pixel)
    across = d - (d @ line.direction) * line.direction
    size = float(across @ across)
    return 0.0 if size < 1e-9 else float((line.origin - origin) @ across) / size
