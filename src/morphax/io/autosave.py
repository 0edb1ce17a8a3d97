"""Autosaves: unsaved work kept apart from the user's files, and found again after a crash."""

import json
import os
from dataclasses import dataclass
from pathlib import Path
from uuid import uuid4

from platformdirs import user_state_path

from morphax.io.errors import FileError
from morphax.io.project_file import load_project, to_bytes
from morphax.io.safe_write import write_all
from morphax.project.model.document import Project


def autosave_folder() -> Path:
    """Where autosaves are kept."""
    return user_state_path("morphax") / "autosave"


@dataclass(frozen=True)
class Orphan:
    """Unsaved work of a program that is gone: its autosave, and the project file that it belongs to, if any."""

    file: Path
    project_file: Path | None

    @property
    def name(self) -> str:
        return self.project_file.stem if self.project_file else "untitled"


def new_name() -> str:
    """A name for this program's autosave: the process number and something that no other program has."""
    return f"{os.getpid()}-{uuid4().hex[:12]}"


def _pair(name: str) -> tuple[Path, Path]:
    folder = autosave_folder()
    return folder / f"{name}.morphax", folder / f"{name}.json"


def write_autosave(project: Project, project_file: Path | None, name: str) -> None:
    """Keeps unsaved work under this program's name. Raises FileError."""
    data, note = _pair(name)
    try:
        data.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"{data.parent} could not be made: {error.strerror or error}") from error
    about = {"project": None if project_file is None else str(project_file.resolve())}
    write_all({data: to_bytes(project), note: json.dumps(about).encode()})


def drop_autosave(name: str) -> None:
    """Forgets an autosave: its work is saved, or was left on purpose."""
    for file in _pair(name):
        file.unlink(missing_ok=True)


def _is_running(name: str) -> bool:
    """Whether the process that wrote an autosave may still be alive."""
    pid = name.partition("-")[0]
    if not pid.isdigit() or int(pid) == os.getpid():
        return False
    try:
        return b"morphax" in Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False


def orphans(own: str) -> tuple[Orphan, ...]:
    """Autosaves of programs that are gone, newest first; ``own`` is this program's."""
    files = sorted(autosave_folder().glob("*.morphax"), key=lambda p: p.stat().st_mtime, reverse=True)
    gone = [f for f in files if f.stem != own and not _is_running(f.stem)]
    return tuple(Orphan(f, _noted(f.with_suffix(".json"))) for f in gone)


def _noted(note: Path) -> Path | None:
    try:
        name = json.loads(note.read_text())["project"]
    except (OSError, ValueError, KeyError, TypeError):
        return None
    return Path(name) if isinstance(name, str) else None


def load_orphan(orphan: Orphan) -> Project:
    """The work of an autosave. Raises FileError."""
    return load_project(orphan.file)


def drop_orphan(orphan: Orphan) -> None:
    """Forgets an autosave whose work was brought back."""
    drop_autosave(orphan.file.stem)
