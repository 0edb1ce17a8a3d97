"""Strands of the document: between which runs they run."""

from typing import Annotated, Self

from pydantic import Field, model_validator

from morphax.core.body.in_between import MOST_GUIDES, InBetween
from morphax.project.model.values import Entity, Id


class StrandsOf(Entity):
    """A run is strands between the runs ``of`` which they are blends, in that order; ``rule``: how many, and how."""

    of: Annotated[tuple[Id, ...], Field(min_length=1, max_length=MOST_GUIDES)]
    rule: InBetween = InBetween()

    @model_validator(mode="after")
    def _has_each_once(self) -> Self:
        if len(set(self.of)) != len(self.of):
            raise ValueError("strands run between runs each of which counts once")
        return self
