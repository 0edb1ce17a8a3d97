"""What is put right in an SVG document before it is read: shares of the page, and symbols where they are used."""

from copy import deepcopy
from math import sqrt
from xml.etree import ElementTree

_ACROSS, _DOWN = ("x", "width", "cx", "rx", "x1", "x2"), ("y", "height", "cy", "ry", "y1", "y2")
_SHAPES = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon")
_MOST_DEEP = 64
Element = ElementTree.Element
Size = tuple[float, float]


def tag_of(element: Element) -> str:
    """An element's name without its namespace, in small letters."""
    return str(element.tag).rpartition("}")[2].lower()


def target_of(element: Element) -> str | None:
    """The id that an element refers to."""
    for key, value in element.attrib.items():
        if key.rpartition("}")[2] == "href":
            return value.removeprefix("#")
    return None


def put_right(root: Element, page: Size | None) -> None:
    """Shares of a page (width and height, user units) become numbers, used symbols groups; symbols are not shown
    themselves. References go in no circles (see ``svg``)."""
    if page is not None:
        _without_shares(root, page)
    known = {e.get("id"): e for e in root.iter() if e.get("id") and tag_of(e) == "symbol"}
    if known:
        _with_symbols(root, known, page or (100.0, 100.0))


def hidden_shapes(root: Element) -> int:
    """How many shapes are not to be seen: they or what they stand in say so."""
    return _hidden(root, shown=True, visible=True)


def _hidden(element: Element, *, shown: bool, visible: bool) -> int:
    if tag_of(element) in ("defs", "symbol", "clippath", "mask", "pattern", "marker"):
        return 0
    shown &= _style(element, "display") != "none"
    own = _style(element, "visibility")
    visible = visible if own is None else own == "visible"
    count = int(tag_of(element) in _SHAPES and not (shown and visible))
    return count + sum(_hidden(child, shown=shown, visible=visible) for child in element)


def _style(element: Element, name: str) -> str | None:
    for part in element.get("style", "").split(";"):
        key, _, value = part.partition(":")
        if key.strip() == name:
            return value.strip()
    return element.get(name)


def _without_shares(root: Element, page: Size) -> None:
    width, height = page
    across = sqrt(0.5 * (width * width + height * height))
    for element in root.iter():
        if element is root:
            continue
        for names, whole in ((_ACROSS, width), (_DOWN, height), (("r",), across)):
            for name in names:
                value = element.get(name, "")
                if value.endswith("%"):
                    number = _number(value[:-1])
                    if number is not None:
                        element.set(name, repr(0.01 * number * whole))


def _number(text: str | None) -> float | None:
    try:
        return None if text is None else float(text.removesuffix("px"))
    except ValueError:
        return None


def _with_symbols(root: Element, known: dict[str | None, Element], page: Size) -> None:
    """Each use of a symbol becomes a group of its content, scaled into the use's box; the symbols go."""
    space = root.tag.rpartition("}")[0] + "}" if "}" in root.tag else ""
    for _ in range(_MOST_DEEP):  # symbols may use symbols
        uses = [(p, c) for p in root.iter() for c in p if tag_of(c) == "use" and target_of(c) in known]
        if not uses:
            break
        for parent, use in uses:
            parent[list(parent).index(use)] = _placed(use, known[target_of(use)], page, space)
    for parent in list(root.iter()):
        for child in list(parent):
            if tag_of(child) == "symbol":
                parent.remove(child)


def _placed(use: Element, symbol: Element, page: Size, space: str) -> Element:
    group = ElementTree.Element(
        f"{space}g", {k: v for k, v in use.attrib.items() if k in ("style", "class", "visibility")}
    )
    x, y = (_number(use.get(k)) or 0.0 for k in ("x", "y"))
    box = [_number(v) for v in symbol.get("viewBox", "").replace(",", " ").split()]
    steps = [use.get("transform", ""), f"translate({x!r} {y!r})"]
    numbers = [v for v in box if v is not None]
    if len(numbers) == 4 and numbers[2] > 0.0 and numbers[3] > 0.0:
        sides = zip(("width", "height"), page, strict=True)
        size = [_number(use.get(k)) or _number(symbol.get(k)) or whole for k, whole in sides]
        scale = min(s / b for s, b in zip(size, numbers[2:], strict=True))
        over = [0.5 * (s - scale * b) for s, b in zip(size, numbers[2:], strict=True)]
        steps += [
            f"translate({over[0]!r} {over[1]!r})",
            f"scale({scale!r})",
            f"translate({-numbers[0]!r} {-numbers[1]!r})",
        ]
    group.set("transform", " ".join(s for s in steps if s))
    group.extend(deepcopy(child) for child in symbol)
    return group
