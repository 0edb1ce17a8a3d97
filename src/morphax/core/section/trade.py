"""Ready-made sections of the trades: bars and rails of metal, mouldings of wood and plaster, gutters."""

from collections.abc import Mapping
from dataclasses import replace
from itertools import pairwise
from math import asin, pi, sqrt

from morphax.core.frame.frames import Orientation
from morphax.core.section.kinds import Corner, Key, ReadyMade, chained, must, stretched_to
from morphax.core.section.outlines import Loop, Segment, arc, line, rounded
from morphax.core.section.sections import Laying, Part, SectionShape, Side

# -- bars ------------------------------------------------------------------------------------------------


def _bar(corners: list[Corner], fillets: Mapping[int, float], laying: Laying | None = None) -> SectionShape:
    """A polygon, counter-clockwise, with fillets at some of its corners."""
    loop = rounded(corners, [fillets.get(k, 0.0) for k in range(len(corners))])
    return SectionShape((Part(loop),), laying or Laying())


def _fits(width: float, height: float, walls: tuple[float, float], fillet: float, *, pairs: int) -> None:
    """Flanges, web and fillets leave room for each other. ``pairs``: how many flanges stand above each other."""
    web, flange = walls
    must(web < width, "web", web, f"less than the width, {width:g} m")
    must(pairs * flange < height, "flange", flange, f"less than {height / pairs:g} m for this height")
    most = min(0.5 * (width - web), height - pairs * flange) / (2.0 if pairs == 2 else 1.0)
    must(fillet <= 0.999 * most, "fillet", fillet, f"at most {0.999 * most:g} m beside web and flange")


def _i(width: float, height: float, web: float, flange: float, fillet: float) -> SectionShape:
    _fits(width, height, (web, flange), fillet, pairs=2)
    x, y, w, f = 0.5 * width, 0.5 * height, 0.5 * web, 0.5 * height - flange
    right = [(x, -y), (x, -f), (w, -f), (w, f), (x, f), (x, y)]
    return _bar([*right, *((-a, b) for a, b in right[::-1])], dict.fromkeys((2, 3, 8, 9), fillet))


def _t(width: float, height: float, web: float, flange: float, fillet: float) -> SectionShape:
    _fits(width, height, (web, flange), fillet, pairs=1)
    x, y, w, f = 0.5 * width, height, 0.5 * web, height - flange
    corners = [(w, 0.0), (w, f), (x, f), (x, y), (-x, y), (-x, f), (-w, f), (-w, 0.0)]
    return _bar(corners, dict.fromkeys((1, 6), fillet))


def _channel(width: float, height: float, web: float, flange: float, fillet: float) -> SectionShape:
    """Open to the right, its web at the left."""
    _fits(width, height, (web, flange), 0.0, pairs=2)
    most = min(width - web, 0.5 * height - flange)
    must(fillet <= 0.999 * most, "fillet", fillet, f"at most {0.999 * most:g} m beside web and flange")
    y, f = 0.5 * height, 0.5 * height - flange
    corners = [(0.0, -y), (width, -y), (width, -f), (web, -f), (web, f), (width, f), (width, y), (0.0, y)]
    return _bar(corners, dict.fromkeys((3, 4), fillet))


def _angle(width: float, height: float, wall: float, fillet: float) -> SectionShape:
    """Two legs, one along the bottom and one up the left side."""
    most = min(width, height)
    must(wall < most, "wall", wall, f"less than the shorter leg, {most:g} m")
    must(fillet <= 0.999 * (most - wall), "fillet", fillet, f"at most {0.999 * (most - wall):g} m between the legs")
    corners = [(0.0, 0.0), (width, 0.0), (width, wall), (wall, wall), (wall, height), (0.0, height)]
    return _bar(corners, {3: fillet})


def _rail(width: float, height: float, head: float, web: float) -> SectionShape:
    """A railway rail: foot, web and head, each a share of the width; rounded where rails are."""
    x, h, w = 0.5 * width, 0.5 * width * head, 0.5 * width * web
    half = min(w, 0.999 * h)
    under, low = 0.7 * height, 0.16 * height
    corners = [
        (x, 0.0), (x, 0.07 * height), (half, low), (half, under), (h, 0.77 * height), (h, height),
    ]  # fmt: skip
    whole = [*corners, *[(-a, b) for a, b in corners[::-1]]]
    side, top = min(0.5 * (x - half), 0.2 * (under - low)), min(0.12 * width * head, 0.3 * (height - 0.77 * height))
    inner = min(0.3 * (h - half), 0.2 * (under - low)) if h > half else 0.0
    fillets = {2: 0.5 * side, 3: inner, 5: top, 6: top, 8: inner, 9: 0.5 * side}
    return _bar(whole, fillets, _RAIL_LAYING)


