"""SVG files: outlines and paths as cubic spans, guarded before any library sees them."""

import io
import re
from dataclasses import dataclass, replace
from functools import lru_cache
from math import ceil, pi, tan
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import svgelements

from morphax.core.path.corner_arcs import ARC_STEP
from morphax.core.types import Floats, frozen
from morphax.io.errors import FileError
from morphax.io.reading import read_within
from morphax.io.svg_plain import Plain, taken_out
from morphax.io.svg_tree import hidden_shapes, put_right, tag_of, target_of
from morphax.project.units import METRES

ElementTree.register_namespace("", "http://www.w3.org/2000/svg")
ElementTree.register_namespace("xlink", "http://www.w3.org/1999/xlink")
_MOST_BYTES, _MOST_DEPTH, _MOST_ELEMENTS, _FARTHEST = 20 << 20, 64, 100_000, 1e7
_MOST_SPANS = 200_000
Page = tuple[float, tuple[float, float]]
"""Metres per user unit, and the user place of the page's origin."""
_PLAIN = frozenset({"width", "height", "viewBox", "preserveAspectRatio", "version", "id"})
"""What may stand at a document's root without saying anything about its shapes."""
_PIXEL = 0.0254 / 96.0
"""A CSS pixel, m."""
_REAL_SIZE = re.compile(r"\s*([0-9.]+(?:e[-+]?[0-9]+)?)\s*(mm|cm|in|pt|pc|q)\s*$", re.IGNORECASE)
_REAL_UNITS = {"mm": 1e-3, "cm": 1e-2, "in": 0.0254, "pt": 0.0254 / 72.0, "pc": 0.0254 / 6.0, "q": 0.25e-3}


@dataclass(frozen=True, eq=False)
class Curve2:
    """A chain of cubics in the plane: ``spans`` (m, 4, 2) m, y up; ``straight`` (m,).

    ``of``: the shape of the file that it belongs to, by number; ``even_odd``: that is filled by the even-odd rule.
    """

    spans: Floats
    straight: np.ndarray
    closed: bool
    of: int = 0
    even_odd: bool = False


@dataclass(frozen=True)
class Drawing:
    """The curves of an SVG file, and what was left out of it, in plain words."""

    curves: tuple[Curve2, ...]
    left_out: tuple[str, ...]


def read_svg(path: Path, *, unit: str = "mm", arc_step: float = ARC_STEP) -> Drawing:
    """All shapes of a file; user units without a real size are ``unit``, arcs cubics of at most ``arc_step`` rad.

    Raises FileError with one sentence on files that are too large, nested or numerous, have a DOCTYPE or circular
    references, are no SVG or hold numbers that are not finite.
    """
    return drawing_from(read_within(path, _MOST_BYTES, str(path)), str(path), unit=unit, arc_step=arc_step)


_DAMAGE = (ValueError, TypeError, AttributeError, LookupError, ArithmeticError, RecursionError, StopIteration)
"""What the reader raises on files that only look like SVG."""


def drawing_from(data: bytes, name: str, *, unit: str = "mm", arc_step: float = ARC_STEP) -> Drawing:
    """As ``read_svg``, from a file's bytes."""
    root = _guarded(data, name)
    scale, origin = _page(root, name, METRES[unit])
    hidden = hidden_shapes(root)
    put_right(root, _page_size(root))
    plain = taken_out(root) if not hidden and root.attrib.keys() <= _PLAIN else Plain(np.empty((0, 4)), ())
    for key in ("width", "height", "viewBox", "preserveAspectRatio"):  # they are in the scale, exactly
        root.attrib.pop(key, None)
    try:
        parsed = svgelements.SVG.parse(io.BytesIO(ElementTree.tostring(root)), ppi=96.0, reify=True)
        shapes = list(parsed.elements())
    except _DAMAGE as error:
        raise FileError(f"{name} is not a sound SVG file") from error
    curves = _rounds(plain.rounds, (scale, origin), name, arc_step)
    for i, (chains, even_odd) in enumerate(plain.paths):
        lines = [_lines_of(corners, (scale, origin), name, closed=closed) for corners, closed in chains]
        curves += [replace(c, of=-1 - len(plain.rounds) - i, even_odd=even_odd) for c in lines if c is not None]
    for i, shape in enumerate(shapes):
        if isinstance(shape, svgelements.Shape) and shape.values.get("visibility") not in ("hidden", "collapse"):
            even_odd = shape.values.get("fill-rule") == "evenodd"
            try:
                found = _drawn(shape, (scale, origin), name, arc_step)
            except _DAMAGE as error:
                raise FileError(f"{name} is not a sound SVG file") from error
            curves += [replace(c, of=i, even_odd=even_odd) for c in found]
    left = _left_out(root)
    more = (f"{hidden} hidden shape{'s' if hidden > 1 else ''}",) if hidden else ()
    return Drawing(tuple(curves), (*left, *more))


