"""What every value of the document is made of: frozen entities, checked numbers, names and ids. Lengths in metres."""

from dataclasses import fields
from functools import cache
from typing import Annotated, Any, Literal, Self, TypeVar

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter

from morphax.core.errors import MorphaxError

FARTHEST = 1e7
"""No coordinate lies beyond this, m."""

Coordinate = Annotated[float, Field(ge=-FARTHEST, le=FARTHEST)]
Angle = Annotated[float, Field(ge=-1e3, le=1e3)]
Sharpest = Annotated[float, Field(gt=0.0, le=3.0)]
Positive = Annotated[float, Field(gt=0.0, le=FARTHEST)]
Place = tuple[Coordinate, Coordinate, Coordinate]
Id = Annotated[str, Field(pattern=r"^[a-z]+[0-9]+$", max_length=24)]
Name = Annotated[str, Field(min_length=1, max_length=120)]
Colour = Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]
Unit = Literal["mm", "cm", "m", "in", "ft"]

P = TypeVar("P")
M = TypeVar("M", bound="Entity")


class DocumentError(MorphaxError, ValueError):
    """A document or an edit of it that makes no sense."""


class Entity(BaseModel):
    """A frozen value; unknown fields and numbers that are not finite are refused."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def _evolved(self, changes: dict[str, Any]) -> Self | None:
        """A changed copy, where less than a whole validation shows that it is right; else None."""
        return None


@cache
def _reader(part: Any) -> TypeAdapter[Any]:
    return TypeAdapter(part)


@cache
def _names_of(kind: type[BaseModel]) -> tuple[str, ...]:
    return tuple(kind.model_fields)


def evolve(entity: P, **changes: Any) -> P:
    """A changed copy that is validated; what did not change stays the same object, which caches know it by.

    ``entity`` is one of the document's, or a part that the document shares with the core.
    """
    if not isinstance(entity, BaseModel):
        own: dict[str, Any] = {f.name: getattr(entity, f.name) for f in fields(entity)}  # type: ignore[arg-type]
        kind: Any = type(entity)
        part: P = _reader(kind).validate_python({**own, **changes})
        return part
    kept = entity.__dict__
    before = {name: kept[name] for name in _names_of(type(entity))}
    quick = entity._evolved(changes) if isinstance(entity, Entity) else None
    if quick is not None:
        return quick
    made = type(entity).model_validate({**before, **changes})
    for name, value in before.items():
        if name not in changes and isinstance(value, tuple):
            made.__dict__[name] = value  # validation makes tuples anew, with the same items in them
    return made


_put = object.__setattr__


def copied(entity: M, **changes: Any) -> M:
    """A copy of an entity with other ids, places or names of the right kind: nothing is validated."""
    kind = type(entity)
    own, names = entity.__dict__, _names_of(kind)
    # and not what was found out about the other one
    values = own.copy() if len(own) == len(names) else {name: own[name] for name in names}
    values.update(changes)
    made = kind.__new__(kind)  # as pydantic's own copy does, which takes five times as long
    is_set = entity.__pydantic_fields_set__
    _put(made, "__dict__", values)
    _put(made, "__pydantic_fields_set__", is_set if changes.keys() <= is_set else is_set | changes.keys())
    _put(made, "__pydantic_extra__", None)
    _put(made, "__pydantic_private__", None)
    return made


class Show(Entity):
    """How a thing is shown; it never changes a mesh. A locked one is not picked or changed in the views."""

    name: Name
    hidden: bool = False
    locked: bool = False
    ghost: bool = False
    group: Id | None = None
    material: Id | None = None