# -- mouldings -------------------------------------------------------------------------------------------

_CROWN = chained(
    (0.0, 0.0), (0.16, 0.0), (0.16, 0.1), (0.24, 0.14), 0.34, (0.56, 0.47), -0.34, (0.88, 0.8),
    (0.94, 0.8), (0.94, 0.87), (1.0, 0.87), (1.0, 1.0), (0.0, 1.0),
)  # fmt: skip
_OGEE = chained(
    (0.0, 0.0), (1.0, 0.0), (1.0, 0.2), (0.93, 0.2), (0.93, 0.29), -0.33, (0.585, 0.565), 0.33, (0.24, 0.84),
    (0.24, 0.91), (0.16, 0.91), (0.16, 1.0), (0.0, 1.0),
)  # fmt: skip
_SKIRTING = chained(
    (0.0, 0.0), (1.0, 0.0), (1.0, 0.74), (0.86, 0.755), 0.2, (0.63, 0.855), -0.2, (0.4, 0.955), (0.4, 1.0), (0.0, 1.0)
)
_FRAME = chained(
    (0.0, 0.3), (0.14, 0.3), (0.14, 0.0), (1.0, 0.0), (1.0, 0.82), 0.4142, (0.82, 1.0), (0.72, 1.0), (0.72, 0.9),
    -0.3, (0.3, 0.66), (0.3, 0.58), (0.2, 0.58), 0.4142, (0.0, 0.46),
)  # fmt: skip
_GRIP = ((0.8, 0.0), (0.8, 0.14), (0.88, 0.2), (0.88, 0.46), (1.0, 0.56), (1.0, 0.6))
_HOLLOW = 2
"""The hollow for the fingers follows this corner of the grip; the last one passes smoothly into the top."""


def _grip_side(corners: tuple[Corner, ...], hollow: int) -> tuple[Segment, ...]:
    return tuple(arc(p, q, -0.35) if k == hollow else line(p, q) for k, (p, q) in enumerate(pairwise(corners)))


_LEFT_GRIP = tuple((1.0 - x, y) for x, y in _GRIP[::-1])
_TOP = Segment(_GRIP[-1], _LEFT_GRIP[0], False, (0.5, 0.6), (0.5, 0.4), 0.0, pi)
_DOWN = _grip_side(_LEFT_GRIP, len(_GRIP) - 2 - _HOLLOW)
_HANDRAIL = (
    line(_LEFT_GRIP[-1], _GRIP[0]), *_grip_side(_GRIP, _HOLLOW), _TOP, replace(_DOWN[0], corner=False), *_DOWN[1:],
)  # fmt: skip


def _half_round(width: float, height: float) -> SectionShape:
    x = 0.5 * width
    curve = Segment((x, 0.0), (-x, 0.0), True, (0.0, 0.0), (x, height), 0.0, pi)
    return SectionShape((Part(Loop((line((-x, 0.0), (x, 0.0)), curve))),), _HALF_ROUND_LAYING)


def _quarter_round(width: float, height: float) -> SectionShape:
    curve = Segment((width, 0.0), (0.0, height), True, (0.0, 0.0), (width, height), 0.0, 0.5 * pi)
    back, bottom = line((0.0, height), (0.0, 0.0)), line((0.0, 0.0), (width, 0.0))
    return SectionShape((Part(Loop((bottom, curve, back))),), _CORNER_LAYING)


def _cove(width: float, height: float, edge: float) -> SectionShape:
    """A hollow quarter between two narrow edges."""
    most = 0.45 * min(width, height)
    must(edge <= most, "edge", edge, f"at most {most:g} m for this width and height")
    a, b = (width, edge), (edge, height)
    curve = Segment(a, b, True, (width, height), (width - edge, height - edge), 1.5 * pi, pi)
    corners = [b, (0.0, height), (0.0, 0.0), (width, 0.0), a]
    lines = [line(p, q) for p, q in zip(corners[:-1], corners[1:], strict=True) if p != q]
    return SectionShape((Part(Loop((curve, *lines))),), _CORNER_LAYING)


