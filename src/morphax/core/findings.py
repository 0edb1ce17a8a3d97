"""Findings: the results of checks, in plain sentences."""

from dataclasses import dataclass
from enum import StrEnum

from morphax.core.types import Floats


class Severity(StrEnum):
    """How bad a finding is: an error leaves the body empty, a warning does not, a note only tells."""

    NOTE = "note"
    WARNING = "warning"
    ERROR = "error"


@dataclass(frozen=True)
class Finding:
    """One result of a check.

    ``code`` stable name; ``at`` distance along the path, m, or None; ``free_width`` the largest width without
    the fault, m, where there is one; ``place`` (x, y, z) in m for marking, where there is one.
    """

    code: str
    severity: Severity
    message: str
    at: float | None = None
    free_width: float | None = None
    place: tuple[float, float, float] | None = None


def has_errors(findings: tuple[Finding, ...]) -> bool:
    return any(f.severity is Severity.ERROR for f in findings)


def in_mm(metres: float) -> str:
    """A length for a sentence: millimetres with the digits that matter."""
    mm = metres * 1e3
    text = f"{mm:.0f}" if abs(mm) >= 100 else f"{mm:.3g}"
    return f"{text} mm"


def spot(p: Floats) -> tuple[float, float, float]:
    """A place (3,) as a finding keeps it, m."""
    return (float(p[0]), float(p[1]), float(p[2]))
