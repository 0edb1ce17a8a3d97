"""Rows of findings: used again for the next ones, with their mends beside or below each other."""

import pytest
from PySide6.QtWidgets import QApplication, QLabel

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.checks import MOST_SHOWN, Checks, Newest
from morphax.core.findings import Finding, Severity
from morphax.project.edits.mends import CURES, Cure


def finding(code: str, message: str = "Look here.", severity: Severity = Severity.WARNING) -> Finding:
    return Finding(code, severity, message, 0.1)


@pytest.fixture
def checks(qtbot, monkeypatch):
    """A column of the inspector's width, with cures of short words and of long ones."""
    nothing = lambda project, run, found: project  # noqa: E731
    monkeypatch.setitem(CURES, "short", (Cure("Weld", nothing), Cure("Refit", nothing)))
    monkeypatch.setitem(CURES, "long", (Cure("Weld these two knots", nothing), Cure("Refit the whole path", nothing)))
    workspace = Workspace()
    column = Checks(workspace)
    qtbot.addWidget(column)
    column.resize(248, 600)
    column.show()
    yield column
    workspace.close()


def test_mends_stand_together_beside_each_other_where_there_is_room(checks) -> None:
    checks.show_findings((("r1", "", finding("short")),))
    QApplication.processEvents()  # lays out
    first, second = checks.mend_buttons
    assert first.y() == second.y() and 0 < second.x() - (first.x() + first.width()) <= 12, "not spread over the column"
    checks.show_findings((("r1", "", finding("long")),))
    QApplication.processEvents()  # lays out
    first, second = checks.mend_buttons
    assert first.x() == second.x() and second.y() > first.y(), "below each other where they are too wide"


def test_rows_are_used_again_and_show_what_is_there_now(checks) -> None:
    def words() -> list[str]:
        return [w.text() for w in checks.findChildren(QLabel) if not w.isHidden() and w.isVisible()][1:]

    checks.show_findings(tuple(("r1", f"Run {k}", finding("short", f"Say {k}.")) for k in range(3)))
    assert words() == ["Run 0: Say 0.", "Run 1: Say 1.", "Run 2: Say 2."] and len(checks.mend_buttons) == 6
    checks.show_findings((("r1", "", finding("none", "A note.", Severity.NOTE)),))
    assert words() == ["A note."] and checks.mend_buttons == []
    checks.show_findings((("r1", "", finding("short", "Bad.", Severity.ERROR)),))
    assert words() == ["No body: Bad."] and [b.text() for b in checks.mend_buttons] == ["Weld", "Refit"]
    checks.show_findings(())
    assert words() == [] and checks.mend_buttons == []
    checks.show_findings(tuple(("r1", "", finding("short", f"Say {k}.")) for k in range(MOST_SHOWN + 5)))
    assert len(words()) == MOST_SHOWN + 1 and words()[-1].startswith("5 more to look at")


def test_a_mend_does_what_the_finding_that_is_shown_now_asks_for(checks, monkeypatch) -> None:
    done = []
    for name in ("first", "second"):
        cure = Cure(name, lambda project, run, found, name=name: done.append((name, run)) or project)
        monkeypatch.setitem(CURES, name, (cure,))
    checks.show_findings((("r1", "", finding("first")),))
    checks.show_findings((("r2", "", finding("second")),))
    checks.mend_buttons[0].click()
    assert done == [("second", "r2")]


def test_the_newest_finding_stands_first_and_notes_last() -> None:
    a, b, c = finding("a"), finding("b"), finding("c")
    note = finding("n", severity=Severity.NOTE)
    order, every = Newest(), frozenset[str]()
    of = lambda *found: tuple(("r1", "", f) for f in found)  # noqa: E731
    assert order.first(of(a, note), every) == of(a, note)
    assert order.first(of(note, a, b), every) == of(b, a, note), "what came last stands first"
    assert order.first(of(a, b, c), every) == of(c, b, a)
    moved = finding("a", "Look there.")
    assert order.first(of(moved, b, c), every) == of(c, b, moved), "a number that changes in it does not make it new"
    assert order.first(of(b, c), every) == of(c, b)
    assert order.first(of(a, b, c), every) == of(a, c, b), "what comes back is new"
    assert order.first(of(a, b, a), every) == of(a, a, b), "the second of a kind is another one"


def test_what_is_found_elsewhere_is_not_new_when_it_is_looked_at_again() -> None:
    a, b, c = finding("a"), finding("b"), finding("c")
    order = Newest()
    both = (("r1", "", a), ("r2", "", b))
    order.first(both, frozenset())
    assert order.first((("r2", "", b), ("r2", "", c)), frozenset({"r2"})) == (("r2", "", c), ("r2", "", b))
    assert order.first((*both, ("r2", "", c)), frozenset()) == (("r2", "", c), *both), "r1's is as old as it was"
    assert order.first(both[:1], frozenset({"r1"})) == both[:1]
