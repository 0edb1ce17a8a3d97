"""SVG files: outlines and paths as cubic spans, guarded before any library sees them."""

import io
import re
from dataclasses import dataclass
from math import ceil
from pathlib import Path
from xml.etree import ElementTree

import numpy as np
import svgelements

from morphax.core.path.corner_arcs import ARC_STEP
from morphax.core.types import Floats
from morphax.io.errors import FileError
from morphax.io.reading import read_within
from morphax.project.units import METRES

ElementTree.register_namespace("", "http://www.w3.org/2000/svg")
ElementTree.register_namespace("xlink", "http://www.w3.org/1999/xlink")
_MOST_BYTES, _MOST_DEPTH, _MOST_ELEMENTS, _FARTHEST = 20 << 20, 64, 100_000, 1e7
_MOST_SPANS = 200_000
Page = tuple[float, tuple[float, float]]
"""Metres per user unit, and the user place of the page's origin."""
_PIXEL = 0.0254 / 96.0
"""A CSS pixel, m."""
_REAL_SIZE = re.compile(r"\s*([0-9.]+(?:e[-+]?[0-9]+)?)\s*(mm|cm|in|pt|pc|q)\s*$", re.IGNORECASE)
_REAL_UNITS = {"mm": 1e-3, "cm": 1e-2, "in": 0.0254, "pt": 0.0254 / 72.0, "pc": 0.0254 / 6.0, "q": 0.25e-3}


@dataclass(frozen=True, eq=False)
class Curve2:
    """A chain of cubics in the plane: ``spans`` (m, 4, 2) m, y up; ``straight`` (m,)."""

    spans: Floats
    straight: np.ndarray
    closed: bool


@dataclass(frozen=True)
class Drawing:
    """The curves of an SVG file, and what was left out of it, in plain words."""

    curves: tuple[Curve2, ...]
    left_out: tuple[str, ...]


def read_svg(path: Path, *, unit: str = "mm") -> Drawing:
    """All shapes of a file; user units without a real size are ``unit``.

    Raises FileError with one sentence on files that are too large, nested or numerous, have a DOCTYPE or circular
    references, are no SVG or hold numbers that are not finite.
    """
    return drawing_from(read_within(path, _MOST_BYTES, str(path)), str(path), unit=unit)


_DAMAGE = (ValueError, TypeError, AttributeError, LookupError, ArithmeticError, RecursionError, StopIteration)
"""What the reader raises on files that only look like SVG."""


def drawing_from(data: bytes, name: str, *, unit: str = "mm") -> Drawing:
    """As ``read_svg``, from a file's bytes."""
    root = _guarded(data, name)
    scale, origin = _page(root, name, METRES[unit])
    for key in ("width", "height", "viewBox", "preserveAspectRatio"):  # they are in the scale, exactly
        root.attrib.pop(key, None)
    try:
        parsed = svgelements.SVG.parse(io.BytesIO(ElementTree.tostring(root)), ppi=96.0, reify=True)
        shapes = list(parsed.elements())
    except _DAMAGE as error:
        raise FileError(f"{name} is not a sound SVG file") from error
    curves: list[Curve2] = []
    for shape in shapes:
        if isinstance(shape, svgelements.Shape):
            curves += _curves_of(svgelements.Path(shape), (scale, origin), name, filled=_is_filled(shape))
    left = _left_out(root)
    return Drawing(tuple(curves), left)


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


def _is_filled(shape: "svgelements.Shape") -> bool:
    return shape.fill is None or shape.fill.value is not None


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
    if root is None or _tag(root) != "svg":
        raise FileError(f"{name} is not an SVG file")
    _check_uses(root, name)
    return root


def _tag(element: ElementTree.Element) -> str:
    return str(element.tag).rpartition("}")[2].lower()


def _target(element: ElementTree.Element) -> str | None:
    for key, value in element.attrib.items():
        if key.rpartition("}")[2] == "href":
            return value.removeprefix("#")
    return None


def _check_uses(root: ElementTree.Element, name: str) -> None:
    """Refuses references that go in circles or multiply beyond the limit of elements."""
    known = {e.get("id"): e for e in root.iter() if e.get("id")}
    sizes: dict[int, int] = {}

    def size(element: ElementTree.Element, trail: tuple[int, ...]) -> int:
        if id(element) in trail or len(trail) > _MOST_DEPTH * 4:
            raise FileError(f"{name} is refused: its references go in circles")
        if id(element) not in sizes:
            total = 1 + sum(size(child, (*trail, id(element))) for child in element)
            target = known.get(_target(element)) if _tag(element) == "use" else None
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
        word = _WORDS.get(_tag(element))
        if word is not None:
            counts[word] = counts.get(word, 0) + 1
    return tuple(f"{n} {word[:-1] if n == 1 else word}" for word, n in sorted(counts.items()))


def _curves_of(path: "svgelements.Path", page: Page, name: str, *, filled: bool) -> list[Curve2]:
    out = []
    path.reify()  # shapes that a turn would change keep it apart until now
    for sub in path.as_subpaths():
        spans: list[list[tuple[float, float]]] = []
        straight: list[bool] = []
        closed = False
        for segment in svgelements.Path(sub):
            if isinstance(segment, svgelements.Close):
                closed = True
            for points, is_line in _cubics(segment):
                spans.append(points)
                straight.append(is_line)
        if len(spans) > _MOST_SPANS:
            raise FileError(f"{name} is refused: a path has more than {_MOST_SPANS} spans")
        if spans:
            curve = _curve(np.array(spans), np.array(straight), page, name, closed=closed or filled)
            out += [] if curve is None else [curve]
    return out


def _cubics(segment: object) -> list[tuple[list[tuple[float, float]], bool]]:
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
        pieces = max(1, ceil(abs(float(segment.sweep)) / ARC_STEP - 1e-9))
        return [found for cubic in segment.as_cubic_curves(pieces) for found in _cubics(cubic)]
    return []


def _pair(p: "svgelements.Point") -> tuple[float, float]:
    return float(p.x), float(p.y)


def _curve(spans: Floats, straight: np.ndarray, page: Page, name: str, *, closed: bool) -> Curve2 | None:
    scale, origin = page
    spans = (spans - np.array(origin)) * [scale, -scale]
    if not np.isfinite(spans).all() or np.abs(spans).max() > _FARTHEST:
        raise FileError(f"{name} is refused: it holds numbers that are not finite or too large")
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


def lifted(curve: Curve2) -> Floats:
    """A curve's spans (m, 4, 3) on the ground."""
    return np.concatenate([curve.spans, np.zeros((*curve.spans.shape[:2], 1))], axis=2)
