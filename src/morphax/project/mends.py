"""Mends: one-click cures of findings, each a pure function from a project to a project."""

from collections.abc import Callable
from dataclasses import dataclass
from math import floor, log10

import numpy as np

from morphax.core.checks import doubled_knots
from morphax.core.findings import Finding, in_mm
from morphax.project.edits import set_width
from morphax.project.lookup import path_of, path_shape
from morphax.project.model import Project
from morphax.project.path_edits import remove_knots


@dataclass(frozen=True)
class Mend:
    """A cure: what it says, and what it does."""

    label: str
    apply: Callable[[Project], Project]


def mends_of(run_id: str, finding: Finding) -> tuple[Mend, ...]:
    """The mends of a run's finding; empty where there is none."""
    if finding.code == "doubled-knots":
        return (Mend("Weld them", lambda p: weld(p, run_id)),)
    if finding.code == "hook":
        return (Mend("Remove the knot", lambda p: remove_nearest(p, run_id, finding)),)
    if finding.free_width is not None:
        width = rounded_down(0.995 * finding.free_width)
        return (Mend(f"Width to {in_mm(width)}", lambda p: set_width(p, [run_id], width)),)
    return ()


def weld(project: Project, run_id: str) -> Project:
    """Removes all knots that lie where the one before them is."""
    path = path_of(project, run_id)
    gone = doubled_knots(path_shape(path))
    return remove_knots(project, path.id, [k.id for k, g in zip(path.knots, gone, strict=True) if g]).project


def remove_nearest(project: Project, run_id: str, finding: Finding) -> Project:
    """Removes the knot at a finding's place."""
    path = path_of(project, run_id)
    places = np.array([k.place for k in path.knots])
    nearest = int(np.argmin(((places - np.array(finding.place)) ** 2).sum(1)))
    return remove_knots(project, path.id, [path.knots[nearest].id]).project


def rounded_down(width: float) -> float:
    """Down to three digits, so that the field shows a plain number."""
    step = 10.0 ** (floor(log10(width)) - 2)
    return floor(width / step + 1e-9) * step
