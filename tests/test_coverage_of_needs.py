"""The table of needs names tests that exist."""

import tomllib
from pathlib import Path

ROOT = Path(__file__).parents[1]


def test_every_named_test_exists() -> None:
    table = tomllib.loads((ROOT / "tests/coverage_of_needs.toml").read_text())
    assert {"A3", "M7", "M9", "M11", "O7", "E1", "E3", "E5", "E11", "E12", "E14", "E15", "L1", "O8", "O9", "Q6"} <= set(
        table["done"]
    )
    for need, tests in table["done"].items():
        assert tests, f"{need} has no test"
        for name in tests:
            file, _, function = name.partition("::")
            assert f"def {function}(" in (ROOT / file).read_text(), f"{need} names {name}"
