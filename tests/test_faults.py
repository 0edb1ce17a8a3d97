"""The table of faults is true: its modules and tests exist, and faults that change nothing are still those."""

import ast
import tomllib
from pathlib import Path

import pytest
from tools.faults.run import PACKAGE, ROOT, chosen
from tools.faults.sites import faults_of

TOLD = tomllib.loads((ROOT / "tests" / "faults.toml").read_text())

SOURCE = '''
LIMIT = 3

def far(a, b, painter):
    """How far: 2."""
    if a < b and not painter:
        painter.drawLine(a - b)
    painter.save()
    return [x for x, _ in zip(a, b, strict=True)]
'''


def test_modules_and_tests_of_the_table_exist() -> None:
    assert len(TOLD["modules"]) >= 25
    for module, wish in TOLD["modules"].items():
        assert (PACKAGE / module).is_file()
        assert all((ROOT / t).is_file() for t in wish["tests"]), module


@pytest.mark.parametrize("equal", TOLD["equal"], ids=lambda e: Path(e["module"]).stem)
def test_faults_that_change_nothing_are_still_those(equal: dict) -> None:
    lines = [line.strip() for line in (PACKAGE / equal["module"]).read_text().splitlines()]
    assert equal["was"] in lines and equal["reason"]


def test_a_seed_gives_the_same_faults_and_every_one_is_sound_python() -> None:
    puts = chosen(5, TOLD)
    assert [str(p) for p in puts] == [str(p) for p in chosen(5, TOLD)] and len(puts) >= 60
    for put in puts:
        changed = put.fault.put_into(put.source)
        ast.parse(changed)
        assert changed != put.source


def test_faults_lie_in_the_code_of_functions_only() -> None:
    found = {f.put_into(SOURCE) for f in faults_of(SOURCE)}
    assert any("a <= b and not painter" in s for s in found) and any("a < b or not painter" in s for s in found)
    assert any("a < b and painter" in s for s in found) and any("drawLine(a + b)" in s for s in found)
    assert any("        None\n" in s for s in found), "a call is left out"
    assert all("LIMIT = 3" in s and "How far: 2." in s and "painter.save()" in s and "strict=True" in s for s in found)
