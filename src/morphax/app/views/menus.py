"""The menu bar, made from the table of actions."""

from functools import partial

from PySide6.QtCore import QKeyCombination, QPoint, QTimer
from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMainWindow, QMenu

from morphax.app.actions.action import Action
from morphax.app.actions.context_place import ContextPlace
from morphax.app.actions.desk import Desk
from morphax.app.actions.needs import Now
from morphax.app.actions.table import ACTIONS, MENUS
from morphax.app.session.session import SceneView
from morphax.app.tools.registry import TOOLS
from morphax.app.tools.routing import PointerRoute

_KNOT_ACTIONS = (
    "path.corner", "path.radius", "path.start", "path.hold", "run.pivot", "edit.delete", "",
    "refine.between", "refine.spans", "refine.straighten", "refine.space", "refine.split", "refine.trim-start",
    "refine.trim-end", "", "path.go-on", "path.table", "path.close", "path.reverse", "", "view.chosen",
)  # fmt: skip
_RUN_ACTIONS = (
    "edit.duplicate", "edit.rename", "edit.delete", "", "path.close", "path.reverse", "run.flip", "run.quarter",
    "section.board", "run.pivot", "path.table", "path.go-on", "refine.trim-start", "refine.trim-end", "", "run.hide",
    "run.only", "run.lock", "run.ghost", "run.group", "run.ungroup", "", "beside.mirror-x", "beside.parallel",
    "beside.pair", "beside.row", "beside.own", "", "edit.copy-settings", "edit.paste-settings",
    "run.preset", "project.paths-out", "view.chosen",
)  # fmt: skip
_HOST_ACTIONS = (
    "edit.duplicate", "edit.duplicate-here", "edit.rename", "edit.delete", "", "run.move", "run.pivot", "", "run.hide",
    "run.only", "run.lock", "run.ghost", "", "host.port", "plane.face", "section.face", "section.cut",
    "host.again", "view.chosen",
)  # fmt: skip
_FREE_ACTIONS = (
    "path.straight", "path.through", "path.handles", "plane.face", "", "edit.paste", "project.paths-in", "", "view.all",
    "view.perspective", "edit.search",
)  # fmt: skip
_CHANGING = ("Project", "Edit", "Path", "Section", "Refine", "Run")
"""Menus whose commands may change the project."""
_DRAWING_ACTIONS = ("path.finish", "edit.undo", "", "path.corner", "path.straight", "path.through", "", "view.all")


