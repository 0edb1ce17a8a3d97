"""What is said of a set of pieces: which form, where its pieces stand along a run, and how they lie there."""

from dataclasses import dataclass, field
from math import isfinite, pi
from typing import Literal

from morphax.core.errors import PathError
from morphax.core.pieces.forms import Axis, piece_form
from morphax.core.pieces.spreads import Spread

_STRICT = {"extra": "forbid", "allow_inf_nan": False}
Match = Literal["share", "nearest", "upright"]
MOST_OUT = 10_000
MOST_ROUND = 1000
"""So many pieces may stand round a run at one place."""


@dataclass(frozen=True)
class PiecePlacing:
    """The piece's ``axis`` runs along the path; z, or for that x, goes up, or y where z runs along.

    ``on`` the path, the middle of the section there, its outline, or the box round it, at ``around``, rad from right
    towards up, with ``times`` of them evenly round it; there they stand outwards. ``turn`` rad about the path, from
    right towards up (on the outline about the way outwards, from forward to the right), and ``alternate`` more at every
    other one; ``side`` and ``lift`` m; ``size`` a factor; every other one ``mirrored``; ``upright``, whatever the path
    does. Jitter is of the place, m, the turn, rad, and the size, a share, by a ``seed``: a piece keeps its own when
    others come and go.
    """

    axis: Axis = "x"
    on: Literal["path", "middle", "outline", "box"] = "path"
    around: float = 0.5 * pi
    times: int = 1
    turn: float = 0.0
    alternate: float = 0.0
    side: float = 0.0
    lift: float = 0.0
    size: float = 1.0
    mirrored: bool = False
    upright: bool = False
    place_jitter: float = 0.0
    turn_jitter: float = 0.0
    size_jitter: float = 0.0
    seed: int = 0

    __pydantic_config__ = _STRICT

    @property
    def is_outside(self) -> bool:
        """Whether pieces stand on the section, with as many as there are round it."""
        return self.on in ("outline", "box")

    def __post_init__(self) -> None:
        if self.axis not in ("x", "y", "z"):
            raise PathError(f"a piece has no axis {self.axis!r}; there are x, y and z")
        if self.on not in ("path", "middle", "outline", "box"):
            raise PathError(f"a piece sits on the path, the middle, the outline or the box, not on {self.on!r}")
        if not 1 <= self.times <= MOST_ROUND:
            raise PathError(f"there are {self.times} pieces round the run; there may be 1 to {MOST_ROUND}")
        numbers = (
            self.around,
            self.turn,
            self.alternate,
            self.side,
            self.lift,
            self.size,
            self.place_jitter,
            self.turn_jitter,
        )
        if not all(isfinite(v) and abs(v) < 1e7 for v in numbers):
            raise PathError("a piece's turn, offset or jitter is no number")
        if not 0.0 < self.size <= 1e4:
            raise PathError(f"a piece's size is {self.size:g}; it must be more than 0")
        if not 0.0 <= self.size_jitter < 1.0:
            raise PathError(f"the jitter of sizes is {self.size_jitter:g}; it is a share, below 1")


@dataclass(frozen=True)
class PieceRule:
    """One form all along a run: its name, those of its ``values``, m, that are not as usual, where its pieces stand,
    and how. Between two runs ``match`` says which places of the other one belong to those of the first: those at the
    same share of the length, the nearest, or those right above or below. ``out``: shares of the length at which no
    piece is wanted; it is the one nearest to it that is left out, however many there are."""

    form: str = "bead"
    values: tuple[tuple[str, float], ...] = ()
    spread: Spread = field(default_factory=Spread)
    placing: PiecePlacing = field(default_factory=PiecePlacing)
    match: Match = "share"
    out: tuple[float, ...] = ()

    __pydantic_config__ = _STRICT

    def __post_init__(self) -> None:
        _check_alone(self.form, self.values)
        if len(self.out) > MOST_OUT or not all(0.0 <= share <= 1.0 for share in self.out):
            raise PathError(f"up to {MOST_OUT} pieces are left out, each at a share of the length")
        if self.match not in ("share", "nearest", "upright"):
            raise PathError(f"pieces between runs match by share, nearest or upright, not by {self.match!r}")


def _check_alone(form: str, values: tuple[tuple[str, float], ...]) -> None:
    """Typed sizes by themselves: whether they fit each other is known where the piece sits."""
    keys = piece_form(form).keys
    for key, value in values:
        if key not in keys:
            raise PathError(f"a {form} has no {key}; it has: {', '.join(keys)}")
        if not 0.0 < value <= 1e6:
            raise PathError(f"a {form}'s {key} is {value:g}; it must be more than 0")


def between_rule(form: str) -> PieceRule:
    """What a form is when it is first set between two runs: from path to path, as its axes say."""
    own = usual_rule(form)
    factor = _APART.get(form, own.spread.factor)
    placing = PiecePlacing(own.placing.axis, alternate=own.placing.alternate)
    return PieceRule(form, (), Spread(factor=factor), placing)


_APART = {"rod": 6.0, "box": 2.0, "ball": 1.0}
"""Of its size along the path: from one piece between two runs to the next, where that is not as along one."""


def usual_rule(form: str) -> PieceRule:
    """What a form is when it is first set on a run: it fills it, on its usual seat."""
    own = piece_form(form)
    placing = PiecePlacing(
        own.axis, "middle" if own.around is None else "box" if own.is_below else "outline", own.around or 0.5 * pi,
        alternate=own.alternate,
    )  # fmt: skip
    return PieceRule(form, (), Spread(factor=own.factor), placing)