def _page_size(root: ElementTree.Element) -> tuple[float, float] | None:
    """Width and height of the page in user units; None where it has none."""
    box = root.get("viewBox", "").replace(",", " ").split()
    try:
        sizes = box[2:] if len(box) == 4 else [_in_pixels(root.get(k, "")) for k in ("width", "height")]
        width, height = (float(v) for v in sizes)
    except ValueError:
        return None
    return width, height


def _in_pixels(size: str) -> str:
    """A size of the page in user units where it has no viewBox: pixels."""
    found = _REAL_SIZE.match(size)
    return size.removesuffix("px") if found is None else repr(float(found[1]) * _REAL_UNITS[found[2].lower()] / _PIXEL)


def _page(root: ElementTree.Element, name: str, unit: float) -> Page:
    """Metres per user unit, and the user place of the page's origin.

    A page with a real size and a viewBox gives both (uniform scale, as *xMidYMid meet* says, at its corner); one with
    a real size only has pixels of 1/96 inch; without a real size the numbers count in ``unit``.
    """
    sizes = []
    for key in ("width", "height"):
        found = _REAL_SIZE.match(root.get(key, ""))
        try:
            sizes.append(float(found[1]) * _REAL_UNITS[found[2].lower()] if found else None)
        except ValueError as error:
            raise FileError(f"{name}: its {key} is not a number") from error
    if sizes == [None, None]:
        return unit, (0.0, 0.0)
    try:
        box = [float(v) for v in root.get("viewBox", "").replace(",", " ").split()]
    except ValueError as error:
        raise FileError(f"{name}: its viewBox is not four numbers") from error
    if len(box) != 4 or not box[2] > 0.0 or not box[3] > 0.0:
        return _PIXEL, (0.0, 0.0)
    scales = [s / b for s, b in zip(sizes, box[2:], strict=True) if s]
    return (min(scales) if scales else unit), (box[0], box[1])


def _guarded(data: bytes, name: str) -> ElementTree.Element:
    """The document's root, after checks that need no understanding of it."""
    if b"<!DOCTYPE" in data[:65536].upper() or b"<!ENTITY" in data.upper():
        raise FileError(f"{name} is refused: it has a DOCTYPE")
    depth = count = 0
    root: ElementTree.Element | None = None
    try:
        for event, element in ElementTree.iterparse(io.BytesIO(data), events=("start", "end")):
            depth += 1 if event == "start" else -1
            count += event == "start"
            root = element if root is None else root
            if depth > _MOST_DEPTH or count > _MOST_ELEMENTS:
                raise FileError(f"{name} is refused: it is nested too deeply or has too many elements")
    except ElementTree.ParseError as error:
        raise FileError(f"{name} is not an SVG file: {error}") from error
    if root is None or tag_of(root) != "svg":
        raise FileError(f"{name} is not an SVG file")
    _check_uses(root, name)
    return root


def _check_uses(root: ElementTree.Element, name: str) -> None:
    """Refuses references that go in circles or multiply beyond the limit of elements."""
    known = {e.get("id"): e for e in root.iter() if e.get("id")}
    sizes: dict[int, int] = {}

    def size(element: ElementTree.Element, trail: tuple[int, ...]) -> int:
        if id(element) in trail or len(trail) > _MOST_DEPTH * 4:
            raise FileError(f"{name} is refused: its references go in circles")
        if id(element) not in sizes:
            total = 1 + sum(size(child, (*trail, id(element))) for child in element)
            target = known.get(target_of(element)) if tag_of(element) == "use" else None
            if target is not None:
                total += size(target, (*trail, id(element)))
            sizes[id(element)] = total
        if sizes[id(element)] > _MOST_ELEMENTS:
            raise FileError(f"{name} is refused: its references resolve to too many elements")
        return sizes[id(element)]

    size(root, ())


