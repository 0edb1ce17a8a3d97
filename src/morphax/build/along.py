"""What runs carry that vary, kept: what did not change is found again."""

from collections.abc import Callable

from morphax.build.cache import IdentityCache
from morphax.core.body.profiles import Carries
from morphax.core.path.resolved import ResolvedPath
from morphax.core.section.sections import SectionShape
from morphax.project.derive.along import along_of
from morphax.project.lookup import path_by_id, section_by_id
from morphax.project.model.document import Path, Project, Recipe, Run, Section

_MOST_KEPT = 48


class Carrier:
    """What runs carry that vary, by all that it reads of them: ranges, ends and density may change. ``shape_of`` a
    section."""

    def __init__(self, shape_of: Callable[[Section], SectionShape]) -> None:
        self._shape_of = shape_of
        self._kept: IdentityCache[Carries] = IdentityCache(_MOST_KEPT)

    def of_run(self, project: Project, run: Run, resolved: ResolvedPath) -> SectionShape | Carries:
        """What a run carries along its measured path."""
        if run.recipe.varies:
            return self.carries(project, path_by_id(project, run.recipe.path), run.recipe, resolved)
        return self._shape_of(section_by_id(project, run.recipe.stations[0].section))

    def carries(self, project: Project, path: Path, recipe: Recipe, resolved: ResolvedPath) -> Carries:
        """All sections of a run, and what varies along it."""
        sections = tuple(section_by_id(project, s.section) for s in recipe.stations)
        shapes = {s.id: self._shape_of(s) for s in sections}

        def make() -> Carries:
            along = along_of(recipe, path, resolved, shapes.__getitem__)
            return Carries(along.stations[0].section, along)

        read = (recipe.stations, recipe.varying, recipe.reference)
        return self._kept.get((path, resolved, *read, *sections), make)
