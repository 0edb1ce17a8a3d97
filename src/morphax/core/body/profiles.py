"""The stage of a sweep that makes its profile: of one section, or of what varies along the run."""

from dataclasses import dataclass, replace
from functools import partial
from math import degrees

from morphax.core.body.end_zones import AUTO_SHARE
from morphax.core.body.profile import Profile, SectionFacts, even_profile
from morphax.core.body.recipe import Keep, Recipe, fresh
from morphax.core.findings import Finding, Severity
from morphax.core.frame.outward import closed_start_up, faces_wrong_way
from morphax.core.loft.along import PLAIN_ALONG, Along, Sampling, varied_profile
from morphax.core.loft.varying_laws import VaryingLaws
from morphax.core.path.resolved import ResolvedPath
from morphax.core.section.held import held_blocks
from morphax.core.section.outline_checks import section_errors, section_warnings
from morphax.core.section.sampling import kept_with, placed_section, sample_section, section_width, with_seam
from morphax.core.section.sections import SectionShape, anchor_place, section_reach

_MOST_SIDES = 2000
"""Profiles of more sides are made anew: a few dozen of them are kept with a section."""


@dataclass(frozen=True, eq=False)
class Carries:
    """What a run carries: a section, the first of several, and what varies ``along`` it."""

    section: SectionShape
    along: Along = PLAIN_ALONG

    @property
    def sections(self) -> tuple[SectionShape, ...]:
        """All sections, each once."""
        return tuple({id(s): s for s in (self.section, *(t.section for t in self.along.stations))}.values())


def carries(what: SectionShape | Carries) -> Carries:
    """A section alone is all that its run carries."""
    return what if isinstance(what, Carries) else Carries(what)


def outline_findings(what: Carries, keep: Keep = fresh) -> tuple[Finding, ...]:
    """What makes any of the sections impossible."""
    found: list[Finding] = []
    for section in what.sections:
        found += keep("outline", (section,), partial(section_errors, section))
    return tuple(dict.fromkeys(found))


def outline_warnings(what: Carries) -> tuple[Finding, ...]:
    """What else is to be said of the sections."""
    return tuple(dict.fromkeys(f for section in what.sections for f in section_warnings(section)))


def twist_notes(what: Carries, profile: Profile, path: ResolvedPath) -> tuple[Finding, ...]:
    """Says where a closed path takes another twist than the one that was asked for."""
    if not path.chain.closed or not what.along.twist or not isinstance(profile.laws, VaryingLaws):
        return ()
    asked, made = degrees(what.along.twist), degrees(profile.laws.twist_rate * path.length)
    if abs(asked - made) <= 1e-6 * max(abs(asked), 1.0):
        return ()
    words = f"Round a closed path the section comes on to itself: a twist of {asked:.4g}° is {made:.4g}° there."
    return (Finding("twist-rounded", Severity.NOTE, words),)


def profile_stage(path: ResolvedPath, what: SectionShape | Carries, recipe: Recipe, keep: Keep = fresh) -> Profile:
    """What the run carries as a profile: the section sampled, about its anchor and mirrored, with its size and roll as
    laws, and what varies along it."""
    section, along = (what.section, what.along) if isinstance(what, Carries) else (what, PLAIN_ALONG)
    way = path if path.chain.closed else None  # only a closed path has a say in which way a section faces
    placing, density = recipe.placing, recipe.density
    placed = (placing.anchor, placing.flip, placing.roll, placing.seam)
    reads = (way, section, recipe.size, *placed, density.sides, density.of_sides, density.hold)
    made: Profile = keep("section", reads, lambda: _profile(path, section, recipe))
    if along.is_plain:
        return made
    varied: Profile = keep("along", (path, made, along), lambda: _varied(path, Carries(section, along), recipe, made))
    return varied


def _varied(path: ResolvedPath, what: Carries, recipe: Recipe, first: Profile) -> Profile:
    placing, density, side = recipe.placing, recipe.density, what.section.laying.side
    along = what.along.standing_at(path.knot_at, path.length)
    widest = max([section_width(s.section) * s.scale for s in along.stations] or [section_width(what.section)])
    sampling = Sampling(
        recipe.size,
        placing.roll,
        placing.flip is not faces_wrong_way(path, side, closed_start_up(path, side)),
        placing.seam,
        placing.anchor,
        density.sides,
        density.of_sides or AUTO_SHARE * widest * recipe.size,
    )
    profile = varied_profile(along, first, sampling, path.length, closed=path.chain.closed)
    if density.hold is not None and not along.has_one_as_it_is:
        profile = replace(profile, basis=held_blocks(profile.basis, density.hold / recipe.size))
    most = profile.laws.most / recipe.size
    if not along.has_one_as_it_is or most <= 1.0 or density.sides is not None:
        return profile
    own = _laid_profile(what.section, recipe, mirror=sampling.mirror, most=most)
    return replace(profile, basis=own.basis)


def _profile(path: ResolvedPath, section: SectionShape, recipe: Recipe) -> Profile:
    """Runs of one section that are laid alike share a profile: it is kept with what is known of the section."""
    placing, density, side = recipe.placing, recipe.density, section.laying.side
    mirror = placing.flip is not faces_wrong_way(path, side, closed_start_up(path, side))
    laid = (
        placing.anchor,
        mirror,
        placing.roll,
        placing.seam,
        recipe.size,
        density.sides,
        density.of_sides,
        density.hold,
    )
    if (density.sides or 0) > _MOST_SIDES:
        return _laid_profile(section, recipe, mirror=mirror)
    return kept_with(section, ("profile", laid), lambda: _laid_profile(section, recipe, mirror=mirror))


def _laid_profile(section: SectionShape, recipe: Recipe, *, mirror: bool, most: float = 1.0) -> Profile:
    """``most``: how many times larger than the run's size it gets."""
    width, placing, density = section_width(section), recipe.placing, recipe.density
    if density.sides is not None:
        sampled = sample_section(section, sides=density.sides)
    else:
        deviation = density.of_sides or AUTO_SHARE * width * recipe.size
        sampled = sample_section(section, deviation=0.5 * deviation / (recipe.size * most))
    sampled = with_seam(sampled, placing.seam) if placing.seam else sampled
    anchor = anchor_place(section, section.laying.anchor if placing.anchor is None else placing.anchor)
    block = placed_section(sampled, anchor=anchor, mirror=mirror)
    if density.hold is not None:
        block = held_blocks((block,), density.hold / recipe.size)[0]
    facts = SectionFacts(width, section_reach(section, anchor), section.laying)
    return even_profile(block, facts, size=recipe.size, roll=placing.roll)