_WORDS = {
    "text": "texts",
    "image": "pictures",
    "clippath": "clip paths",
    "mask": "masks",
    "pattern": "patterns",
    "filter": "filters",
    "foreignobject": "foreign objects",
}


def _left_out(root: ElementTree.Element) -> tuple[str, ...]:
    counts: dict[str, int] = {}
    for element in root.iter():
        word = _WORDS.get(tag_of(element))
        if word is not None:
            counts[word] = counts.get(word, 0) + 1
    return tuple(f"{n} {word[:-1] if n == 1 else word}" for word, n in sorted(counts.items()))


def _drawn(shape: "svgelements.Shape", page: Page, name: str, arc_step: float) -> list[Curve2]:
    """The curves of a shape."""
    if type(shape) in (svgelements.Circle, svgelements.Ellipse):
        return _round_of(shape, page, name, arc_step)
    return _curves_of(svgelements.Path(shape), page, name, arc_step)


def _rounds(plain: Floats, page: Page, name: str, step: float) -> list[Curve2]:
    """Curves of circles and ellipses by their centres and radii (n, 4), user units; as ``_round_of`` has them."""
    scale, origin = page
    spans = _unit_arc(0.0, 2.0 * pi, step) * plain[:, None, None, 2:] + plain[:, None, None, :2]
    spans = (spans - np.array(origin)) * [scale, -scale]
    _check_numbers(spans, name)
    straight = np.zeros(spans.shape[1], dtype=bool)
    return [Curve2(s, straight, True, of=-1 - i) for i, s in enumerate(spans)]


def _lines_of(corners: Floats, page: Page, name: str, *, closed: bool) -> Curve2 | None:
    """The curve of lines between corners (k, 2), user units."""
    if len(corners) > _MOST_SPANS:
        raise FileError(f"{name} is refused: a path has more than {_MOST_SPANS} spans")
    if closed:
        corners = np.concatenate([corners, corners[:1]])
    a, b = corners[:-1], corners[1:]
    apart = (a != b).any(1)
    a, b = a[apart], b[apart]
    spans = np.stack([a, a + (b - a) / 3.0, a + (b - a) * 2.0 / 3.0, b], axis=1)
    return _curve(spans, np.ones(len(spans), dtype=bool), page, name, closed=closed) if len(spans) else None


def _round_of(shape: "svgelements.Circle | svgelements.Ellipse", page: Page, name: str, step: float) -> list[Curve2]:
    """A whole circle or ellipse: a unit circle, stretched and moved; quicker than by its arcs."""
    m = shape.transform
    spans = _unit_arc(0.0, 2.0 * pi, step) * [float(shape.rx), float(shape.ry)] + [float(shape.cx), float(shape.cy)]
    spans = spans @ np.array([[m.a, m.b], [m.c, m.d]], dtype=np.float64) + [float(m.e), float(m.f)]
    curve = _curve(spans, np.zeros(len(spans), dtype=bool), page, name, closed=True)
    return [] if curve is None else [curve]


@lru_cache(maxsize=64)
def _unit_arc(begin: float, sweep: float, step: float) -> Floats:
    """Cubics (m, 4, 2), each of at most ``step`` rad, along the unit circle; handles 4/3 tan(a / 4)."""
    count = max(1, ceil(abs(sweep) / step - 1e-9))
    angle = begin + sweep * np.arange(count + 1) / count
    on = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    if abs(sweep) == 2.0 * pi:
        on[-1] = on[0]
    way = np.stack([-on[:, 1], on[:, 0]], axis=1) * (4.0 / 3.0 * tan(0.25 * sweep / count))
    return frozen(np.stack([on[:-1], on[:-1] + way[:-1], on[1:] - way[1:], on[1:]], axis=1))


