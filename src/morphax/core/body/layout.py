"""Placed rings, and how their rows are put together: which share rings, which a wedge joins, which are capped."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from morphax.core.body.ends import Cut, Dome, EndPiece
from morphax.core.body.joints import SET_BACK, JointKind, Joints
from morphax.core.body.profile import Profile
from morphax.core.body.recipe import End, Ends
from morphax.core.body.rings import Rows, end_row
from morphax.core.body.skin import Layout
from morphax.core.body.tips import loop_tips, tip_rows
from morphax.core.body.wedges import Wedge, fan_between
from morphax.core.findings import Finding
from morphax.core.frame.frames import FrameField, frames_at
from morphax.core.vectors import angle_about, smallest_turn

_SHARED = (JointKind.MITRE, JointKind.PLAIN)


@dataclass(frozen=True, eq=False)
class PlacedRings:
    """Rows of all legs, the joints between them, the domes and cuts at their ends, and notes.

    ``closed``: the last leg goes on as the first one; ``pieces`` first and last leg of each stretch that is not;
    ``stretches`` what is shown, from where to where, m, where that is not all;
    ``deviation`` m of rounded corners; ``met`` pairs of rows, of whose points some may be the same; ``hold`` m from
    corners and ends at which rings are held; ``pieces_at_ends`` stand on caps.
    """

    rows: Rows
    joints: Joints
    findings: tuple[Finding, ...]
    domes: tuple[Dome, ...] = ()
    cuts: tuple[Cut, ...] = ()
    closed: bool = False
    pieces: tuple[tuple[int, int], ...] = ()
    stretches: tuple[tuple[float, float], ...] = ()
    deviation: float = 0.0
    met: tuple[tuple[int, int], ...] = ()
    hold: float | None = None
    pieces_at_ends: tuple[EndPiece, ...] = ()


def closing_shift(field_: FrameField, profile: Profile) -> int:
    """How many k-ths of a turn the last ring lags behind the first, on a closed path; k is the profile's symmetry."""
    k = profile.symmetry
    twisted = round(profile.laws.twist_rate * float(field_.table.total) * k / (2.0 * np.pi))
    return (_frame_lag(field_) - twisted) % k


def _frame_lag(field_: FrameField) -> int:
    symmetry = field_.symmetry
    if symmetry == 1:
        return 0
    a = frames_at(field_, len(field_.legs) - 1, field_.legs[-1].s[-1:])
    b = frames_at(field_, 0, field_.legs[0].s[:1])
    carried = smallest_turn(a.up, a.forward, b.forward)
    angle = -float(angle_about(b.forward, carried, b.up)[0])
    return round(angle * symmetry / (2.0 * np.pi)) % symmetry


def _walls(rows: Rows, same: Sequence[int]) -> list[Wedge]:
    """The walls of steps: within legs, and between ``same`` legs that would share a ring; none
    between two points."""
    tips = set(tip_rows(rows))
    between = [int(rows.starts[i]) - 1 for i in same if i in rows.stepped]
    return [Wedge(r, r + 1) for r in (*rows.steps, *between) if not (r in tips and r + 1 in tips)]


def _cap_rows(placed: PlacedRings, ends: Ends) -> tuple[list[int], list[int]]:
    """The rows of starts, and of ends, that are closed by a cap: flat ones, and those that took nothing else."""
    domed = {(d.is_start, d.leg) for d in placed.domes}

    def rows(kind: End, legs: Iterable[int], *, is_start: bool) -> list[int]:
        capped = [i for i in legs if kind.is_capped or (kind.zone is not None and (is_start, i) not in domed)]
        return [end_row(placed.rows, i, is_start=is_start) for i in capped]

    firsts, lasts = ([p[k] for p in placed.pieces] for k in (0, 1))
    return rows(ends.start, firsts, is_start=True), rows(ends.end, lasts, is_start=False)


def _corner(placed: PlacedRings, kind: JointKind, ends: tuple[int, int], profile: Profile) -> Wedge:
    """What joins the last row of a leg with the first of the next one."""
    fan = fan_between(placed.rows, *ends, profile.reach, placed.deviation) if kind is JointKind.ROUND else None
    return Wedge(*ends, fan)


def layout_of(field_: FrameField, placed: PlacedRings, ends: Ends, profile: Profile) -> Layout:
    """Which rows share rings, which are joined by wedges, which are capped."""
    rows, closed = placed.rows, placed.closed
    joint_after = {j.before: j for j in placed.joints.items}
    first_row, legs = rows.starts, len(rows.starts) - 1
    start_caps, end_caps = list[int](), list[int]()
    index = np.arange(first_row[-1], dtype=np.int32)
    same = [i for i in range(1, legs) if (j := joint_after.get(i - 1)) is not None and j.kind in _SHARED]
    shared, wedges = [i for i in same if i not in rows.stepped], _walls(rows, same)
    if shared:  # a leg's first ring is the last one of the leg before
        index -= np.searchsorted(first_row[shared], np.arange(len(index)), side="right").astype(np.int32)
    count, closing, last_row = int(index[-1]) + 1, joint_after.get(legs - 1), int(first_row[-1]) - 1
    is_joined = closed and (closing is None or closing.kind in _SHARED)
    if is_joined and 0 not in rows.stepped:
        index[-1], count = 0, count - 1
    shift = closing_shift(field_, profile) if closed and (closing is None or closing.kind is not JointKind.CUT) else 0
    for joint in placed.joints.items:
        last, first = int(first_row[joint.before + 1]) - 1, int(first_row[joint.after])
        if joint.kind in SET_BACK:
            wedges.append(_corner(placed, joint.kind, (last, first), profile))
        elif joint.kind is JointKind.CUT:
            end_caps.append(last)
            start_caps.append(first)
    tips = tip_rows(rows)
    if is_joined and 0 in rows.stepped and not (0 in tips and last_row in tips):  # the last of all wedges
        wedges.append(Wedge(last_row, 0))
    if not profile.is_ribbon:
        for own, capped in zip((start_caps, end_caps), _cap_rows(placed, ends), strict=True):
            own += [row for row in capped if row not in tips]
    return Layout(
        rows,
        index,
        count,
        shift,
        profile.symmetry if closed else 1,
        tuple(wedges),
        tuple(start_caps),
        tuple(end_caps),
        *(placed.domes, placed.cuts),
        (*((row, 0, profile.size) for row in tips), *loop_tips(rows, profile)),
        placed.met,
    )
