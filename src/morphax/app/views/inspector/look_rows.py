"""The rows of looks, for chosen runs and hosts alike: which one, its colour, how rough it is, how much of a metal."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from morphax.app.session.workspace import Workspace
from morphax.app.views.inspector.rows import VARIES, Choices, Row
from morphax.io.looks import look_of
from morphax.project.edits.looks import materials_of, set_look, with_look, with_material
from morphax.project.model.document import Host, Run
from morphax.project.ready_looks import PLAIN_HOST, PLAIN_RUN, READY_LOOKS, ReadyLook, ready_look

_READY = "ready:"
"""Begins the choice of a ready-made look that the project does not have yet."""
_PLAIN = ""


def things_of(ws: Workspace) -> list[Run | Host]:
    """Chosen runs and hosts."""
    runs = [ws.project.find("runs", i) for i in ws.selection.runs]
    hosts = [ws.project.find("hosts", i) for i in ws.selection.hosts]
    return [t for t in (*runs, *hosts) if t is not None]


def ids_of(ws: Workspace) -> tuple[str, ...]:
    return tuple(t.id for t in things_of(ws))


def _common(ws: Workspace, read: Callable[[Run | Host], Any]) -> Any:
    values = {read(t) for t in things_of(ws)}
    return None if not values else values.pop() if len(values) == 1 else VARIES


def _plain(thing: Run | Host) -> ReadyLook:
    return PLAIN_HOST if isinstance(thing, Host) else PLAIN_RUN


def _value(field: str) -> Callable[[Workspace], Any]:
    def read(ws: Workspace) -> Any:
        return _common(ws, lambda t: getattr(look_of(ws.project, t.show, plain=_plain(t)), field))

    return read


def _set(field: str, words: str) -> Callable[[Workspace, Any], object]:
    return lambda ws, value: ws.attempt(words, lambda p: set_look(p, ids_of(ws), **{field: value}))


def look_choices(ws: Workspace) -> Choices:
    """The project's own looks, then the ready-made ones that it does not have."""
    own = tuple((m.id, m.name) for m in ws.project.materials)
    names = {m.name for m in ws.project.materials}
    ready = [look.name for looks in READY_LOOKS.values() for look in looks if look.name not in names]
    return ((_PLAIN, "plain"), *own, *((f"{_READY}{name}", name) for name in ready))


def ready_choice(choice: str) -> ReadyLook | None:
    """The ready-made look that was chosen; None for one of the project's own."""
    return ready_look(choice.removeprefix(_READY)) if choice.startswith(_READY) else None


def _choose(ws: Workspace, choice: str) -> None:
    look = ready_choice(choice)
    if look is not None:
        ws.attempt("Change the look", lambda p: with_look(p, ids_of(ws), look))
    else:
        ws.attempt("Change the look", lambda p: with_material(p, ids_of(ws), choice or None))


def look_words(ws: Workspace) -> str:
    """The look's name, and whether others have it too."""
    material = _common(ws, lambda t: t.show.material)
    if material is VARIES:
        return "varies"
    found = None if material is None else ws.project.find("materials", material)
    if found is None:
        return "plain"
    things: list[Run | Host] = [*ws.project.runs, *ws.project.hosts]
    users = sum(t.show.material == material for t in things)
    users += sum(material in materials_of(s) for s in ws.project.sections)
    users += sum(s.material == material for r in ws.project.runs for s in r.recipe.sets)
    return f"{found.name}, shared" if users > len(things_of(ws)) else str(found.name)


def _is_own(ws: Workspace) -> bool:
    """Whether anything chosen has a material, which can be named."""
    return _common(ws, lambda t: t.show.material) not in (None, VARIES)


LOOK = (
    Row(
        "look.material",
        "Look",
        "choice",
        lambda ws: _common(ws, lambda t: t.show.material or _PLAIN),
        _choose,
        changed=lambda ws: _common(ws, lambda t: t.show.material) is not None,
        reset=lambda ws: _choose(ws, _PLAIN),
        choices=look_choices,
    ),
    Row("look.name", "Name", "text", _value("name"), _set("name", "Rename the look"), shown=_is_own),
    Row("look.colour", "Colour", "colour", _value("colour"), _set("colour", "Set the colour")),
    Row("look.roughness", "Rough", "share", _value("roughness"), _set("roughness", "Set how rough it is")),
    Row("look.metal", "Metal", "share", _value("metal"), _set("metal", "Set how much of a metal it is")),
)
HOST_LOOK = tuple(replace(row, id=f"host.{row.id}") for row in LOOK)
"""The same on the card of hosts."""