def _curves_of(path: "svgelements.Path", page: Page, name: str, arc_step: float) -> list[Curve2]:
    out: list[Curve2] = []
    path.reify()  # shapes that a turn would change keep it apart until now
    for sub in path.as_subpaths():
        spans: list[list[tuple[float, float]]] = []
        straight: list[bool] = []
        closed = False
        for segment in svgelements.Path(sub):
            if isinstance(segment, svgelements.Close):
                closed = True
            for points, is_line in _cubics(segment, arc_step):
                spans.append(points)
                straight.append(is_line)
        if len(spans) > _MOST_SPANS:
            raise FileError(f"{name} is refused: a path has more than {_MOST_SPANS} spans")
        if spans:
            curve = _curve(np.array(spans), np.array(straight), page, name, closed=closed)
            out += [] if curve is None else [curve]
    return out


def _cubics(segment: object, arc_step: float) -> list[tuple[list[tuple[float, float]], bool]]:
    """A segment as cubics (four points each), and whether it is a line."""
    if isinstance(segment, svgelements.Line | svgelements.Close):
        if segment.start is None or segment.end is None or segment.start == segment.end:
            return []
        a, b = _pair(segment.start), _pair(segment.end)
        inner = [(a[0] + (b[0] - a[0]) * k / 3.0, a[1] + (b[1] - a[1]) * k / 3.0) for k in (1, 2)]
        return [([a, *inner, b], True)]
    if isinstance(segment, svgelements.CubicBezier):
        return [([_pair(p) for p in (segment.start, segment.control1, segment.control2, segment.end)], False)]
    if isinstance(segment, svgelements.QuadraticBezier):
        a, q, b = _pair(segment.start), _pair(segment.control), _pair(segment.end)
        one, two = ((e[0] + 2.0 * (q[0] - e[0]) / 3.0, e[1] + 2.0 * (q[1] - e[1]) / 3.0) for e in (a, b))
        return [([a, one, two, b], False)]
    if isinstance(segment, svgelements.Arc):
        return [(points, False) for points in _arc_cubics(segment, arc_step)]
    return []


def _arc_cubics(arc: "svgelements.Arc", step: float) -> list[list[tuple[float, float]]]:
    """An arc of an ellipse as cubics of at most ``step`` rad: those of a circle, stretched."""
    centre, x, y = (np.array(_pair(p)) for p in (arc.center, arc.prx, arc.pry))
    spans = centre + _unit_arc(float(arc.get_start_t()), float(arc.sweep), step) @ np.stack([x - centre, y - centre])
    spans[0, 0], spans[-1, 3] = _pair(arc.start), _pair(arc.end)
    return [[(float(p[0]), float(p[1])) for p in span] for span in spans]


def _pair(p: "svgelements.Point") -> tuple[float, float]:
    return float(p.x), float(p.y)


def _curve(spans: Floats, straight: np.ndarray, page: Page, name: str, *, closed: bool) -> Curve2 | None:
    scale, origin = page
    spans = (spans - np.array(origin)) * [scale, -scale]
    _check_numbers(spans, name)
    size = float(np.ptp(spans.reshape(-1, 2), axis=0).max())
    if size == 0.0:
        return None
    keep = np.abs(spans - spans[:, :1]).max((1, 2)) > 1e-9 * size
    spans, straight = spans[keep], straight[keep]
    gap = spans[0, 0] - spans[-1, 3]
    if closed and np.abs(gap).max() > 1e-9 * size:
        a = spans[-1, 3]
        spans = np.concatenate([spans, (a + gap * np.array([[0.0], [1 / 3], [2 / 3], [1.0]]))[None]])
        straight = np.append(straight, True)
    elif np.abs(gap).max() <= max(1e-9 * size, 1e-4 * 1e-3):
        spans[-1, 3], closed = spans[0, 0], True
    return Curve2(spans, straight, closed)


def _check_numbers(spans: Floats, name: str) -> None:
    if not np.isfinite(spans).all() or np.abs(spans).max(initial=0.0) > _FARTHEST:
        raise FileError(f"{name} is refused: it holds numbers that are not finite or too large")


def lifted(curve: Curve2) -> Floats:
    """A curve's spans (m, 4, 3) on the ground."""
    return np.concatenate([curve.spans, np.zeros((*curve.spans.shape[:2], 1))], axis=2)
