"""From project to built bodies: stages cached by the identity of the frozen values that they read."""

from collections import Counter
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import replace
from time import thread_time
from typing import Any
from weakref import WeakValueDictionary

import numpy as np

from morphax.build.along import Carrier
from morphax.build.built import Built, BuiltPath
from morphax.build.cache import MOST_BYTES, IdentityCache, Sources
from morphax.build.cast_runs import cast_body
from morphax.build.entering import entering, rested_on, spans_to_ask
from morphax.build.host_meshes import HostReader, ReadNodes, no_files, placed_mesh
from morphax.build.led_to import led_hosts, near_pieces, whole_mesh
from morphax.build.near import MeshQuery
from morphax.build.readiness import for_now
from morphax.build.strands import Asked, strands_of
from morphax.core.body.batch import alike_key, sweep_alike
from morphax.core.body.nearby import Nearby
from morphax.core.body.recipe import Body
from morphax.core.body.reference import own_nearby
from morphax.core.body.sweep import Drawn, sweep_resolved
from morphax.core.errors import MorphaxError
from morphax.core.findings import Finding, Severity
from morphax.core.kernels.compiling import is_plain
from morphax.core.mesh.mesh import Mesh, empty_mesh, mesh_bytes
from morphax.core.mesh.triangles import Triangles
from morphax.core.path.knot_checks import path_errors
from morphax.core.path.paths import PathShape
from morphax.core.path.resolved import path_polyline, resolve_path
from morphax.core.section.sections import SectionShape
from morphax.core.types import Points3, frozen
from morphax.project.derive.beside import beside_findings, runs_beside
from morphax.project.derive.coils import is_waiting, wound_round
from morphax.project.derive.images import image_of, seen_body
from morphax.project.derive.neighbours import neighbours
from morphax.project.derive.strands import guides_of
from morphax.project.derive.walk import derived
from morphax.project.lookup import path_by_id, path_shape, section_by_id, section_shape
from morphax.project.model.document import Asset, Host, Path, Place, Project, Recipe, Run, Section


def path_bytes(built: BuiltPath) -> int:
    """About how much memory a measured path takes."""
    if built.resolved is None:
        return built.polyline.nbytes
    table = built.resolved.table
    return 4 * (built.resolved.chain.spans.nbytes + table.at.nbytes + table.powers.nbytes) + built.polyline.nbytes


def body_bytes(built: Built) -> int:
    """About how much memory a body takes with its pieces."""
    return mesh_bytes(built.body.mesh) + sum(c.bytes for c in built.body.copies)


def built_path(path: Path) -> BuiltPath:
    """Measures a path; one that cannot be measured keeps its knots as a polyline."""
    shape = path_shape(path)
    errors = path_errors(shape)
    if errors:
        return BuiltPath(shape, None, shape.knots, errors)
    try:
        resolved = resolve_path(shape)
        return BuiltPath(shape, resolved, path_polyline(resolved), ())
    except (MorphaxError, MemoryError) as error:
        return BuiltPath(shape, None, shape.knots, (_cannot(error),))


def _cannot(error: Exception) -> Finding:
    """Why something cannot be built."""
    reason = str(error) or "there is not enough memory for this body"
    return Finding("cannot-build", Severity.ERROR, f"{reason[:1].upper()}{reason[1:]}.")


def _spot(place: Place) -> Callable[[], Points3]:
    """A place as the core's polyline of one point."""
    return lambda: frozen(np.array([place]))


def _is_alone(path: Path, recipe: Recipe) -> bool:
    """Whether a run asks for nothing beside its path and section: no host, nothing to look at, nothing it winds round.

    One that asks for what is gone is not alone: that may come back.
    """
    placing = recipe.placing
    near = (
        path.follows is None
        and recipe.host is None
        and path.made is None
        and placing.towards is None
        and placing.towards_path is None
    )
    leads = any(t.to or t.foot or t.of for t in recipe.sets)
    return near and len(recipe.stations) == 1 and not rested_on(path) and not leads


_MOST_HOSTS = 4096
_ALONE, _LEAST_ALIKE = 3, 4
"""Sources of a run that lies near nothing; and how many runs of equal shape are worth a batch."""
_MOST_STAGES = 48
"""Results of a stage that are kept: what is being changed now; whole bodies are kept for longer."""


