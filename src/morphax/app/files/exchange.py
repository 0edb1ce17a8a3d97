"""Paths and sections in and out of the window: files, the clipboard, things dropped on it."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path

from PySide6.QtWidgets import QApplication, QFileDialog, QWidget

from morphax.app.actions import commands
from morphax.app.actions.desk import Desk
from morphax.app.files.host_files import is_host_file
from morphax.app.files.picture_files import take_picture
from morphax.app.views import pictures
from morphax.app.views.pictures import ENDINGS as PICTURES
from morphax.core.path.paths import PathKind, PathShape, path_from_points
from morphax.core.section.sampling import section_width
from morphax.core.types import Floats
from morphax.io.errors import FileError
from morphax.io.outline_files import read_section
from morphax.io.path_csv import read_knot_columns
from morphax.io.path_export import NamedPath, write_paths
from morphax.io.path_files import ENDINGS, read_paths
from morphax.io.path_spans import path_from_spans
from morphax.io.reading import read_within
from morphax.io.section_export import write_section
from morphax.io.svg import drawing_from, lifted
from morphax.io.table import read_table
from morphax.project.edits.path_import import add_runs_along
from morphax.project.edits.runs import NewRun, add_section, set_section
from morphax.project.lookup import outline_source, section_of, section_shape
from morphax.project.model.document import Section
from morphax.project.things import Selection
from morphax.project.units import format_length

_MOST_LOOKED_AT = 1 << 30


def _holds_lines_only(file: Path) -> bool:
    """Whether an OBJ file holds paths, not faces."""
    if file.suffix.lower() != ".obj":
        return False
    try:
        data = read_within(file, _MOST_LOOKED_AT)
    except FileError:
        return False  # the reader of models says why
    return b"\nl " in data and b"\nf " not in data


class Exchange:
    """The window's dealings with path and section files and the clipboard."""

    def __init__(self, window: Desk, parent: QWidget) -> None:
        self.window, self.parent, self.workspace = window, parent, window.workspace

    def take_sections(self, files: Sequence[Path]) -> None:
        """Sections of several files."""
        for file in files:
            self.take_section(file)

    def bring_in_picture(self) -> None:
        name = self.ask("Bring in a picture", f"Pictures (*{' *'.join(PICTURES)})")
        if name:
            take_picture(self.window, Path(name))

    def bring_in_paths(self) -> None:
        name = self.ask("Bring in paths", f"Paths (*{' *'.join(ENDINGS)})")
        if name:
            self.take_paths(Path(name))

    def take_paths(self, file: Path) -> None:
        """A run of the next kind on each path of a file."""
        unit = self.workspace.project.unit

        def add() -> None:
            values = read_knot_columns(file) if file.suffix.lower() == ".csv" else {}
            self._add(read_paths(file, kind=PathKind.THROUGH, unit=unit), f"Bring in {file.name}", values)

        self._try(add)

    def _add(self, shapes: tuple[PathShape, ...], label: str, values: Mapping[str, Floats] | None = None) -> None:
        ws = self.workspace
        self.window.toolbox.finish()  # a drop may come in mid-drawing
        added = add_runs_along(ws.project, shapes, ws.bench.next_run, values)
        ws.edit(label, added.project, Selection.of(added.ids))
        self.window.frame(chosen=True)
        count = len(added.ids)
        self.window.say(f"{count} path{'s' if count != 1 else ''} came in, each with a run on it.")

    def bring_in_section(self) -> None:
        name = self.ask("Bring in a section", "Sections (*.svg *.dxf)")
        if name:
            self.take_section(Path(name))

    def take_section(self, file: Path) -> None:
        """The section of the next run, and of the runs that are chosen, at the width that they have."""
        self._try(lambda: self._use_section(file))

    def _use_section(self, file: Path) -> None:
        ws = self.workspace
        shape, left = read_section(file, unit=ws.project.unit)
        source = outline_source(file.stem, shape)
        runs, width = ws.selection.runs, section_width(shape)
        label = "Change the section" if runs else "Bring in a section"
        if not ws.attempt(label, lambda p: set_section(p, runs, source) if runs else add_section(p, source)):
            return  # why not is said already
        ws.bench.set_next_run(NewRun(source, width, look=ws.bench.next_run.look))
        size = format_length(width, unit=ws.project.unit)
        said = f"{file.stem} is the next run's section, {size} wide as it was drawn."
        if runs:
            name = ws.chosen.run.show.name if len(runs) == 1 and ws.chosen.run is not None else f"{len(runs)} runs"
            said = (
                f"The section of {name} is {file.stem} now, at the width that was there; the next run's is {size} wide."
            )
        self.window.say(f"{said} Left out: {', '.join(left)}." if left else said)

    def write_section(self) -> None:
        """The section on the board, else the chosen run's, as large as on the body."""
        ws = self.workspace
        run = ws.chosen.run
        section = ws.board.on.entity if ws.board.is_open else None if run is None else section_of(ws.project, run.id)
        if section is None:
            return
        size = ws.board.sight.grow if ws.board.is_open else 1.0 if run is None else run.recipe.size
        name = self.ask("Write the section", "SVG (*.svg);;DXF (*.dxf)", save=True)
        if name:
            self._try(lambda: self._write_section(Path(name), section, size))

    def _write_section(self, file: Path, section: Section, size: float) -> None:
        unit = self.workspace.project.unit
        write_section(file, section.name, section_shape(section), scale=size, unit=unit)
        self.window.say(f"Wrote {file.name}.")

    def take_files(self, files: list[Path]) -> None:
        """Files dropped on the window: projects are opened, models become hosts, pictures guides, others paths."""
        for file in files:
            if file.suffix.lower() == ".morphax":
                if self.window.files.may_leave():
                    self.window.files.open_file(file)
            elif file.suffix.lower() in pictures.ENDINGS:
                take_picture(self.window, file)
            elif is_host_file(file) and not _holds_lines_only(file):
                self.window.host_files.bring_in(file)
            else:
                self.take_paths(file)

    def write_chosen_paths(self) -> None:
        name = self.ask("Write paths", "SVG (*.svg);;DXF (*.dxf);;OBJ lines (*.obj);;Knots as CSV (*.csv)", save=True)
        if name:
            self._try(lambda: self.write_to(Path(name)))

    def write_to(self, file: Path) -> None:
        ws = self.workspace
        named = [
            NamedPath(r.show.name, built.path.resolved)
            for r in ws.project.runs
            if r.id in ws.selection.runs and (built := ws.bodies.get(r.id)) is not None and built.path.resolved
        ]
        write_paths(file, named, unit=ws.project.unit)
        self.window.say(f"Wrote {file.name}.")

    def copy_knots(self) -> None:
        QApplication.clipboard().setText(commands.knots_as_text(self.workspace))
        self.window.say("Copied the knots as a table; a spreadsheet takes it.")

    def paste(self) -> None:
        """A table of places, or SVG, becomes a run of the next kind."""
        text = QApplication.clipboard().text()
        self._try(lambda: self._paste(text))

    def _paste(self, text: str) -> None:
        unit = self.workspace.project.unit
        if "<svg" in text:
            curves = drawing_from(text.encode(), "what was copied", unit=unit).curves
            if not curves:
                raise FileError("what was copied holds no path")
            self._add(tuple(path_from_spans(lifted(c), c.straight, closed=c.closed) for c in curves), "Paste paths")
            return
        rows = read_table(text, unit=unit)
        self._add((path_from_points(rows.places, kind=PathKind.THROUGH),), "Paste a path")

    def _try(self, act: Callable[[], object]) -> None:
        try:
            act()
        except FileError as error:
            self.window.say(f"{str(error)[:1].upper()}{str(error)[1:]}.")

    def ask(self, title: str, filters: str, *, save: bool = False) -> str:
        """A file's name from a dialog; empty where it was left."""
        dialog = QFileDialog(self.parent, title)
        dialog.setOption(QFileDialog.Option.DontUseNativeDialog, True)
        dialog.setDirectory(str(self.window.files.folder()))
        dialog.setNameFilter(filters) if ";;" not in filters else dialog.setNameFilters(filters.split(";;"))
        if save:
            dialog.setAcceptMode(QFileDialog.AcceptMode.AcceptSave)
            dialog.setDefaultSuffix("svg")
        else:
            dialog.setFileMode(QFileDialog.FileMode.ExistingFile)
        chosen = dialog.selectedFiles() if dialog.exec() else []
        dialog.deleteLater()
        return chosen[0] if chosen else ""
