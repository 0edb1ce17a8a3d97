"""From the workspace to what the renderer draws; what did not change is handed on as it was."""

from dataclasses import replace
from typing import NamedTuple

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.views.panes.deviation_marks import tints_of
from morphax.app.views.view3d.scene import Bundle, Item, Repeated
from morphax.app.widgets.backdrop import Rgb
from morphax.app.widgets.theme import Tokens, rgb
from morphax.core.body.recipe import Body
from morphax.core.mesh.mesh import Mesh, by_look
from morphax.io.looks import look_of
from morphax.project.model.document import Material, Project, Run, Show, evolve
from morphax.project.ready_looks import PLAIN_HOST

GHOST = 0.28
"""Opacity of what is shown as a ghost."""
MANY, TOGETHER, SMALL = 150, 48, 20_000
"""From so many bodies on, those with fewer points than ``SMALL`` are drawn together, so many at a time."""


class _Look(NamedTuple):
    """How bodies of one material are drawn: its number, and an item's fields after the mesh."""

    number: int
    colour: Rgb
    roughness: float
    metal: float
    opacity: float
    is_sheet: bool
    tints: np.ndarray | None = None
    whole: Mesh | None = None
    of_look: int = 0

    def item(self, mesh: "Mesh | Bundle | Repeated") -> Item:
        inside = not self.is_sheet
        made = Item(mesh, self.colour, self.roughness, self.metal, opacity=self.opacity, warns_inside=inside)
        return replace(made, tints=self.tints, whole=self.whole, of_look=self.of_look)


class Scene:
    """The items of a workspace's bodies and hosts, kept up with it: an edit of one run makes one item anew.

    Where there are many, small bodies of one look are drawn in bundles; a body keeps its place in its bundle, so that
    its change makes one bundle anew.
    """

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self._version = -1
        self._materials: tuple[Material, ...] = ()
        self._shown: dict[str, tuple[Mesh | Repeated, _Look]] = {}
        self._keys: dict[str, tuple[str, ...]] = {}
        self._single: dict[str, Item] = {}
        self._bundles = _Bundles()
        self._looks: dict[tuple[str | None, bool, bool], _Look] = {}
        self._items: tuple[Item, ...] = ()
        self._tinted: tuple[object, ...] = ()
        self._tints: dict[str, np.ndarray] = {}

    def items(self, tokens: Tokens) -> tuple[Item, ...]:
        """All bodies and hosts that are shown."""
        self._take_tints(tokens)
        self._keep_up()
        return (*host_items(self.workspace), *self._items)

    def _take_tints(self, tokens: Tokens) -> None:
        """The colours of what is measured; where those are others than before, all is made anew."""
        found = self.workspace.deviations.found
        known = (tokens, *found.items())
        if known[1:] == self._tinted[1:] and (not found or known == self._tinted):
            return
        largest = self.workspace.deviations.largest
        self._tinted, self._version = known, -1
        self._tints = {i: tints_of(d, largest, tokens) for i, d in found.items()}

    def _keep_up(self) -> None:
        ws = self.workspace
        materials = ws.project.materials
        touched = ws.bodies.touched_since(self._version) if materials == self._materials else None
        if touched is not None and not touched:
            return
        if touched is None:
            self._shown, self._single, self._bundles, self._looks, self._keys = {}, {}, _Bundles(), {}, {}
            touched = frozenset(r.id for r in ws.project.runs)
        self._version, self._materials = ws.bodies.version, materials
        project, bodies = ws.bodies.project, ws.bodies
        for name in touched:
            run, built = project.find("runs", name), bodies.get(name)
            if run is None or built is None or run.show.hidden:
                self._take(name, _Parts())
            else:
                self._take(name, self._parts(project, run, built.body))
        is_crowd = len(self._shown) > MANY
        self._items = self._bundles.items() if is_crowd else tuple(self._alone(name) for name in self._shown)

    def _parts(self, project: Project, run: Run, body: Body) -> "_Parts":
        """A body, and the pieces of each of its sets."""
        out = self._of_looks(run.id, project, run.show, body.mesh) if body.mesh.face_count else _Parts()
        for own, copies in zip(run.recipe.sets, body.copies, strict=False):  # what can't be built has none
            if len(copies.transforms):
                look = self._look_of(project, run.show, own.material or run.show.material, is_sheet=False)
                points = len(copies.mesh.points) * len(copies.transforms)
                out[f"{run.id}#{own.id}"] = (copies.whole if points < SMALL else Repeated(copies), look)
        return out

    def _of_looks(self, name: str, project: Project, show: Show, mesh: Mesh) -> "_Parts":
        """A body by itself, or in pieces of one look each."""
        if name in self._tints:
            look = self._look_of(project, show, show.material, is_sheet=mesh.is_sheet)
            return _Parts({name: (mesh, look._replace(tints=self._tints[name]))})
        return _Parts(
            {
                f"{name}/{own}" if own else name: (
                    piece,
                    self._look_of(project, show, own or show.material, is_sheet=mesh.is_sheet)._replace(
                        whole=None if mesh.looks is None else mesh,
                        of_look=0 if mesh.looks is None else mesh.looks.names.index(own),
                    ),
                )
                for own, piece in by_look(mesh)
            }
        )

    def _take(self, name: str, pieces: "_Parts") -> None:
        """What is shown of a run from now on."""
        for key in self._keys.pop(name, ()):
            self._single.pop(key, None)
            if key not in pieces:
                del self._shown[key]
                self._bundles.drop(key)
        for key, (mesh, look) in pieces.items():
            self._shown[key] = mesh, look
            self._bundles.take(key, mesh, look)
        if pieces:
            self._keys[name] = tuple(pieces)

    def _alone(self, name: str) -> Item:
        """A body's own item."""
        if name not in self._single:
            mesh, look = self._shown[name]
            self._single[name] = look.item(mesh)
        return self._single[name]

    def _look_of(self, project: Project, show: Show, material: str | None, *, is_sheet: bool) -> _Look:
        key = (material, show.ghost, is_sheet)
        look = self._looks.get(key)
        if look is None:
            found = look_of(project, show if material == show.material else evolve(show, material=material))
            opacity = GHOST if show.ghost else 1.0
            look = _Look(len(self._looks), rgb(found.colour), found.roughness, found.metal, opacity, is_sheet)
            self._looks[key] = look
        return look


