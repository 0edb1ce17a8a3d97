"""How the stock is ordered: racks, and the groups of their entries."""

from dataclasses import dataclass

from morphax.core.section.ready_made import READY_MADE
from morphax.core.section.sampling import section_width
from morphax.project.edits.presets import Preset
from morphax.project.edits.runs import Source, is_ready
from morphax.project.lookup import section_shape
from morphax.project.model.document import Project, ReadyMadeSource, Section
from morphax.project.units import format_length

SECTIONS, PRESETS = "sections", "presets"
RACKS = {SECTIONS: "Sections", PRESETS: "Presets"}
"""What stands in the stock: a new rack is a new row, with entries of its own."""
GROUPS = {
    "Rounds": ("round", "pipe", "ellipse"),
    "Plates": ("rectangle", "rounded-rectangle", "polygon", "star"),
    "Mouldings": ("crown", "ogee", "half-round"),
}
"""Ready-made sections by what they are for; a new one needs a place here."""
OWN = "Own"
_WIDTH = 0.02
_PICTURE_VALUES = {"pipe": {"wall": 0.2}, "ellipse": {"height": 0.6}, "rounded-rectangle": {"height": 0.7}}


@dataclass(frozen=True, eq=False)
class Entry:
    """One thing of the stock: key, rack and group; what its tile and preview say; the section in its picture."""

    key: str
    rack: str
    group: str
    title: str
    about: str
    values: str
    source: Source


def entries(project: Project, presets: tuple[Preset, ...], width: float | None) -> list[Entry]:
    """All that is in the stock, rack by rack and group by group. ``width``: that of the next run, m, if it has one."""
    out = [_ready(name, group, project.unit, width) for group, names in GROUPS.items() for name in names]
    for s in own_sections(project):
        values = f"{format_length(section_width(section_shape(s)), unit=project.unit)} wide"
        out.append(Entry(f"section:{s.id}", SECTIONS, OWN, s.name, "a section from a file", values, s.source))
    for p in presets:
        values = f"{format_length(p.width, unit=project.unit)} wide"
        out.append(Entry(f"preset:{p.name}", PRESETS, "", p.name, "a whole run but its path", values, p.source))
    return out


def own_sections(project: Project) -> list[Section]:
    """Sections of a project that are not ready-made."""
    return [s for s in project.sections if not is_ready(s)]


def _ready(name: str, group: str, unit: str, width: float | None) -> Entry:
    made = READY_MADE[name]
    shown = ReadyMadeSource(name=name, values=tuple(({"width": 1.0} | _PICTURE_VALUES.get(name, {})).items()))
    return Entry(name, SECTIONS, group, made.title, made.about, _values(name, unit, width), shown)


def _values(name: str, unit: str, width: float | None) -> str:
    """The values that a ready-made section has at a width, as its fields show them."""
    parts, own = [], width or READY_MADE[name].laying.width or _WIDTH
    for key, rule in READY_MADE[name].keys.items():
        if rule.count is not None:
            parts.append(f"{rule.count} {key}")
        elif rule.number is not None:
            parts.append(f"{key} {rule.number:g}")
        else:
            parts.append(f"{key} {format_length(rule.share * own, unit=unit, decimals=1)}")
    return " · ".join(parts)
