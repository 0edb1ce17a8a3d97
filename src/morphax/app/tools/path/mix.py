"""Straight and curved spans, corners and smooth knots that follow each other while one path is drawn. No Qt here."""

from morphax.core.path.paths import PathKind
from morphax.project.edits.knots import set_knot_kind
from morphax.project.edits.spans import set_spans
from morphax.project.lookup import path_by_id
from morphax.project.model.document import Project

MIXED = (PathKind.STRAIGHT, PathKind.THROUGH)


class Mix:
    """``line`` is whether the next span is straight, ``lines`` those that are placed, by the knot that they leave;
    ``corners`` are placed knots that are sharp. Not ``free``: a tool whose path is of one kind as a whole."""

    def __init__(self, kind: PathKind, *, free: bool = True) -> None:
        self.kind, self.is_possible = kind, free and kind in MIXED
        self.line = kind is PathKind.STRAIGHT
        self.lines: dict[int, bool] = {}
        self.corners: set[int] = set()

    @property
    def shown_kind(self) -> PathKind:
        """What the next span will be, where that is free."""
        return PathKind.STRAIGHT if self.line else PathKind.THROUGH

    def go_on_as(self, kind: PathKind) -> None:
        """From here on spans are straight, or curved."""
        self.line = kind is PathKind.STRAIGHT

    def placed(self, knot: int) -> None:
        """A knot was placed: the span that comes to it is what it was shown as."""
        self.lines[knot - 1] = self.line

    def taken_back(self, knot: int) -> None:
        self.corners.discard(knot)

    def toggle_corner(self, knot: int) -> bool:
        """Makes a placed knot a corner, or smooth again; False where it cannot be."""
        if knot < 1 or not self.is_possible or self.kind is not PathKind.THROUGH:
            return False
        self.corners ^= {knot}
        return True

    def applied(self, project: Project, path_id: str, knots: list[str], last: int, *, back: bool = False) -> Project:
        """The project with the path's spans and corners as they were drawn.

        ``knots`` are the ids in the order of drawing, ``last`` the one that was placed last: the span that leaves it
        follows the pointer, or closes the path. ``back``: the path runs against the drawing.
        """
        if not self.is_possible:
            return project
        path = path_by_id(project, path_id)
        at = {k.id: i for i, k in enumerate(path.knots)}
        is_straight, other = path.kind is PathKind.STRAIGHT, []
        for i, k in enumerate(knots):
            onward = i + 1 < len(knots) or path.closed
            if onward and (self.line if i == last else self.lines.get(i, self.line)) is not is_straight:
                other.append(at[knots[i + 1]] if back else at[k])
        project = set_spans(project, path_id, other, straight=not is_straight) if other else project
        sharp = [knots[i] for i in self.corners if i < len(knots)]
        return set_knot_kind(project, path_id, sharp, "corner") if sharp else project