# -- gutters ---------------------------------------------------------------------------------------------


def _box_gutter(width: float, height: float, wall: float, lip: float) -> SectionShape:
    """A trough whose front edge is folded in by a lip."""
    most = 0.45 * min(width, height)
    must(wall < most, "wall", wall, f"less than {most:g} m for this width and height")
    must(lip <= width - 2.5 * wall, "lip", lip, f"at most {width - 2.5 * wall:g} m for this width and wall")
    w, h, t = width, height, wall
    front = [(w, h), (w - t - lip, h), (w - t - lip, h - t), (w - t, h - t)] if lip > 0.0 else [(w, h), (w - t, h)]
    corners = [(0.0, 0.0), (w, 0.0), *front, (w - t, t), (t, t), (t, h), (0.0, h)]
    return _bar(corners, {}, _GUTTER_LAYING)


def _half_round_gutter(width: float, wall: float) -> SectionShape:
    must(wall < 0.45 * width, "wall", wall, f"less than {0.45 * width:g} m for this width")
    r, inner = 0.5 * width, 0.5 * width - wall
    under = Segment((0.0, r), (width, r), True, (r, r), (r, r), pi, 2.0 * pi)
    above = Segment((width - wall, r), (wall, r), True, (r, r), (inner, inner), 2.0 * pi, pi)
    ends = line((width, r), (width - wall, r)), line((wall, r), (0.0, r))
    return SectionShape((Part(Loop((under, ends[0], above, ends[1]))),), _GUTTER_LAYING)


def _ogee_gutter(width: float, height: float, wall: float, lip: float) -> SectionShape:
    """Back and bottom straight; the front swells out and then hollows in an S of two quarter circles, up to a lip."""
    must(lip < 0.8 * height, "lip", lip, f"less than {0.8 * height:g} m for this height")
    r = 0.5 * (height - lip)
    must(2.0 * r < 0.95 * width, "height", height, f"less than {0.95 * width + lip:g} m for this width and lip")
    most = 0.45 * min(r, width - 2.0 * r)
    must(wall < most, "wall", wall, f"less than {most:g} m for these sizes")
    must(lip > wall, "lip", lip, f"more than the wall, {wall:g} m")
    w, h, t, b = width, height, wall, width - 2.0 * r
    meets = r + sqrt((r + t) ** 2 - t * t)  # where the hollow's inner side reaches the lip's
    at_lip = 0.5 * pi + asin(t / (r + t))
    swell, hollow, inner = (b, r), (w, r), b + r - t
    segments = (
        line((0.0, 0.0), (b, 0.0)),
        Segment((b, 0.0), (b + r, r), False, swell, (r, r), -0.5 * pi, 0.0),
        Segment((b + r, r), (w, 2.0 * r), False, hollow, (r, r), pi, 0.5 * pi),
        *(line(p, q) for p, q in pairwise([(w, 2.0 * r), (w, h), (w - t, h), (w - t, meets)])),
        Segment((w - t, meets), (inner, r), True, hollow, (r + t, r + t), at_lip, pi),
        Segment((inner, r), (b, t), False, swell, (r - t, r - t), 0.0, -0.5 * pi),
        Segment((b, t), (t, t), False),
        *(line(p, q) for p, q in pairwise([(t, t), (t, h), (0.0, h), (0.0, 0.0)])),
    )
    return SectionShape((Part(Loop(segments)),), _GUTTER_LAYING)


_CROWN_LAYING = Laying("top-left", Orientation.UPRIGHT, width=0.09)
_OGEE_LAYING = Laying("bottom-left", Orientation.CARRIED, Side.IN, width=0.06)
_FRAME_LAYING = Laying("bottom-left", Orientation.CARRIED, Side.IN, width=0.03)
_HALF_ROUND_LAYING = Laying("bottom", width=0.03)
_CORNER_LAYING = Laying("bottom-left", Orientation.UPRIGHT, width=0.02)
_SKIRTING_LAYING = Laying("bottom-left", Orientation.UPRIGHT, width=0.018)
_HANDRAIL_LAYING = Laying("bottom", Orientation.UPRIGHT, width=0.06)
_RAIL_LAYING = Laying("bottom", Orientation.UPRIGHT, width=0.15)
_GUTTER_LAYING = Laying("top-left", Orientation.UPRIGHT, width=0.12)
_BOTH = {"width": Key(), "height": Key()}


