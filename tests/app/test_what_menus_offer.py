"""Menus offer what can be done: nothing that is offered is refused, and what is greyed says what it needs."""

from collections.abc import Iterator

import pytest
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from morphax.app.actions.needs import Now, nothing
from morphax.app.actions.table import ACTIONS
from morphax.app.session.settings import Settings
from morphax.app.window import Window
from morphax.project.model.document import Project
from morphax.project.things import Selection
from tests.app.conftest import drive
from tests.app.driver import Driver
from tests.app.menu_states import State, states

STATES = list(states())
BY_WORDS = (
    "edit.copy", "edit.copy-settings", "run.clearance", "path.hold", "edit.paste", "refine.drop", "run.pivot",
    "run.preset", "section.face", "section.cut", "refine.trim-start", "refine.trim-end", "edit.all",
)  # fmt: skip
"""They say what they found: whether there is something to find is only known then."""
ELSEWHERE = (
    "host.again",
    "project.paths-out",
    "section.write",
    "project.export",
    "view.chosen",
    "path.finish",
    "edit.rename",
)
"""Not about what is chosen."""


@pytest.fixture(scope="module")
def any_window(qapp: QApplication, request: pytest.FixtureRequest) -> Iterator[Driver]:
    """One window for all states; nobody looks at its pictures."""
    window = drive(QtBot(request), Window(None, Settings(look="light")))
    driver = next(window)
    driver.window.hub.submit = lambda _: None
    yield driver
    next(window, None)


@pytest.mark.parametrize("state", STATES, ids=[s[0] for s in STATES])
def test_nothing_that_a_menu_offers_is_refused(any_window: Driver, state: State) -> None:
    w, (_, project, selection) = any_window.window, state
    ws, idle, said = w.workspace, [], list[str]()
    ws.said.connect(said.append)
    for action in (a for a in ACTIONS if a.needs is not nothing and a.id not in (*BY_WORDS, *ELSEWHERE)):
        if action.needs(_now(any_window, project, selection)):
            continue
        before, said[:] = _seen(any_window), []
        w.menus.by_id[action.id].trigger()
        if _seen(any_window) == before:
            idle.append((action.id, list(said)))
        w.toolbox.escape()
        w.toolbox.escape()
        ws.board.close()
    assert not idle


def _now(driver: Driver, project: Project, selection: Selection) -> Now:
    """What is chosen in a window that shows a project again, whatever was done to it."""
    w = driver.window
    if w.workspace.project is not project:
        w.workspace.restart(project)
    w.workspace.select(selection)
    driver.bot.waitUntil(lambda: not w.workspace.bodies.is_waiting, timeout=20_000)
    w.column.setCurrentWidget(w.inspector)
    w.menus.refresh()
    return Now(w.workspace)


def _seen(driver: Driver) -> tuple[object, ...]:
    """What a command can change."""
    w = driver.window
    ws = w.workspace
    shown = (w.toolbox.kind, w.toolbox.edit.set.moves_whole, w.column.currentWidget(), w.focusWidget())
    return (
        id(ws.project),
        ws.board.is_open,
        ws.selection,
        id(ws.bench.work_plane),
        id(ws.remark),
        ws.bench.pivot,
        *shown,
    )
