"""The rows below the heading Beside: what a run follows, and how many stand in a row or round an axis. No Qt here."""

from collections.abc import Callable
from typing import Any, get_args

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import Choices, Row
from morphax.project.edits import beside as edits
from morphax.project.edits.images import set_mirror
from morphax.project.model.document import Path, Place, Project, Run
from morphax.project.model.paths import BesideOf, Between, ImageOf, MirrorOf, RoundOf, RowOf
from morphax.project.things import Selection

_AXES: dict[str, Place] = {"x": (1.0, 0.0, 0.0), "y": (0.0, 1.0, 0.0), "z": (0.0, 0.0, 1.0)}
_SAME = 1e-9
Write = Callable[[Workspace, Place], None]
Shown = Callable[[Workspace], bool]


def _follows(ws: Workspace) -> MirrorOf | RowOf | RoundOf | BesideOf | None:
    path = ws.chosen.path
    run = ws.chosen.run
    are_strands = run is not None and run.like is None and run.recipe.strands is not None
    return None if path is None or are_strands else path.follows  # strands say themselves between what they run


def original(ws: Workspace) -> Run | None:
    """The run that the chosen one follows: its original, or the first that has the path beside which it runs."""
    run, follows = ws.chosen.run, _follows(ws)
    if run is None or follows is None:
        return None
    if run.like is not None:
        found: Run | None = ws.project.find("runs", run.like)
        return found
    return next((r for r in ws.project.runs if r.recipe.path == follows.path), None)


def _series(ws: Workspace, kind: type[ImageOf]) -> tuple[Any, int]:
    """One of the images in a row or round an axis of what is chosen, and how many there are with the first; None and 1
    where there are none."""
    run = ws.chosen.run
    if run is None:
        return None, 1
    there = edits.images_of(ws.project, edits.original_of(ws.project, run.id), kind)
    return (there[0][1], len(there) + 1) if there else (None, 1)


def _followers(ws: Workspace) -> str | None:
    """Who follows the chosen run."""
    run = ws.chosen.run
    names = [] if run is None else [r.show.name for r in edits.followers_of(ws.project, [run.id])]
    return f"{names[0]}{f' and {len(names) - 1} more' if names[1:] else ''}" if names else None


def has_any(ws: Workspace) -> bool:
    return (
        _follows(ws) is not None
        or _followers(ws) is not None
        or any(_series(ws, kind)[0] is not None for kind in (RowOf, RoundOf))
    )


def beside_words(ws: Workspace) -> str:
    """What it follows, or how many there are."""
    follows = _follows(ws)
    if isinstance(follows, MirrorOf):
        return "mirror image"
    if isinstance(follows, BesideOf):
        return "one of a pair" if follows.gauge is not None else "parallel"
    for kind, word in ((RowOf, "in a row"), (RoundOf, "round an axis")):
        image, count = _series(ws, kind)
        if image is not None:
            return f"{count} {word}"
    return "followed" if _followers(ws) is not None else ""


def _original_name(ws: Workspace) -> str | None:
    found = original(ws)
    return None if found is None else found.show.name


# -- mirrors ---------------------------------------------------------------------------------------


def _mirror(ws: Workspace) -> MirrorOf | None:
    follows = _follows(ws)
    return follows if isinstance(follows, MirrorOf) else None


def _axis_of(normal: Place) -> str:
    return next((a for a, way in _AXES.items() if abs(abs(float(np.dot(way, normal))) - 1.0) < _SAME), "aslant")


def _far(mirror: MirrorOf) -> float:
    """How far its plane is from the origin, along its normal, m."""
    return float(np.dot(mirror.at, mirror.normal))


def _set_mirror(ws: Workspace, axis: str | None, far: float | None) -> None:
    mirror = _mirror(ws)
    if mirror is None or axis == "aslant":
        return
    normal = mirror.normal if axis is None else _AXES[axis]
    now = _far(mirror) if far is None else far
    x, y, z = (now * v for v in normal)
    paths = [p.id for p in _paths(ws) if isinstance(p.follows, MirrorOf)]

    def change(project: Any) -> Any:
        for path_id in paths:
            project = set_mirror(project, path_id, (x, y, z), normal)
        return project

    ws.attempt("Move the mirror", change)