def _fillet(share: float) -> Key:
    return Key(share, may_be_zero=True)


TRADE: Mapping[str, ReadyMade] = {
    "i": ReadyMade(
        "I bar",
        "two flanges on a web",
        {
            "width": Key(),
            "height": Key(1.6),
            "web": Key(0.08),
            "flange": Key(0.12),
            "fillet": _fillet(0.1),
        },
        Laying(width=0.1),
        _i,
    ),
    "t": ReadyMade(
        "T bar",
        "a flange on a web that stands down",
        {"width": Key(), "height": Key(), "web": Key(0.12), "flange": Key(0.12), "fillet": _fillet(0.1)},
        Laying(width=0.05),
        _t,
    ),
    "channel": ReadyMade(
        "Channel",
        "a web with two flanges to one side",
        {
            "width": Key(),
            "height": Key(2.0),
            "web": Key(0.12),
            "flange": Key(0.17),
            "fillet": _fillet(0.15),
        },
        Laying(width=0.05),
        _channel,
    ),
    "angle": ReadyMade(
        "Angle",
        "two legs at a right angle",
        {"width": Key(), "height": Key(), "wall": Key(0.1), "fillet": _fillet(0.1)},
        Laying(width=0.04),
        _angle,
    ),
    "rail": ReadyMade(
        "Rail",
        "a railway rail; head and web are shares of the foot",
        {
            "width": Key(),
            "height": Key(1.15),
            "head": Key(number=0.48, least=0.3, most=0.9),
            "web": Key(number=0.11, least=0.05, most=0.25),
        },
        _RAIL_LAYING,
        _rail,
    ),
    "crown": ReadyMade(
        "Crown moulding",
        "a cornice, hung from its back top corner",
        _BOTH,
        _CROWN_LAYING,
        stretched_to(_CROWN, _CROWN_LAYING),
    ),
    "ogee": ReadyMade(
        "Ogee moulding",
        "an S-shaped moulding, lying on its back edge",
        _BOTH,
        _OGEE_LAYING,
        stretched_to(_OGEE, _OGEE_LAYING),
    ),
    "half-round": ReadyMade(
        "Half round", "half a circle on its flat", {"width": Key(), "height": Key(0.5)}, _HALF_ROUND_LAYING, _half_round
    ),
    "quarter-round": ReadyMade("Quarter round", "fills a corner, rounded", _BOTH, _CORNER_LAYING, _quarter_round),
    "cove": ReadyMade(
        "Cove",
        "fills a corner, hollow",
        {**_BOTH, "edge": Key(0.12, may_be_zero=True)},
        _CORNER_LAYING,
        _cove,
    ),
    "skirting": ReadyMade(
        "Skirting",
        "a board along the foot of a wall",
        {"width": Key(), "height": Key(6.0)},
        _SKIRTING_LAYING,
        stretched_to(_SKIRTING, _SKIRTING_LAYING),
    ),
    "picture-frame": ReadyMade(
        "Picture frame",
        "with a step for the picture at its back",
        {"width": Key(), "height": Key(0.8)},
        _FRAME_LAYING,
        stretched_to(_FRAME, _FRAME_LAYING),
    ),
    "handrail": ReadyMade(
        "Handrail",
        "rounded above, with hollows for the fingers",
        {"width": Key(), "height": Key(0.9)},
        _HANDRAIL_LAYING,
        stretched_to(_HANDRAIL, _HANDRAIL_LAYING),
    ),
    "box-gutter": ReadyMade(
        "Box gutter",
        "a trough with a lip that is folded in",
        {"width": Key(), "height": Key(0.8), "wall": Key(0.03), "lip": Key(0.1, may_be_zero=True)},
        _GUTTER_LAYING,
        _box_gutter,
    ),
    "half-round-gutter": ReadyMade(
        "Half-round gutter", "half a pipe", {"width": Key(), "wall": Key(0.03)}, _GUTTER_LAYING, _half_round_gutter
    ),
    "ogee-gutter": ReadyMade(
        "Ogee gutter",
        "its front swells and hollows up to a lip",
        {"width": Key(), "height": Key(0.8), "wall": Key(0.025), "lip": Key(0.12)},
        _GUTTER_LAYING,
        _ogee_gutter,
    ),
}