_WAITING = Finding(
    "coil-waits", Severity.WARNING, "The path that this coil winds round has sharp corners now; it stays as it was."
)


class BuildStopped(Exception):
    """A build was given up between two of its stages."""


class Builder:
    """Builds runs and hosts of projects; what did not change is found again, not built again.

    What follows from something else is brought up to date first, so that a document that a script has written gives
    the bodies that the window gives. ``present`` is the document in use: nothing of it is ever dropped.
    """

    def __init__(self, read_nodes: ReadNodes = no_files, *, most_bytes: int = MOST_BYTES) -> None:
        self._reader = HostReader(read_nodes)
        self.present = Project()
        self._nodes: IdentityCache[Mapping[str, Triangles]] = IdentityCache(_MOST_HOSTS)
        self._own_hosts: IdentityCache[Mesh] = IdentityCache(weigh=mesh_bytes)
        self._paths: IdentityCache[BuiltPath] = IdentityCache(
            most_bytes=most_bytes // 4, weigh=path_bytes, is_used=lambda sources, _: self._is_present_path(sources[0])
        )
        self._bodies: IdentityCache[Built] = IdentityCache(
            most_bytes=most_bytes, weigh=body_bytes, is_used=lambda _, b: self._is_present(b)
        )
        self._hosts: IdentityCache[Mesh] = IdentityCache(weigh=mesh_bytes)
        self._shapes: IdentityCache[SectionShape] = IdentityCache(_MOST_HOSTS)
        self._queries: IdentityCache[MeshQuery] = IdentityCache(64)
        self._spots: IdentityCache[Points3] = IdentityCache(64)
        self._carrier = Carrier(self._shape)
        self._settled: IdentityCache[Project] = IdentityCache(8)
        self._last: Project | None = None
        self._by_recipe: WeakValueDictionary[int, Built] = WeakValueDictionary()
        self._stages: dict[str, IdentityCache[Any]] = {}
        self.bodies_built = 0
        self.made: Counter[str] = Counter()

    def _is_present_path(self, path: Path) -> bool:
        return self.present.find("paths", path.id) is path

    def _is_present(self, built: Built) -> bool:
        run = self.present.find("runs", built.run_id)
        return run is not None and run.recipe is built.sources[-1] and self._is_present_path(built.sources[0])

    def settled(self, project: Project) -> Project:
        """The document with all that follows from something else as it should be."""
        if project is self._last:
            return project
        return self._settled.get((project,), lambda: derived(project))

    def know_settled(self, project: Project) -> None:
        """Takes a document as settled already."""
        self._last = self._settled.put((project,), project)

    def sources(self, project: Project, run: Run) -> Sources:
        """The frozen values that decide a run's body; the first two are its path and section, the last its recipe."""
        return self._sources(self.settled(project), run)

    def _sources(self, project: Project, run: Run) -> Sources:
        recipe = run.recipe
        path = path_by_id(project, recipe.path)
        section = section_by_id(project, recipe.stations[0].section)
        if run.cast is not None:
            return (path, section, project.find("assets", run.cast), recipe)
        if _is_alone(path, recipe):
            return (path, section, recipe)
        image = image_of(project, run)
        if image is not None:
            return (path, section, *self._sources(project, image[0]), recipe)
        if recipe.strands is not None:
            return (path, section, *(s for g in guides_of(project, run) for s in self._sources(project, g)), recipe)
        host, target = neighbours(project, run)
        near: Sources = tuple(section_by_id(project, s.section) for s in recipe.stations[1:])
        if isinstance(host, Host):
            near = (*near, *self._host_sources(project, host), host.place)
        elif host is not None:
            near = (*near, *self._sources(project, host))
        for under in (h for i in rested_on(path) if isinstance(h := project.find("hosts", i), Host)):
            near = (*near, *self._host_sources(project, under), under.place)
        round_ = wound_round(project, path) or runs_beside(project, path)
        for other in led_hosts(project, run):
            if isinstance(other, Host):
                near = (*near, *self._host_sources(project, other), other.place)
            else:
                near = (*near, *self._sources(project, other))
        led = tuple(found for s in recipe.sets if (found := project.find("paths", s.to)) is not None)
        return (path, section, *near, *led, *(v for v in (target, round_) if v is not None), recipe)

    def run(self, project: Project, run: Run, is_stopped: Callable[[], bool] = lambda: False) -> Built:
        """The body of a run; what cannot be built has findings and an empty mesh.

        Raises BuildStopped, and nothing else, where ``is_stopped`` becomes true between two stages.
        """
        project = self.settled(project)
        sources = self._sources(project, run)
        if is_plain() and not self._bodies.known(sources):
            return self._build(project, run, sources, is_stopped)  # for now: it is not kept
        built = self._bodies.get(sources, lambda: self._build(project, run, sources, is_stopped))
        if run.cast is None and _is_alone(sources[0], run.recipe):
            self._by_recipe[id(run.recipe)] = built
        return built

    def build_alike(self, project: Project, runs: Sequence[Run]) -> None:
        """Builds runs of equal shape together, so that ``run`` finds them; the others are left to it."""
        project = self.settled(project)
        if is_plain():
            return
        groups: dict[Hashable, list[tuple[Run, Sources, PathShape]]] = {}
        for run in runs:
            sources = self._sources(project, run)
            if (
                len(sources) != _ALONE
                or run.recipe.varies
                or spans_to_ask(sources[0])
                or self._bodies.known(sources)
                or self._paths.known(sources[:1])
            ):
                continue
            section = self._shape(sources[1])
            shape = path_shape(sources[0])
            key = alike_key(shape, section, run.recipe, run.recipe.reference)
            if key is not None:
                groups.setdefault((id(section), key), []).append((run, sources, shape))
        for members in groups.values():
            if len(members) >= _LEAST_ALIKE:
                self._keep_alike(members)

    def _keep_alike(self, members: list[tuple[Run, Sources, PathShape]]) -> None:
        begin = thread_time()
        first, section = members[0][0], self._shape(members[0][1][1])
        found = sweep_alike([shape for _, _, shape in members], section, first.recipe)
        each = (thread_time() - begin) / len(members)
        for (run, sources, shape), one in zip(members, found, strict=True):
            if one is not None:
                self.bodies_built += 1
                path = self._paths.put(sources[:1], BuiltPath(shape, one.path, one.polyline, ()))
                built = self._bodies.put(sources, Built(run.id, path, one.body, each, sources))
                self._by_recipe[id(sources[-1])] = built

    def _shape(self, section: Section) -> SectionShape:
        return self._shapes.get((section,), lambda: section_shape(section))

    def found_alone(self, project: Project, run: Run) -> Built | None:
        """The body of a run that lies near nothing, if it is known that one fits: without looking at all it reads."""
        built = self._by_recipe.get(id(run.recipe))
        if built is None or built.is_for_now:
            return None
        path, section, recipe = built.sources  # it was alone when it was built: the same path and recipe still are
        fits = (
            run.cast is None
            and recipe is run.recipe
            and project.find("paths", recipe.path) is path
            and project.find("sections", recipe.stations[0].section) is section
        )
        return built if fits else None

    def found(self, sources: Sources) -> Built | None:
        """The body that was made from sources, if it is kept."""
        return self._bodies.peek(sources)

    def path(self, path: Path) -> BuiltPath:
        return self._paths.get((path,), lambda: built_path(path))

    def nodes(self, asset: Asset) -> Mapping[str, Triangles]:
        """The objects of an asset, by name."""
        return self._nodes.get((asset,), lambda: self._reader.read(asset))

    def know_nodes(self, asset: Asset, nodes: Mapping[str, Triangles]) -> None:
        """Takes over what was read of an asset already."""
        self._nodes.get((asset,), lambda: nodes)

    def own_host(self, project: Project, host: Host) -> Mesh:
        """A host's mesh in its own coordinates."""
        sources = self._host_sources(project, host)
        asset = sources[-1]

        def make() -> Mesh:
            return self._reader.own_mesh(host, {} if asset is None else self.nodes(asset))

        return self._own_hosts.get(sources, make)

    def _host_sources(self, project: Project, host: Host) -> tuple[Any, ...]:
        """What decides a host's own mesh; its asset comes last."""
        wanted = None if host.source is None else host.source.asset
        return (
            *host.forms,
            host.source,
            host.picture,
            host.helper,
            host.flip,
            next((a for a in project.assets if a.id == wanted), None),
        )

    def host(self, project: Project, host: Host) -> Mesh:
        """A host's mesh where it stands."""
        own = self.own_host(project, host)
        return self._hosts.get((own, host.place), lambda: placed_mesh(own, host))

    def keep(self, stage: str, sources: Sources, make: Callable[[], Any]) -> Any:
        """A stage's result (section, frames, places, skin): found again where what it reads is the same."""

        def counted() -> Any:
            self.made[stage] += 1
            return make()

        return self._stages.setdefault(stage, IdentityCache(_MOST_STAGES)).get(sources, counted)

    def _nearby(self, project: Project, run: Run, is_stopped: Callable[[], bool]) -> Nearby:
        """What the run is laid on and looks at."""
        host, target = neighbours(project, run)
        mesh: Mesh | None = None
        if isinstance(host, Host):
            mesh = self.host(project, host)
        elif host is not None:
            mesh = self.run(project, host, is_stopped).body.mesh
        query = None if mesh is None else self._query(mesh)

        def mesh_of(of: Host | Run) -> Mesh:
            if isinstance(of, Host):
                return self.host(project, of)
            return whole_mesh(self.run(project, of, is_stopped).body)

        led = near_pieces(project, run, (self.path, self.query_of(project), mesh_of))
        if target is None:
            return replace(led, host=query)
        looked_at = (
            self.path(target).polyline if isinstance(target, Path) else self._spots.get((target,), _spot(target))
        )
        return replace(led, host=query, target=looked_at)

    def asked(self, project: Project, is_stopped: Callable[[], bool] = lambda: False) -> Asked:
        """How paths are measured, what runs carry and what they lie near, as each sees it."""

        def near(run: Run) -> Nearby:
            return own_nearby(self._nearby(project, run, is_stopped), run.recipe.reference, self._spots.get)

        return self.path, self._carrier.of_run, near

    def _query(self, mesh: Mesh) -> MeshQuery | None:
        return self._queries.get((mesh,), lambda: MeshQuery(mesh)) if len(mesh.points) else None

    def query_of(self, project: Project) -> Callable[[str], MeshQuery | None]:
        """Hosts by their ids, ready for nearest places and lines of sight; None where there is no such host."""

        def query_of(host_id: str) -> MeshQuery | None:
            host: Host | None = project.find("hosts", host_id)
            return None if host is None else self._query(self.host(project, host))

        return query_of

    def _build(self, project: Project, run: Run, sources: Sources, is_stopped: Callable[[], bool]) -> Built:
        path, recipe = sources[0], sources[-1]
        begin = thread_time()
        self.bodies_built += 1
        measured = self.path(path)
        if run.cast is not None:
            body = cast_body(project.find("assets", run.cast))
            return Built(run.id, measured, body, thread_time() - begin, sources)
        image = image_of(project, run)
        if image is not None:
            body = seen_body(self.run(project, image[0], is_stopped).body, image[1])
            return Built(run.id, measured, body, thread_time() - begin, sources)
        if measured.resolved is None:
            body = Body(empty_mesh(), measured.findings, 0.0, path.closed)
        else:
            try:

                def keep(stage: str, reads: tuple[Any, ...], make: Callable[[], Any]) -> Any:
                    if is_stopped():
                        raise BuildStopped
                    return self.keep(stage, reads, make)

                wanted, notes = for_now(recipe) if is_plain() else (recipe, ())
                asked = self.asked(project, is_stopped)
                if recipe.strands is not None:
                    body = strands_of(project, run, wanted, asked, keep)
                else:
                    what, near = asked[1](project, run, measured.resolved), asked[2](run)
                    drawn = Drawn(measured.shape, measured.resolved)
                    body = sweep_resolved(drawn, what, wanted, keep, near, recipe.reference)
                body = replace(body, findings=(*body.findings, *notes)) if notes else body
            except (MorphaxError, MemoryError) as error:
                body = Body(empty_mesh(), (_cannot(error),), measured.resolved.length, path.closed)
        if is_waiting(project, path):
            body = replace(body, findings=(*body.findings, _WAITING))
        beside = beside_findings(project, path)
        body = replace(body, findings=(*body.findings, *beside)) if beside else body
        found = entering(path, measured.resolved, self.query_of(project)) if spans_to_ask(path) else ()
        body = replace(body, findings=(*body.findings, *found)) if found else body
        return Built(run.id, measured, body, thread_time() - begin, sources)
