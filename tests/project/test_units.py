"""Lengths as people type them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from morphax.project.units import (
    METRES,
    UnitError,
    format_length,
    format_number,
    parse_length,
    parse_number,
    parse_share,
    sentence_in,
)


@pytest.mark.parametrize(
    "text,metres",
    [
        ("24", 0.024),
        ("7/8 in", 0.022225),
        ("870 mm", 0.87),
        ("2' 6 1/2\"", 0.7747),
        ("12 mm * 3", 0.036),
        ("1 m - 20", 0.98),
        ("(1 m - 20) / 2", 0.49),
        ("-5", -0.005),
        ("\u22125 cm", -0.05),
        ("1 912 mm", 1.912),
        ("1\u202f912 mm", 1.912),
        ("3 * (2 + 4)", 0.018),
        (".5m", 0.5),
        ("2,5 cm", 0.025),
        ("1e3", 1.0),
    ],
)
def test_reads(text: str, metres: float) -> None:
    assert parse_length(text) == pytest.approx(metres, rel=1e-12)


@pytest.mark.parametrize(
    "text", ["", "abc", "12 kg", "1/0", "3 mm * 2 mm", "(1", "1 2 3", "5 mm /", "2 / 0 mm", "(" * 60 + "1", "1" * 300]
)
def test_refuses_with_a_sentence(text: str) -> None:
    with pytest.raises(UnitError):
        parse_length(text)


def test_bare_numbers_take_the_display_unit() -> None:
    assert parse_length("3", unit="in") == pytest.approx(0.0762)
    assert parse_number("6 * 4") == 24
    assert [parse_share(t) for t in ("45 %", "45%", "0,45", "0.45", "90 / 2 %", "-5 %")] == [*[0.45] * 5, -0.05]
    for wrong in ("%", "4 % 5", "45 % mm", "5 mm %"):
        with pytest.raises(UnitError):
            parse_share(wrong)
    with pytest.raises(UnitError, match="not a plain number"):
        parse_number("6 mm")


@given(st.floats(-1e4, 1e4), st.sampled_from(sorted(METRES)))
def test_what_is_shown_reads_back(metres: float, unit: str) -> None:
    assert parse_length(format_length(metres, unit=unit), unit="mm") == pytest.approx(metres, abs=6e-5)


def test_numbers_are_shown_with_thin_spaces_and_a_true_minus() -> None:
    assert format_number(1912.0) == "1\u202f912" and format_number(-0.0001, decimals=2) == "0"
    assert format_length(-0.4) == "\u2212400 mm"


def test_a_findings_sentence_is_said_in_the_display_unit() -> None:
    said = "The bend at 1270 mm has a radius of 25.4 mm, too tight: 3 knots, 90 degrees, free up to 12.7 mm."
    assert sentence_in(said, unit="mm") == said
    assert sentence_in(said, unit="in") == (
        "The bend at 50 in has a radius of 1 in, too tight: 3 knots, 90 degrees, free up to 0.5 in."
    )