def _paths(ws: Workspace) -> list[Path]:
    """The paths of the chosen runs."""
    found = {r.recipe.path for i in ws.chosen.run_ids if (r := ws.project.find("runs", i)) is not None}
    return [p for p in ws.project.paths if p.id in found]


def _axis_choices(now: str | None, words: str, aslant: str) -> Choices:
    """The world axes, as ``words`` say them; and what is ``aslant``, where it is so now."""
    more: Choices = (("aslant", aslant),) if now == "aslant" else ()
    return (*((a, words.format(a)) for a in _AXES), *more)


def _across(ws: Workspace) -> str | None:
    mirror = _mirror(ws)
    return None if mirror is None else _axis_of(mirror.normal)


_MIRROR = (
    Row(
        "beside.across",
        "Mirrored across",
        "choice",
        _across,
        lambda ws, v: _set_mirror(ws, v, None),
        choices=lambda ws: _axis_choices(_across(ws), "{} = …", "a plane aslant"),
        shown=lambda ws: _mirror(ws) is not None,
    ),
    Row(
        "beside.plane",
        "Plane at",
        "length",
        lambda ws: None if _mirror(ws) is None else _far(_mirror(ws)),  # type: ignore[arg-type]
        lambda ws, v: _set_mirror(ws, None, float(v)),
        shown=lambda ws: _mirror(ws) is not None,
    ),
)


# -- beside ----------------------------------------------------------------------------------------


def _beside(ws: Workspace) -> BesideOf | None:
    follows = _follows(ws)
    return follows if isinstance(follows, BesideOf) else None


def _set_beside(ws: Workspace, label: str, *, both: bool = False, **changes: Any) -> None:
    """Changes how the chosen runs lie beside; ``both`` of a pair."""
    paths = [p for p in _paths(ws) if isinstance(p.follows, BesideOf)]
    ids = list(dict.fromkeys(i for p in paths for i in (edits.pair_of(ws.project, p) if both else (p.id,))))
    if ids:
        ws.attempt(label, lambda p: edits.set_beside(p, ids, **changes))


def _is_pair(ws: Workspace) -> bool:
    beside = _beside(ws)
    return beside is not None and beside.gauge is not None


def _is_beside(ws: Workspace) -> bool:
    return _beside(ws) is not None


def _beside_row(field: str, label: str, kind: str, said: str, *, both: bool = True, **more: Any) -> Row:
    """A value of how it lies beside; ``both``: of both of a pair."""
    return Row(
        f"beside.{field}",
        label,
        kind,
        lambda ws: getattr(_beside(ws), field, None),
        lambda ws, v: _set_beside(ws, said, both=both, **{field: v if kind == "choice" else float(v)}),
        **more,
    )


_BETWEEN: Choices = tuple((w, w) for w in get_args(Between))
_BESIDE = (
    _beside_row("gauge", "Gauge", "length", "Set the gauge", shown=_is_pair),
    _beside_row("between", "Between", "choice", "Set the gauge", choices=lambda ws: _BETWEEN, shown=_is_pair),
    _beside_row(
        "side",
        "To the right",
        "length",
        "Set the distance",
        both=False,
        shown=lambda ws: _is_beside(ws) and not _is_pair(ws),
    ),
    _beside_row("up", "Up", "length", "Set the height", shown=_is_beside),
)


# -- rows and rounds -------------------------------------------------------------------------------


def _set_row(ws: Workspace, count: int | None = None, step: Place | None = None) -> None:
    image, now = _series(ws, RowOf)
    if image is not None:
        number, far = count or now, step or image.step
        _in_series(ws, "Set the row", lambda p, ids: edits.set_row(p, ids, number, far).project)


def _in_series(ws: Workspace, label: str, change: Callable[[Project, tuple[str, ...]], Project]) -> None:
    """Changes a row or round; where the chosen ones go, the first is chosen."""
    ids = tuple(dict.fromkeys(edits.original_of(ws.project, i) for i in ws.chosen.run_ids))
    if ws.attempt(label, lambda p: change(p, ids)) and not ws.selection.runs:
        ws.select(Selection.of(ids))


