"""Mends that ask surfaces: they need the hosts as they stand."""

from morphax.app.session.workspace import Workspace
from morphax.build.casting import caster
from morphax.build.entering import may_hang_clear, most_slack
from morphax.build.locators import Locator
from morphax.core.errors import PathError
from morphax.core.findings import Finding
from morphax.core.path.paths import PathKind
from morphax.project.edits.going_over import gone_over, may_go_over, span_at
from morphax.project.edits.mends import Mend
from morphax.project.edits.paths import set_slack
from morphax.project.lookup import path_by_id, path_of
from morphax.project.model.document import Host, Path, Project


def mends_by_surface(ws: Workspace, run_id: str, finding: Finding) -> tuple[Mend, ...]:
    """The mends of a finding that need to know what lies below."""
    at = finding.at
    if finding.code != "enters" or at is None or ws.project.find("runs", run_id) is None:
        return ()
    path = path_of(ws.project, run_id)
    try:
        if path.kind is PathKind.HANGING:
            return _hung_clear(ws, path)
        if not may_go_over(path, span_at(path, at)):
            return ()
    except PathError:
        return ()  # the path changed since, and has no way now

    def change(project: Project) -> Project:
        def locator_of(host_id: str) -> Locator | None:
            host: Host | None = project.find("hosts", host_id)
            return None if host is None else ws.bodies.locator(host)

        return gone_over(project, run_id, at, caster(locator_of))

    return (Mend("Go over", change),)


def _hung_clear(ws: Workspace, path: Path) -> tuple[Mend, ...]:
    """A hanging cable made so much tighter that it keeps clear of what its ends rest on; looked for when it is asked
    for, since many may be shown."""
    builder = ws.bodies.builder
    if not may_hang_clear(path, builder.query_of(ws.project)):
        return ()

    def change(project: Project) -> Project:
        return set_slack(project, path.id, most_slack(path_by_id(project, path.id), builder.query_of(project)))

    return (Mend("Tighten until clear", change),)
