"""What is to be said of a run: of its path, of its body as it was put together, of what it needs and is not there."""

from morphax.core.body import checks
from morphax.core.body.joints import JointKind
from morphax.core.body.layout import PlacedRings, closing_shift
from morphax.core.body.nearby import Nearby
from morphax.core.body.profile import Profile
from morphax.core.body.recipe import Placing
from morphax.core.body.shown import is_shown
from morphax.core.body.skin import closing_points
from morphax.core.body.touching import touches
from morphax.core.findings import Finding, Severity
from morphax.core.frame.frames import FrameField, Orientation
from morphax.core.path.knot_checks import knot_findings, radius_findings
from morphax.core.path.path_checks import path_findings
from morphax.core.path.paths import PathShape
from morphax.core.path.resolved import ResolvedPath


def body_told(
    path: ResolvedPath, profile: Profile, field_: FrameField, placed: PlacedRings, shown: PlacedRings
) -> tuple[Finding, ...]:
    """What is to be said of the body as it was put together; a pinch says already why faces beside it turn over."""
    found = _whole_findings(path, profile, field_, placed)
    if shown is placed:
        return found
    own = set(placed.findings)
    return (*(f for f in found if f not in own and is_shown(f.at, shown, path)), *shown.findings)


def _whole_findings(
    path: ResolvedPath, profile: Profile, field_: FrameField, placed: PlacedRings
) -> tuple[Finding, ...]:
    mitred = sorted({k for j in placed.joints.items if j.kind is JointKind.MITRE for k in (j.before, j.after)})
    pinches = checks.pinches(field_, profile, profile.first_width)
    bevels = [(j.before, j.after) for j in placed.joints.items if j.kind is JointKind.BEVEL]
    folds = checks.folds(field_, placed.rows, profile, mitred) if mitred else ()
    if bevels:
        closing = (
            closing_points(profile, profile.symmetry, closing_shift(field_, profile)) if path.chain.closed else None
        )
        folds += checks.bevel_folds(field_, placed.rows, profile, bevels, closing)
    near = 2.0 * profile.reach
    return (
        *placed.joints.findings,
        *pinches,
        *touches(field_, profile, profile.first_width, [p.at or 0.0 for p in pinches], closed=path.chain.closed),
        *(f for f in folds if not any(abs((f.at or 0.0) - (p.at or 0.0)) < near for p in pinches)),
        *checks.edge_on(field_),
        *checks.coarse(field_, placed.rows),
        *checks.short_legs(placed.rows, profile, profile.first_width, path.length),
        *checks.nothing_left(placed.rows, closed=path.chain.closed),
        *checks.alone(placed.rows, profile),
        *placed.findings,
    )


def missing(profile: Profile, placing: Placing, near: Nearby) -> tuple[Finding, ...]:
    """What an orientation needs and is not there."""
    orientation = placing.orientation or profile.facts.laying.orientation
    if orientation is Orientation.ON_HOST and near.host is None:
        return (Finding("no-host", Severity.WARNING, "It has no host to lie on, so its frames are carried."),)
    if orientation is Orientation.TOWARDS and near.target is None:
        return (Finding("no-target", Severity.WARNING, "Its up has nothing to point to, so its frames are carried."),)
    return ()


def path_told(shape: PathShape, path: ResolvedPath, profile: Profile) -> tuple[Finding, ...]:
    """What is to be said of the path itself."""
    return (
        *knot_findings(shape, path.shape, path.knot_at),
        *path_findings(path, profile.width),
        *radius_findings(path.shape, path.knot_at),
    )
