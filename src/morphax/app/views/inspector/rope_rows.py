"""The rows below the heading Rope. No Qt here."""

from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import VARIES, Row, body_value
from morphax.app.views.inspector.rule_rows import RuleRows
from morphax.core.body.rope_lay import WEAVES, Rope
from morphax.core.body.rope_tubes import laid
from morphax.project.edits.ropes import set_rope
from morphax.project.units import format_length

_ROPES = RuleRows("rope", Rope(), lambda recipe: recipe.rope, set_rope)


def _rope(ws: Workspace) -> Rope | None:
    run = ws.chosen.run
    return None if run is None else run.recipe.rope


def is_rope(ws: Workspace) -> bool:
    return _rope(ws) is not None


def rope_words(ws: Workspace) -> str:
    """How it is laid, in a few words."""
    rope, path = _rope(ws), ws.chosen.path
    length = body_value(ws, lambda b: b.length)
    if rope is None or path is None or not length:
        return ""
    width = body_value(ws, lambda b: b.width)
    it = laid(rope, length, 0.5 * width, closed=path.closed)
    far = format_length(abs(it.pitch), unit=ws.project.unit)
    return f"{rope.strands} strands, {'a turn' if rope.weave != 'flat' else 'a swing'} each {far}"


def _read_lay(ws: Workspace) -> Any:
    """The lay length or the turns, as typed; where neither is, the lay length that is usual."""
    both = [_ROPES.read(ws, name) for name in ("lay", "turns")]
    if any(v is VARIES for v in both):
        return VARIES
    lay, turns = both
    if turns is not None:
        return ("turns", turns)
    rope, width = _rope(ws), body_value(ws, lambda b: b.width)
    if lay is None and rope is not None and width:
        lay = rope.usual_lay * width
    return None if lay is None else ("lay", lay)


def _write_lay(ws: Workspace, value: tuple[str, float]) -> None:
    way, number = value
    _ROPES.set(ws, f"Set the {'lay length' if way == 'lay' else 'turns'}", **{way: float(number)})


def _has_yarns(ws: Workspace) -> bool:
    return _ROPES.read(ws, "yarns") not in (1, None)


def _has_room(ws: Workspace) -> bool:
    rope = _rope(ws)
    return rope is not None and rope.has_room


_WEAVES = tuple((weave, weave if weave == "laid" else word) for weave, (_, _, word) in WEAVES.items())


def _set_weave(ws: Workspace, weave: str) -> None:
    """Another weave; strands that it can't have become the next number that it can."""
    rope = _rope(ws)
    if rope is None:
        return
    least, most, _ = WEAVES[weave]
    strands = min(max(rope.strands, least), most)
    _ROPES.set(ws, "Weave it otherwise", weave=weave, strands=strands + (strands % 2 if weave == "round" else 0))


ROPE = (
    Row(
        "rope.weave",
        "Strands are",
        "choice",
        lambda ws: _ROPES.read(ws, "weave"),
        lambda ws, v: _set_weave(ws, v),
        changed=lambda ws: _ROPES.read(ws, "weave") not in ("laid", None),
        reset=lambda ws: _set_weave(ws, "laid"),
        choices=lambda ws: _WEAVES,
    ),
    _ROPES.row("strands", "Strands", "count", "Set the strands"),
    Row(
        "rope.lay",
        "Lay or turns",
        "lay",
        _read_lay,
        _write_lay,
        changed=lambda ws: any(_ROPES.read(ws, name) is not None for name in ("lay", "turns")),
        reset=lambda ws: _ROPES.set(ws, "Usual lay length", lay=None, turns=None),
        hint="90 mm, or 40 turns",
    ),
    Row(
        "rope.hand",
        "Laid to the",
        "choice",
        lambda ws: {True: "left", False: "right"}.get(_ROPES.read(ws, "left")),
        lambda ws, v: _ROPES.set(ws, "Lay the other way", left=v == "left"),
        changed=lambda ws: _ROPES.read(ws, "left") is True,
        reset=lambda ws: _ROPES.set(ws, "Lay the other way", left=False),
        choices=lambda ws: (("right", "right"), ("left", "left")),
    ),
    _ROPES.row("yarns", "Yarns a strand", "count", "Set the yarns"),
    _ROPES.row(
        "yarn_lay",
        "Yarns turn",
        "factor",
        "Set the yarns' lay",
        shown=lambda ws: _ROPES.read(ws, "yarns") not in (1, None),
    ),
    Row(
        "rope.core",
        "Core strand",
        "flag",
        lambda ws: None if _rope(ws) is None else _rope(ws).has_core,  # type: ignore[union-attr]
        lambda ws, v: _ROPES.set(ws, "Core strand", core=bool(v)),
        changed=lambda ws: _ROPES.read(ws, "core") is not None,
        reset=lambda ws: _ROPES.set(ws, "Core strand", core=None),
        shown=_has_room,
    ),
    _ROPES.row("fray_start", "Frayed at start", "factor", "Fray the start"),
    _ROPES.row("fray_end", "Frayed at end", "factor", "Fray the end"),
    _ROPES.row("whipped", "Ends bound", "flag", "Bind the ends"),
)