class _Parts(dict[str, tuple[Mesh | Repeated, _Look]]):
    """What is drawn of a run, by names of its own."""


def host_items(workspace: Workspace) -> list[Item]:
    """All hosts that are shown."""
    project, out = workspace.project, []
    for host in project.hosts:
        if not host.show.hidden and host.is_solid:
            look = look_of(project, host.show, plain=PLAIN_HOST)
            mesh = workspace.bodies.builder.host(project, host)
            opacity = GHOST if host.show.ghost else 1.0
            out.append(Item(mesh, rgb(look.colour), look.roughness, look.metal, False, opacity, warns_inside=False))
    return out


Key = tuple[int, int]
"""A bundle: the number of its look, and its own."""


class _Bundles:
    """Small bodies in bundles by look, large ones alone."""

    def __init__(self) -> None:
        self._alone: dict[str, Item] = {}
        self._place: dict[str, tuple[Key, int]] = {}
        self._members: dict[Key, dict[int, Mesh]] = {}
        self._looks: dict[int, _Look] = {}
        self._made: dict[Key, Item] = {}
        self._free: dict[int, list[int]] = {}
        self._next: dict[int, int] = {}

    def take(self, name: str, mesh: Mesh | Repeated, look: _Look) -> None:
        """A body's mesh and look now."""
        if isinstance(mesh, Repeated):
            self.drop(name)
            self._alone[name] = look.item(mesh)
            return
        is_small = len(mesh.points) < SMALL and look.tints is None and look.whole is None
        old = self._place.get(name)
        if old is not None and old[0][0] == look.number and is_small:
            key, k = old
        else:
            self.drop(name)
            if not is_small:
                self._alone[name] = look.item(mesh)
                return
            self._looks[look.number] = look
            self._place[name] = key, k = self._free_place(look.number)
        self._members.setdefault(key, {})[k] = mesh
        self._made.pop(key, None)

    def drop(self, name: str) -> None:
        """A body is not shown any more."""
        self._alone.pop(name, None)
        if name in self._place:
            key, k = self._place.pop(name)
            del self._members[key][k]
            self._made.pop(key, None)
            self._free.setdefault(key[0], []).append(key[1] * TOGETHER + k)

    def _free_place(self, look: int) -> tuple[Key, int]:
        free = self._free.get(look)
        if free:
            number = free.pop()
        else:
            number = self._next.get(look, 0)
            self._next[look] = number + 1
        return (look, number // TOGETHER), number % TOGETHER

    def items(self) -> tuple[Item, ...]:
        """Large ones, and a bundle of each group of small ones."""
        for key, members in self._members.items():
            if key not in self._made and members:
                self._made[key] = self._looks[key[0]].item(Bundle(tuple(members.values())))
        return (*self._alone.values(), *(item for key, item in self._made.items() if self._members[key]))


EMPTY_SIZES = {"hand": 0.1, "room": 1.0, "site": 10.0}
"""Half the width of an empty view, m, by the size of the work."""


def scene_points(workspace: Workspace, *, chosen: bool = False, empty: str = "room") -> np.ndarray:
    """Points (n, 3) that framing must show; the usual size of the work about the origin when there is nothing."""
    project = workspace.project
    if chosen:
        bodies = [b for i in workspace.selection.runs if (b := workspace.bodies.get(i)) is not None]
        parts = [b.body.mesh.bounds if b.body.mesh.face_count else b.path.polyline for b in bodies]
    else:
        parts = [workspace.bodies.tally.box]
    if not chosen or not parts:
        parts += [workspace.bodies.builder.host(project, h).bounds for h in project.hosts if not h.show.hidden]
    parts = [p for p in parts if len(p)]
    if not parts:
        return EMPTY_SIZES[empty] * np.array([[-1.0, -1.0, 0.0], [1.0, 1.0, 1.2]])
    return np.concatenate([np.array([p.min(0), p.max(0)]) for p in parts])
