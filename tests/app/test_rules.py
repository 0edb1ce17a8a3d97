"""Rules that the code keeps."""

import re
from pathlib import Path

ROOT = Path(__file__).parents[2]
EDITS = re.compile(
    r"workspace\.(bench\.|unfinished\.)?(edit|attempt|restart|show|select|undo|redo|set_next_run)\("
    r"|add_run\(|\bEditTool\b|\bDrawTool\b"
)
LINKS = re.compile(r"\]\(([^)#]+)\)|`((?:src|tests|docs|tools|benchmarks)/[\w./-]+)`")


def test_driven_tests_only_use_mouse_and_keys() -> None:
    files = sorted((ROOT / "tests/app/driven").glob("test_*.py"))
    assert files
    for file in files:
        found = EDITS.search(file.read_text())
        assert found is None, f"{file.name} calls {found.group(0) if found else ''}"


def test_the_rule_would_catch_an_edit() -> None:
    assert EDITS.search("driver.window.workspace.edit('x', p)")


def test_tools_and_rows_know_no_qt() -> None:
    for name in (
        "tools/shared",
        "tools/path",
        "views/inspector/rows.py",
        "views/inspector/body_rows.py",
        "views/inspector/path_rows.py",
        "views/inspector/summaries.py",
        "actions/table.py",
        "session/camera.py",
    ):
        path = ROOT / "src/morphax/app" / name
        for file in sorted(path.glob("*.py")) if path.is_dir() else [path]:
            assert "PySide6" not in file.read_text(), file


def test_vtk_is_named_in_one_module() -> None:
    for file in (ROOT / "src").rglob("*.py"):
        assert "vtkmodules" not in file.read_text() or file.name in ("vtk_names.py", "cells.py"), file


def test_paths_in_the_documents_exist() -> None:
    for document in (ROOT / "README.md", *(ROOT / "docs").rglob("*.md")):
        for link, name in LINKS.findall(document.read_text()):
            if "://" in link:
                continue
            target = document.parent / link if link else ROOT / name
            assert target.exists(), f"{document.name} names {link or name}"
