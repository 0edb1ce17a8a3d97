"""The range: which stretches of a run are shown, and bodies cut to them."""

import pytest

from morphax.core.body.range import END, START, WHOLE, Range, Stop
from morphax.core.errors import PathError


def share(*values: float) -> Range:
    return Range(Stop(values[0]), Stop(values[1]))


def test_places_count_by_share_from_the_start_or_from_the_end() -> None:
    assert [s.at(4.0) for s in (Stop(0.25), Stop(0.3, "start"), Stop(0.3, "end"), Stop(9.0, "end"))] == [
        1.0, 0.3, 3.7, 0.0,
    ]  # fmt: skip
    for bad in ((1.5, "share"), (-0.1, "start"), (float("nan"), "end"), (0.1, "knot")):
        with pytest.raises(PathError):
            Stop(*bad)


@pytest.mark.parametrize(
    ("asked", "closed", "found"),
    [
        (WHOLE, False, ()),
        (Range(Stop(0.0, "start"), Stop(0.0, "end")), True, ()),
        (share(0.25, 0.5), False, ((0.5, 1.0),)),
        (share(0.75, 0.25), True, ((1.5, 2.5),)),
        (Range(out=((Stop(0.25), Stop(0.5)),)), False, ((0.0, 0.5), (1.0, 2.0))),
        (Range(out=((Stop(0.25), Stop(0.5)),)), True, ((1.0, 2.5),)),
        (Range(out=((Stop(0.75), Stop(0.25)),)), True, ((0.5, 1.5),)),
        (
            Range(Stop(0.1), Stop(0.6), ((Stop(0.0), Stop(0.2)), (Stop(0.3), Stop(0.4)))),
            False,
            ((0.4, 0.6), (0.8, 1.2)),
        ),
        (Range(Stop(0.75), Stop(0.5), ((Stop(0.9), Stop(0.1)),)), True, ((1.5, 1.8), (0.2, 1.0))),
        (Range(Stop(0.75), Stop(0.5), ((Stop(0.2), Stop(0.3)),)), True, ((1.5, 2.4), (0.6, 1.0))),
    ],
)
def test_stretches(asked: Range, closed: bool, found: tuple[tuple[float, float], ...]) -> None:
    got = asked.stretches(2.0, closed=closed)
    assert len(got) == len(found)
    for one, two in zip(got, found, strict=True):
        assert one == pytest.approx(two, abs=1e-12)


def test_what_leaves_nothing_is_refused_in_words() -> None:
    for asked, closed in (
        (share(0.5, 0.5), False),
        (share(0.6, 0.5), False),
        (Range(out=((START, END),)), True),
        (Range(out=((Stop(0.5), Stop(0.2)),)), False),
    ):
        with pytest.raises(PathError, match="left|before"):
            asked.stretches(1.0, closed=closed)
