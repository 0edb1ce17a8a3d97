"""Drawing along edges of hosts: each click adds an edge to the chain or takes it away; Enter ends. No Qt here."""

from dataclasses import replace

import numpy as np

from morphax.app.session.pointer import Pointer
from morphax.app.session.workspace import Workspace
from morphax.app.tools.path.draw_landing import nice_width
from morphax.app.tools.shared.landing import Snapping
from morphax.app.tools.shared.snap_targets import SnapTargets
from morphax.app.tools.shared.state import Sketch
from morphax.app.tools.shared.typing import Typed
from morphax.core.mesh.edge_chains import (
    EdgeChain,
    is_free_inside,
    is_smooth,
    outside_right,
    outward_of,
    simplified,
    smooth_run,
    with_edge,
)
from morphax.core.mesh.port_finding import facing_order, rim_loop
from morphax.core.mesh.triangles import Creases
from morphax.core.path.paths import PathKind
from morphax.core.section.sections import Side
from morphax.core.types import Vectors3
from morphax.project.edits.edge_laying import lies_on_flat, with_flat_on
from morphax.project.edits.ports import held
from morphax.project.edits.runs import Added, add_run, with_part
from morphax.project.lookup import path_of, source_shape
from morphax.project.things import Selection
from morphax.project.units import format_length

_SAME_FACE = 0.999
"""Cosine between normals of one flat face."""


