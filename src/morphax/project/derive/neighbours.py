"""What a run lies near: the host, or other run, that it is laid on, and what it looks at."""

from morphax.project.derive.graph import follows_from
from morphax.project.model.document import Host, Path, Place, Project, Run


def host_or_run(project: Project, wanted: str | None) -> Host | Run | None:
    """The host or run with an id, if there is one."""
    found: Host | Run | None = project.find("hosts", wanted) or project.find("runs", wanted)
    return found


def neighbours(project: Project, run: Run) -> tuple[Host | Run | None, Path | Place | None]:
    """The host or run that a run is laid on, and what it looks at; None where there is none (any more).

    A run that would be laid, in some steps, on itself is laid on nothing: the rule for circles.
    """
    recipe = run.recipe
    host = host_or_run(project, recipe.host)
    if isinstance(host, Run) and leads_to(project, host, run):
        host = None
    if recipe.placing.towards_path is None:
        return host, recipe.placing.towards
    return host, project.find("paths", recipe.placing.towards_path)


def leads_to(project: Project, host: Run, run: Run) -> bool:
    """Whether the run that serves as a host itself follows, in some steps, from ``run``: then neither can serve."""
    return run.id in follows_from(project, host.id) or is_in_circle(project, host.id)


def is_in_circle(project: Project, run_id: str) -> bool:
    """Whether a chain of runs laid on each other comes back to itself."""
    seen, step = set[str](), host_or_run(project, run_id)
    while isinstance(step, Run):
        if step.id in seen:
            return True
        seen.add(step.id)
        step = host_or_run(project, step.recipe.host)
    return False
