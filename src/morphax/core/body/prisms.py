"""Legs on which nothing changes: two rings are all that they need."""

from morphax.core.body.profile import Profile
from morphax.core.frame.frames import FrameField


def is_prism(field: FrameField, leg: int, profile: Profile) -> bool:
    """Whether a leg runs straight on with one section, which does not turn."""
    f = field.legs[leg]
    return profile.is_even and f.leg.straight and not f.slope.any() and not f.ease.any()
