"""How the stock is ordered: racks, and the groups of their entries."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from types import MappingProxyType

from morphax.core.pieces.forms import FORMS
from morphax.core.section.ready_made import READY_MADE
from morphax.core.section.sampling import section_width
from morphax.project.edits.presets import Preset
from morphax.project.edits.runs import Source, is_ready
from morphax.project.lookup import source_shape
from morphax.project.model.document import OutlineSource, Project, ReadyMadeSource, Section
from morphax.project.ready_looks import READY_LOOKS, ReadyLook
from morphax.project.units import format_length

SECTIONS, PIECES, LOOKS, PRESETS = "sections", "pieces", "looks", "presets"
RACKS = {SECTIONS: "Sections", PIECES: "Pieces", LOOKS: "Looks", PRESETS: "Presets"}
"""What stands in the stock: a new rack is a new row, with entries of its own."""
GROUPS = {
    "Rounds": ("round", "pipe", "ellipse", "twin", "bundle"),
    "Plates": ("rectangle", "rounded-rectangle", "strip", "polygon", "star", "flute", "gear", "leaf", "heart", "drop"),
    "Mouldings": ("crown", "ogee", "cove", "skirting", "quarter-round", "half-round", "picture-frame"),
    "Bars": ("i", "t", "channel", "angle"),
    "Rails and gutters": ("rail", "handrail", "box-gutter", "half-round-gutter", "ogee-gutter"),
}
"""Ready-made sections by what they are for; a new one needs a place here."""
OWN, KEPT, LOOK, DRAW, PIECE = "Own", "Kept", "look:", "draw-one", "piece:"
PIECE_GROUPS = {
    "Beads": ("bead", "ball", "cone", "stud"),
    "Chains and rings": ("link", "ring", "clip"),
    "Blocks and bars": ("block", "box", "plank", "rod", "bracket"),
}
"""Ready-made pieces by what they are for; a new one needs a place here."""
_WIDTH = 0.02
_PICTURE_VALUES = {
    "pipe": {"wall": 0.2},
    "ellipse": {"height": 0.6},
    "rounded-rectangle": {"height": 0.7},
    "flute": {"flutes": 12.0, "depth": 1.0},
    "gear": {"teeth": 10.0},
    "skirting": {"height": 3.0},
    "i": {"web": 0.16, "flange": 0.2},
    "t": {"web": 0.2, "flange": 0.2},
    "channel": {"web": 0.22, "flange": 0.24},
    "angle": {"wall": 0.2},
    "box-gutter": {"wall": 0.08, "lip": 0.2},
    "half-round-gutter": {"wall": 0.08},
    "ogee-gutter": {"wall": 0.06},
}
"""Values of small pictures, so that they are told apart at a glance."""


@dataclass(frozen=True, eq=False)
class Entry:
    """One thing of the stock: key, rack and group; what its tile says; the section, piece or look in its picture;
    ``width`` m of a preset."""

    key: str
    rack: str
    group: str
    title: str
    about: str
    source: Source | None
    width: float | None = None
    look: ReadyLook | None = None
    piece: str | None = None


def entries(
    project: Project, presets: tuple[Preset, ...], kept: Mapping[str, OutlineSource] = MappingProxyType({})
) -> list[Entry]:
    """All that is in the stock, rack by rack and group by group."""
    own = own_sections(project)
    return [
        Entry(DRAW, SECTIONS, OWN, "Draw one", "an outline of your own, on the section board", None),
        *(Entry(f"section:{s.id}", SECTIONS, OWN, s.name, "a section of your own", s.source) for s in own),
        *(Entry(f"kept:{n}", SECTIONS, KEPT, n, "a section that you keep on the disk", s) for n, s in kept.items()),
        *(_ready(name, group) for group, names in GROUPS.items() for name in names),
        *(
            Entry(
                f"{PIECE}{name}",
                PIECES,
                group,
                FORMS[name].title,
                f"{FORMS[name].said}, repeated along it",
                None,
                piece=name,
            )
            for group, names in PIECE_GROUPS.items()
            for name in names
        ),
        *(
            Entry(f"{LOOK}{look.name}", LOOKS, group, look.name, "a look for runs and hosts", None, look=look)
            for group, looks in READY_LOOKS.items()
            for look in looks
        ),
        *(
            Entry(f"preset:{p.name}", PRESETS, "", p.name, "a whole run but its path", p.source, p.width)
            for p in presets
        ),
    ]


def values_of(entry: Entry, unit: str, width: float | None) -> str:
    """The values of an entry, as fields show them; of a ready-made section those at a ``width``, m, or its usual one.

    Measuring a section of thousands of lines takes its time: only one is asked for, when it is pointed at.
    """
    if entry.key == DRAW:
        return "lines, arcs, curves and shapes, by hand and by numbers"
    if entry.look is not None:
        return f"{entry.look.colour} · rough {entry.look.roughness:g} · metal {entry.look.metal:g}"
    if entry.piece is not None:
        return "a click sets it along the chosen runs, or between two of them"
    if entry.source is None or entry.key in READY_MADE:
        return _values(entry.key, unit, width)
    own = section_width(source_shape(entry.source)) if entry.width is None else entry.width
    return f"{format_length(own, unit=unit)} wide"


def own_sections(project: Project) -> list[Section]:
    """Sections of a project that are not ready-made."""
    return [s for s in project.sections if not is_ready(s)]


@cache
def _ready(name: str, group: str) -> Entry:
    made = READY_MADE[name]
    shown = ReadyMadeSource(name=name, values=tuple(({"width": 1.0} | _PICTURE_VALUES.get(name, {})).items()))
    return Entry(name, SECTIONS, group, made.title, made.about, shown)


def _values(name: str, unit: str, width: float | None) -> str:
    """The values that a ready-made section has at a width, as its fields show them."""
    parts, own = [], width or READY_MADE[name].laying.width or _WIDTH
    for key, rule in READY_MADE[name].keys.items():
        if rule.count is not None:
            parts.append(f"{rule.count} {key}")
        elif rule.number is not None:
            parts.append(f"{key} {rule.number:g}")
        else:
            parts.append(f"{key} {format_length(rule.share * own, unit=unit)}")
    return " · ".join(parts)
