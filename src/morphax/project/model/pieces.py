"""Sets of pieces that stand along a run, as they stand in the document."""

from morphax.core.pieces.rules import PieceRule
from morphax.project.model.values import Entity, Id

MOST_SETS = 50
"""A run has no more sets of pieces."""


class PieceSet(Entity):
    """Pieces of one form along a run, and what they look like, by default as the run; ``to``: the path to which they
    are drawn out from it; ``foot``: the host to which they are, along their way down or outwards; ``of``: the host, or
    other run, that each piece is a copy of, in place of the form."""

    id: Id
    rule: PieceRule
    material: Id | None = None
    to: Id | None = None
    foot: Id | None = None
    of: Id | None = None

    @property
    def is_alone(self) -> bool:
        """Whether it is a form along its run and nothing else of the document: then any run can have it."""
        return self.to is None and self.foot is None and self.of is None
