"""Unsaved work outlives a crash, and a save that is killed never harms what was there."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest

from morphax.demo import lantern_wagon
from morphax.io.autosave import (
    autosave_folder,
    drop_autosave,
    drop_orphan,
    load_orphan,
    new_name,
    orphans,
    write_autosave,
)
from morphax.io.project_file import load_project, save_project
from tests.conftest import MANY
from tests.project.test_edits import project_with_runs

SAVER = """
import itertools, sys
from pathlib import Path
from morphax.demo import lantern_wagon
from morphax.io.project_file import save_project
from morphax.project.model.document import evolve
project = lantern_wagon()
print("ready", flush=True)
for i in itertools.count(1000):
    save_project(evolve(project, next_id=i), Path(sys.argv[1]))
"""


@pytest.fixture(autouse=True)
def own_state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))


def test_autosaves_of_gone_programs_are_found_and_forgotten(tmp_path: Path) -> None:
    own, project = new_name(), project_with_runs()[0]
    assert orphans(own) == ()
    write_autosave(project, None, own)
    assert orphans(own) == (), "one's own autosave is no orphan"
    write_autosave(lantern_wagon(), tmp_path / "wagon.morphax", "999999999-abc")
    (found,) = orphans(own)
    assert found.name == "wagon" and load_orphan(found) == lantern_wagon()
    drop_orphan(found)
    assert orphans(own) == ()
    drop_autosave(own)
    assert list(autosave_folder().iterdir()) == []


def test_an_autosave_under_a_number_that_is_used_again_is_still_found() -> None:
    write_autosave(project_with_runs()[0], None, f"{os.getpid()}-before")
    assert [o.name for o in orphans(new_name())] == ["untitled"]


def test_a_damaged_note_keeps_the_work() -> None:
    write_autosave(lantern_wagon(), None, "999999999-abc")
    (autosave_folder() / "999999999-abc.json").write_text("{")
    assert load_orphan(orphans(new_name())[0]) == lantern_wagon()


def test_killing_a_save_never_harms_the_file(tmp_path: Path) -> None:
    file = tmp_path / "a.morphax"
    save_project(lantern_wagon(), file)
    latest = 0
    for i in range(max(8, MANY // 100)):
        process = subprocess.Popen([sys.executable, "-c", SAVER, str(file)], stdout=subprocess.PIPE)
        assert process.stdout is not None and process.stdout.readline() == b"ready\n"
        time.sleep(0.01 + 0.007 * i)
        late = time.monotonic() + 30.0
        while i == 0 and load_project(file).next_id <= 1000 and time.monotonic() < late:  # one save at least is done
            time.sleep(0.01)
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        latest = max(latest, load_project(file).next_id)
        assert load_project(file).runs == lantern_wagon().runs
        backup = file.with_name("a.morphax.bak")
        assert not backup.exists() or load_project(backup).runs == lantern_wagon().runs
    assert latest > 1000, "saves went on until they were killed"
