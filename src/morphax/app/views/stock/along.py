"""Sections of the stock put on a run: at one of its stations, at a new one, or as its size along the length."""

from collections.abc import Callable

from morphax.app.session.workspace import Workspace
from morphax.app.views.stock.groups import LOOK, PIECE
from morphax.project.edits.along import add_station, set_station_section
from morphax.project.edits.laws import set_profile
from morphax.project.edits.runs import NewRun, Source
from morphax.project.model.document import Project
from morphax.project.things import Selection


def put_section(ws: Workspace, source: Source, run_id: str, station: str | None, share: float) -> None:
    """A station's section, at the width that is there, or a new station's at a share, which is chosen then."""
    if station is not None:
        ws.attempt("Section of the station", lambda p: set_station_section(p, run_id, station, source))
        return
    made: list[str] = []

    def change(project: Project) -> Project:
        done, name = add_station(project, run_id, share, source)
        made.append(name)
        return done

    if ws.attempt("Add a station", change):
        ws.select(Selection.of((run_id,), stations=made[-1:]))


def put_profile(ws: Workspace, new: NewRun | None, run_ids: tuple[str, ...], law: str) -> None:
    """An outline says how large, wide or high runs are along their length; None: what was dropped is no section."""
    if new is None:
        ws.said.emit("A section of the stock can say how large a run is along its length.")
        return
    ws.attempt(f"{law} by an outline".capitalize(), lambda p: set_profile(p, run_ids, law, new.source))


def put_along(ws: Workspace, next_run: Callable[[str], NewRun | None], key: str, run_id: str, law: str) -> None:
    """A thing of the stock dropped on the lane of a size, width or height."""
    is_section = not key.startswith((LOOK, PIECE, "preset:"))
    put_profile(ws, next_run(key) if is_section else None, (run_id,), law)