def _coordinate_row(kind: type[ImageOf], field: str, words: str, axis: int, write: Write, shown: Shown) -> Row:
    """One coordinate of a value of a row or round."""

    def read(ws: Workspace) -> Any:
        image, _ = _series(ws, kind)
        return None if image is None else getattr(image, field)[axis]

    def changed(ws: Workspace, value: float) -> None:
        image, _ = _series(ws, kind)
        if image is not None:
            x, y, z = (float(value) if i == axis else v for i, v in enumerate(getattr(image, field)))
            write(ws, (x, y, z))

    name = "xyz"[axis]
    return Row(f"beside.{field}-{name}", f"{words} {name}", "length", read, changed, shown=shown)


def _is_row(ws: Workspace) -> bool:
    return _series(ws, RowOf)[0] is not None


def _is_round(ws: Workspace) -> bool:
    return _series(ws, RoundOf)[0] is not None


def _is_across(axis: int) -> Shown:
    """Whether runs stand round an axis that doesn't go along a world axis."""
    return lambda ws: _is_round(ws) and abs(_series(ws, RoundOf)[0].axis[axis]) < 1.0 - _SAME


def _set_round(ws: Workspace, count: int | None = None, **changes: Any) -> None:
    """Other values of a round; one that goes all round goes on to do so with another number."""
    image, now = _series(ws, RoundOf)
    if image is None:
        return
    number = count or now
    own = {"at": image.at, "axis": image.axis, "angle": image.angle}
    if abs(image.angle - edits.all_round(now)) < _SAME:
        own["angle"] = edits.all_round(number)
    own |= changes
    _in_series(ws, "Set the round", lambda p, ids: edits.set_round(p, ids, number, **own).project)


def _round_axis(ws: Workspace) -> str | None:
    image, _ = _series(ws, RoundOf)
    return None if image is None else _axis_of(image.axis)


def _is_part_round(ws: Workspace) -> bool:
    """Whether they don't stand all round."""
    image, count = _series(ws, RoundOf)
    return image is not None and abs(image.angle - edits.all_round(count)) > _SAME


_SERIES = (
    Row(
        "beside.row",
        "In a row",
        "count",
        lambda ws: _series(ws, RowOf)[1],
        lambda ws, n: _set_row(ws, count=int(n)),
        shown=_is_row,
    ),
    *(_coordinate_row(RowOf, "step", "Apart in", i, lambda ws, v: _set_row(ws, step=v), _is_row) for i in range(3)),
    Row(
        "beside.round",
        "Round an axis",
        "count",
        lambda ws: _series(ws, RoundOf)[1],
        lambda ws, n: _set_round(ws, int(n)),
        shown=_is_round,
    ),
    Row(
        "beside.angle",
        "Each turned by",
        "angle",
        lambda ws: getattr(_series(ws, RoundOf)[0], "angle", None),
        lambda ws, v: _set_round(ws, angle=float(v)),
        changed=_is_part_round,
        reset=lambda ws: _set_round(ws, angle=edits.all_round(_series(ws, RoundOf)[1])),
        shown=_is_round,
    ),
    Row(
        "beside.axis",
        "Axis along",
        "choice",
        _round_axis,
        lambda ws, v: _set_round(ws, axis=_AXES[v]) if v in _AXES else None,
        choices=lambda ws: _axis_choices(_round_axis(ws), "{}", "aslant"),
        shown=_is_round,
    ),
    *(
        _coordinate_row(RoundOf, "at", "Axis at", i, lambda ws, v: _set_round(ws, at=v), _is_across(i))
        for i in range(3)
    ),
)

BESIDE = (
    Row("beside.of", "Follows", "plain", _original_name, shown=lambda ws: original(ws) is not None),
    Row("beside.by", "Followed by", "plain", _followers, shown=lambda ws: _followers(ws) is not None),
    *_MIRROR,
    *_BESIDE,
    *_SERIES,
)