class EdgeTool:
    """Collects a chain of edges. ``chains`` are its states, so that the last click can be taken back."""

    kind = "edges"

    def __init__(self, workspace: Workspace, around: SnapTargets) -> None:
        self.workspace, self.around = workspace, around
        self.chains: list[EdgeChain] = []
        self.sketch, self.typed = Sketch(), Typed()
        self.width = 0.02
        self.host: str | None = None
        self.face: Vectors3 | None = None

    @property
    def is_drawing(self) -> bool:
        return bool(self.chains)

    @property
    def chain(self) -> EdgeChain:
        return self.chains[-1] if self.chains else EdgeChain()

    def _edges(self, at: Pointer) -> tuple[str, Creases, list[int]] | None:
        """The edges that a click takes: the one under the pointer, with Shift those that go on from it, with O held
        its whole loop."""
        found = self.around.edge_at(at)
        if found is None:
            return None
        host, creases, edge = found
        if at.add:
            return host, creases, smooth_run(creases, edge)
        if at.whole:
            loop = rim_loop(creases, edge, self._side(at, host, creases, edge))
            if loop is not None:
                pairs = zip(loop, np.roll(loop, -1), strict=True)
                return host, creases, [_edge_between(creases, int(a), int(b)) for a, b in pairs]
        return host, creases, [edge]

    def _side(self, at: Pointer, host: str, creases: Creases, edge: int) -> Vectors3:
        """The normal (3,) of the face beside an edge that the pointer is on; off both, the way to the eye."""
        found = self.around.front(at)
        beside = creases.normals[edge]
        if found is None or found[0] != host or (beside @ found[1].normal).max() < _SAME_FACE:
            return -at.sight.basis.forward
        return found[1].normal

    def hover(self, at: Pointer, snapping: Snapping) -> None:
        """Shows what a click would add, with the body along it."""
        found = self._edges(at)
        if found is None:
            self.sketch = Sketch()
            self._show(self.chain)
            return
        host, creases, edges = found
        lines = tuple(creases.points[creases.edges[e]] for e in edges)
        after = _added(self.chain, creases, edges)
        middle = lines[len(lines) // 2].mean(0)
        length = sum(float(np.linalg.norm(line[1] - line[0])) for line in lines)
        words = "takes it away" if len(after.points) < len(self.chain.points) else "closes" if after.closed else "adds"
        unit = self.workspace.project.unit
        if len(after.gaps) > len(self.chain.gaps):
            words = f"bridges a gap of {format_length(after.gaps[-1], unit=unit, decimals=1)}"
        self.sketch = Sketch(label=f"edge · {format_length(length, unit=unit, decimals=1)} · {words}", label_at=middle,
                             lines=lines)  # fmt: skip
        if not self.chains:
            self.face = self._face(at, host, creases, edges)
            self.width = self.workspace.bench.next_run.width or nice_width(
                at.sight.height, self.workspace.bench.next_run.source
            )
            least = 3.0 * at.sight.scale_at(middle)
            self.width = max(self.width, least) if self.workspace.bench.next_run.width is None else self.width
        self._show(after)

    def press(self, at: Pointer, snapping: Snapping) -> None:
        """Adds the edges under the pointer, or takes them away."""
        found = self._edges(at)
        if found is None:
            self.workspace.said.emit("There is no edge of a host under the pointer.")
            return
        host, creases, edges = found
        after = _added(self.chain, creases, edges)
        if len(after.gaps) > len(self.chain.gaps):
            gap = format_length(after.gaps[-1], unit=self.workspace.project.unit)
            self.workspace.said.emit(f"That edge does not meet the chain: a gap of {gap} is bridged.")
        if not self.chains:
            self.face = self._face(at, host, creases, edges)
        self.host = host
        self.chains.append(after)
        if not len(after.points):
            self.cancel()
        elif after.closed:
            self.finish()
        else:
            self._show(after)

    def finish(self, *, closed: bool = False) -> str | None:
        """A run along the chain; returns its id."""
        if not len(self.chain.points):
            return None
        added = self._run(self.chain)
        self.chains, self.sketch = [], Sketch()
        self.workspace.edit("Draw along edges", added.project, Selection.of(runs=(added.ids[0],)))
        return added.ids[0]

    def _run(self, chain: EdgeChain) -> Added:
        """The project with a run along the chain, whose knots hold on to the host."""
        walked = outside_right(simplified(chain))
        base, smooth = self.workspace.finished, is_smooth(simplified(chain))
        kind = PathKind.THROUGH if smooth else PathKind.STRAIGHT
        places = [(float(x), float(y), float(z)) for x, y, z in walked.points]
        new = self.workspace.bench.next_run
        added = add_run(base, kind, places, replace(new, width=new.width or self.width), closed=chain.closed)
        if self.face is not None and new.like is None and lies_on_flat(new.source):  # a preset brings its own placing
            project = with_flat_on(added.project, added.ids[0], self.face)
            added = replace(added, project=project)
        if new.like is None and is_free_inside(chain) and source_shape(new.source).laying.side is Side.OUT:
            added = replace(added, project=with_part(added.project, added.ids[:1], "placing", flip=True))
        if self.host is None:
            return added
        path = path_of(added.project, added.ids[0])
        return replace(added, project=held(added.project, path.id, {k.id: (self.host, k.place) for k in path.knots}))

    def _face(self, at: Pointer, host: str, creases: Creases, edges: list[int]) -> Vectors3:
        """The normal (3,) of the face on which a section with a flat lies: that on the pointer's side."""
        under = self.around.edge_at(at)
        edge = edges[0] if under is None else under[2]
        order = facing_order(creases, edge, self._side(at, host, creases, edge))
        normal: Vectors3 = creases.normals[edge, order[0]]
        return normal

    def _show(self, chain: EdgeChain) -> None:
        if len(chain.points) < 2:
            self.workspace.unfinished.show(None)
            return
        added = self._run(chain)
        self.workspace.unfinished.show(added.project, added.ids[0])

    def type(self, typed: Typed) -> None:
        """Nothing is typed while edges are collected."""

    def enter_typed(self) -> bool:
        return False

    def hover_left(self) -> None:
        """The pointer left the panes: only the chain is shown."""
        self.sketch = Sketch()
        self._show(self.chain)

    def take_back(self) -> bool:
        """Takes back the last click; False when there is none."""
        if not self.chains:
            return False
        self.chains.pop()
        self._show(self.chain)
        return True

    def cancel(self) -> bool:
        """Drops the chain; False when there is none."""
        was = self.is_drawing
        self.chains, self.sketch = [], Sketch()
        self.workspace.unfinished.show(None)
        return was

    def pull(self, at: Pointer, snapping: Snapping) -> None:
        """A drag does nothing here."""


def _edge_between(creases: Creases, a: int, b: int) -> int:
    return int(np.flatnonzero(((creases.edges == a) | (creases.edges == b)).all(1))[0])


def _added(chain: EdgeChain, creases: Creases, edges: list[int]) -> EdgeChain:
    for edge in edges:
        start, end = creases.points[creases.edges[edge]]
        chain = with_edge(chain, start, end, outward_of(creases, edge))
    return chain
