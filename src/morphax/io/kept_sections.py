"""The user's own sections on the disk: one SVG file for each, that any program can open; its anchor stands in it."""

import re
from pathlib import Path
from xml.etree import ElementTree

from morphax.core.section.sections import anchor_place, section_bounds
from morphax.io.errors import FileError
from morphax.io.outline_files import read_section
from morphax.io.section_export import write_section
from morphax.project.lookup import outline_source, section_shape
from morphax.project.model.document import OutlineSource, Section, evolve

_MILLIMETRES = 1e3
_ANCHOR, _LAID = "data-anchor", "data-laid"
"""Where the anchor lies beside the lower left corner, mm; orientation, outward side and corner style."""
_MOST_LETTERS = 80
_KNOWN: dict[Path, tuple[float, OutlineSource]] = {}
"""What was read, by file, with the time at which that was changed."""


def keep_section(folder: Path, section: Section) -> Path:
    """Writes a section into a folder; one of the same name is replaced. Raises FileError."""
    shape = section_shape(section)
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"{folder} could not be made: {error.strerror or error}") from error
    file = folder / f"{_plain(section.name)}.svg"
    (x, y), (x0, y0, *_) = anchor_place(shape, shape.laying.anchor), section_bounds(shape)
    beside = f"{(x - x0) * _MILLIMETRES:.12g} {(y - y0) * _MILLIMETRES:.12g}"
    laid = "; ".join((shape.laying.orientation, shape.laying.side, shape.laying.corner))
    write_section(file, section.name, shape, marks={_ANCHOR: beside, _LAID: laid})
    return file


def kept_sections(folder: Path) -> dict[str, OutlineSource]:
    """The sections of a folder by name; files that hold none are left out. Each is read once, until it changes."""
    out = {}
    for file in sorted(folder.glob("*.svg")) if folder.is_dir() else ():
        try:
            changed = file.stat().st_mtime
            known = _KNOWN.get(file)
            if known is None or known[0] != changed:
                _KNOWN[file] = known = (changed, _read(file))
            out[file.stem] = known[1]
        except (FileError, OSError):
            continue  # another program's file, or gone meanwhile: it is no section of the stock
    return out


def forget_section(folder: Path, name: str) -> None:
    """Takes a section's file away. Raises FileError."""
    try:
        (folder / f"{name}.svg").unlink(missing_ok=True)
    except OSError as error:
        raise FileError(f"{name}.svg could not be removed: {error.strerror or error}") from error


def _read(file: Path) -> OutlineSource:
    shape, _ = read_section(file)
    source = outline_source(file.stem, shape)
    marks = next((e.attrib for e in ElementTree.parse(file).iter() if e.get(_ANCHOR)), None)
    if marks is None:
        return source  # a file of another program
    try:
        x, y = (float(v) / _MILLIMETRES for v in marks[_ANCHOR].split())
        orientation, side, corner = marks[_LAID].split("; ")
        x0, y0, *_ = section_bounds(shape)
        return evolve(source, anchor=(x0 + x, y0 + y), orientation=orientation, side=side, corner=corner)
    except (ValueError, KeyError):
        return source  # marks that somebody changed: the outline is right all the same


def _plain(name: str) -> str:
    """A name that a file can have."""
    return re.sub(r"[^\w .()+-]", "_", name).strip(" .")[:_MOST_LETTERS] or "Section"