class Menus:
    """Menus with their shortcuts; they show what can be done now."""

    def __init__(self, desk: Desk, window: QMainWindow) -> None:
        self.desk, self.window = desk, window
        self.by_id: dict[str, QAction] = {}
        self.pointed = ContextPlace(desk)
        menus = {name: window.menuBar().addMenu(name) for name in MENUS}
        under: dict[str, QMenu] = {}
        for action in ACTIONS:
            menu = menus[action.menu]
            if action.under:
                menu = under[action.under] if action.under in under else menu.addMenu(action.under)
                under[action.under] = menu
            self._add(menu, action)
            if action.id == "project.demo":
                self.recent = menus["Project"].addMenu("Recent")
        self.recent.aboutToShow.connect(self._fill_recent)
        self._learn_letters()

    def _add(self, menu: QMenu, action: Action) -> None:
        if action.line_before:
            menu.addSeparator()
        made = QAction(action.title, self.window)
        made.setShortcuts([QKeySequence(k) for k in self.keys_of(action)])
        made.triggered.connect(partial(self._on_action, action))
        menu.addAction(made)
        self.by_id[action.id] = made

    def keys_of(self, action: Action) -> tuple[str, ...]:
        """An action's keys: the user's own, else ours."""
        return self.desk.settings.keys.get(action.id, action.keys)

    def missing_for(self, pressed: QKeyCombination) -> str:
        """What the command of a key needs before it can be done; empty where it can, or where no command has it."""
        wanted = QKeySequence(pressed)
        greyed = (a for a in ACTIONS if not self.by_id[a.id].isEnabled())
        found = next((a for a in greyed if any(QKeySequence(k) == wanted for k in self.keys_of(a))), None)
        return "" if found is None else found.needs(Now(self.desk.workspace))

    def renew_keys(self) -> None:
        """Takes over changed keys."""
        for action in ACTIONS:
            self.by_id[action.id].setShortcuts([QKeySequence(k) for k in self.keys_of(action)])
        self._learn_letters()

    def _learn_letters(self) -> None:
        """Tells the tools which keys arm them."""
        arming = [a for a in ACTIONS if a.id.startswith("path.") and a.id.removeprefix("path.") in TOOLS]
        for action in arming:
            for keys in self.keys_of(action)[:1]:
                name = QKeySequence(keys).toString()
                self.desk.toolbox.letters[action.id.removeprefix("path.")] = ord(name) if len(name) == 1 else 0

    def context(self, view: SceneView, at: QPoint) -> QMenu:
        """The menu at the pointer; what lies under the pointer is chosen first."""
        PointerRoute(self.desk.toolbox).choose(view.pointer_at(at))
        self.pointed.at_view(view, at)
        return self._of_place()

    def strip_context(self, along: float | None) -> QMenu:
        """The menu at a distance along the chosen run, m."""
        self.pointed.at_strip(along)
        return self._of_place()

    def _of_place(self) -> QMenu:
        """A menu of what is chosen, whose place is forgotten when it is closed."""
        menu = self.of_chosen()
        menu.aboutToHide.connect(lambda: QTimer.singleShot(0, self.pointed.forget))  # after what was chosen in it
        return menu

    def of_chosen(self) -> QMenu:
        """A menu of what fits what is chosen."""
        ws, menu = self.desk.workspace, QMenu(self.window)
        self.refresh()
        names: tuple[str, ...] = (
            _KNOT_ACTIONS if ws.selection.knots else _RUN_ACTIONS if ws.selection.runs else _FREE_ACTIONS
        )
        names = _HOST_ACTIONS if ws.selection.hosts else names
        names = _DRAWING_ACTIONS if self.desk.toolbox.is_drawing else names
        for name in names:
            menu.addSeparator() if not name else menu.addAction(self.by_id[name])
        menu.aboutToHide.connect(menu.deleteLater)
        return menu

    def _on_action(self, action: Action, _: bool = False) -> None:
        self._do(action)

    def _do(self, action: Action) -> None:
        """Does an action; one that changes the project first finishes the path or drag that is going on."""
        mixes = action.id in ("path.corner", "path.straight", "path.through") and self.desk.toolbox.is_drawing
        if (
            action.menu in ("Project", "Edit", "Path", "Section", "Refine", "Run")
            and action.id != "edit.undo"
            and not mixes
        ):
            self.desk.toolbox.finish()
            self.desk.toolbox.release()
        action.run(self.desk)

    def _fill_recent(self) -> None:
        self.recent.clear()
        for name in self.desk.settings.recent:
            self.recent.addAction(name, partial(self.desk.files.open_recent, name))
        if not self.desk.settings.recent:
            self.recent.addAction("none yet").setEnabled(False)

    def refresh(self) -> None:
        """Enables what can be done; undo and redo say what they would undo and redo."""
        ws, now = self.desk.workspace, Now(self.desk.workspace)
        for action in ACTIONS:
            missing = action.needs(now)
            self.by_id[action.id].setEnabled(not missing)
            self.by_id[action.id].setStatusTip(missing)
        undo, redo = ws.history.undo_label, ws.history.redo_label
        self.by_id["edit.undo"].setText(f"Undo {undo.lower()}" if undo else "Undo")
        self.by_id["edit.undo"].setEnabled(undo is not None or self.desk.toolbox.is_drawing)
        self.by_id["edit.redo"].setText(f"Redo {redo.lower()}" if redo else "Redo")
        self.by_id["edit.redo"].setEnabled(redo is not None)
