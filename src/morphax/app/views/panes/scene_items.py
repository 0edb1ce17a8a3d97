"""From the workspace to what the renderer draws; what did not change is handed on as it was."""

import numpy as np

from morphax.app.session.workspace import Workspace
from morphax.app.views.view3d.scene import Bundle, Item
from morphax.app.widgets.backdrop import Rgb
from morphax.app.widgets.theme import Tokens, rgb
from morphax.build.builder import Built
from morphax.core.mesh.mesh import Mesh
from morphax.io.looks import look_of
from morphax.project.model.document import Material, Project, Run

GHOST = 0.28
"""Opacity of what is shown as a ghost."""
MANY, TOGETHER, SMALL = 150, 48, 20_000
"""From so many bodies on, those with fewer points than ``SMALL`` are drawn together, so many at a time."""


class Scene:
    """The items of a workspace's bodies and hosts, kept up with it: an edit of one run makes one item anew.

    Where there are many, small bodies of one look are drawn in bundles; a body keeps its place in its bundle, so that
    its change makes one bundle anew.
    """

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self._version = -1
        self._materials: tuple[Material, ...] = ()
        self._shown: dict[str, Item] = {}
        self._bundles = _Bundles()
        self._looks: dict[str | None, tuple[Rgb, float, float]] = {}
        self._items: tuple[Item, ...] = ()

    def items(self, tokens: Tokens) -> tuple[Item, ...]:
        """All bodies and hosts that are shown."""
        self._keep_up()
        return (*host_items(self.workspace), *self._items)

    def _keep_up(self) -> None:
        ws = self.workspace
        materials = ws.project.materials
        touched = ws.bodies.touched_since(self._version) if materials is self._materials else None
        if touched is not None and not touched:
            return
        if touched is None:
            self._shown, self._bundles, self._looks = {}, _Bundles(), {}
            touched = frozenset(r.id for r in ws.project.runs)
        self._version, self._materials = ws.bodies.version, materials
        for name in touched:
            run, built = ws.project.find("runs", name), ws.bodies.get(name)
            item = None if run is None or built is None else self._item_of(ws.project, run, built)
            self._bundles.take(name, item)
            if item is None:
                self._shown.pop(name, None)
            else:
                self._shown[name] = item
        is_crowd = len(self._shown) > MANY
        self._items = self._bundles.items() if is_crowd else tuple(self._shown.values())

    def _item_of(self, project: Project, run: Run, built: Built) -> Item | None:
        if run.show.hidden or not built.body.mesh.face_count:
            return None
        look = self._looks.get(run.show.material)
        if look is None:
            found = look_of(project, run.show)
            look = self._looks[run.show.material] = (rgb(found.colour), found.roughness, found.metal)
        return Item(built.body.mesh, *look, opacity=GHOST if run.show.ghost else 1.0)


def host_items(workspace: Workspace) -> list[Item]:
    """All hosts that are shown."""
    project, out = workspace.project, []
    for host in project.hosts:
        if not host.show.hidden and host.is_solid:
            look = look_of(project, host.show)
            mesh = workspace.bodies.builder.host(project, host)
            opacity = GHOST if host.show.ghost else 1.0
            out.append(Item(mesh, rgb(look.colour), look.roughness, look.metal, False, opacity, warns_inside=False))
    return out


Key = tuple[tuple[object, ...], int]
"""A bundle: its look and its number."""


class _Bundles:
    """Small bodies in bundles by look, large ones alone."""

    def __init__(self) -> None:
        self._alone: dict[str, Item] = {}
        self._place: dict[str, tuple[Key, int]] = {}
        self._members: dict[Key, dict[int, Item]] = {}
        self._made: dict[Key, Item] = {}
        self._free: dict[tuple[object, ...], list[int]] = {}
        self._next: dict[tuple[object, ...], int] = {}

    def take(self, name: str, item: Item | None) -> None:
        """A body's item now; None: it is not shown."""
        self._alone.pop(name, None)
        old, look = self._place.get(name), () if item is None else item.look
        stays = old is not None and item is not None and old[0][0] == look and len(item.mesh.points) < SMALL
        if old is not None and not stays:
            key, k = self._place.pop(name)
            del self._members[key][k]
            self._made.pop(key, None)
            self._free.setdefault(key[0], []).append(key[1] * TOGETHER + k)
        if item is None:
            return
        if len(item.mesh.points) >= SMALL:
            self._alone[name] = item
            return
        key, k = old if old is not None and stays else self._free_place(look)
        self._place[name] = (key, k)
        self._members.setdefault(key, {})[k] = item
        self._made.pop(key, None)

    def _free_place(self, look: tuple[object, ...]) -> tuple[Key, int]:
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
                self._made[key] = _bundle(tuple(members.values()))
        return (*self._alone.values(), *(item for key, item in self._made.items() if self._members[key]))


def _bundle(items: tuple[Item, ...]) -> Item:
    first = items[0]
    meshes: tuple[Mesh, ...] = tuple(i.mesh for i in items if isinstance(i.mesh, Mesh))
    return Item(
        Bundle(meshes), first.colour, first.roughness, first.metal, first.edges, first.opacity, first.warns_inside
    )


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
