"""The command line's grammar."""

import argparse
from typing import NoReturn

from morphax.cli.errors import UsageError
from morphax.project.units import METRES


class _Parser(argparse.ArgumentParser):
    """A parser whose complaints are one sentence."""

    def error(self, message: str) -> NoReturn:
        raise UsageError(message)


def parser() -> argparse.ArgumentParser:
    """The whole grammar below the line (commands that open no display)."""
    top = _Parser(prog="morphax", description="Sweep cross-sections along drawn curves.", allow_abbrev=False)
    commands = top.add_subparsers(dest="command", required=True, metavar="COMMAND")
    _sweep(commands.add_parser("sweep", help="one body from files", allow_abbrev=False))
    build = commands.add_parser("build", help="a project, or some of its runs", allow_abbrev=False)
    build.add_argument("file")
    build.add_argument("--out", required=True)
    build.add_argument("--only", nargs="+", metavar="NAME", default=[])
    build.add_argument("--unit", choices=sorted(METRES), default="mm")
    build.add_argument("--keep-going", action="store_true", help="write the runs without errors")
    build.add_argument(
        "--frames", action="store_true", help="each picture of the play: numbered files, or one GLB with an animation"
    )
    build.add_argument(
        "--settings",
        metavar="NAME",
        help="export settings of the project, or ready ones such as 'to print'; --out is then a folder, or a file",
    )
    check = commands.add_parser("check", help="findings of a project", allow_abbrev=False)
    check.add_argument("file")
    check.add_argument("--json", action="store_true")
    commands.add_parser("sections", help="ready-made sections and their values", allow_abbrev=False)
    commands.add_parser("schema", help="JSON Schema of the project", allow_abbrev=False)
    demo = commands.add_parser("demo", help="the demo project", allow_abbrev=False)
    demo.add_argument("--write", metavar="FILE", required=True)
    return top


def _sweep(p: argparse.ArgumentParser) -> None:
    p.add_argument("--path", required=True, metavar="FILE", help=".csv, .obj lines, .svg or .dxf")
    p.add_argument("--section", required=True, metavar="SPEC", help="name[:key=value,...], or an .svg file")
    p.add_argument("--out", required=True)
    p.add_argument("--kind", default="through", help="straight or through")
    p.add_argument("--closed", action="store_true")
    p.add_argument("--unit", choices=sorted(METRES), default="mm")
    p.add_argument("--anchor", metavar="SPOT")
    p.add_argument("--orientation", help="carried, upright or fixed")
    p.add_argument("--corner", help="mitre, bevel or round")
    p.add_argument(
        "--ends",
        default="flat",
        metavar="END",
        help="open, flat, domed, chamfered, pointed, angled or returned, or START,END",
    )
    density = p.add_mutually_exclusive_group()
    density.add_argument("--rings", type=int)
    density.add_argument("--deviation", metavar="LEN")
    density.add_argument("--spacing", metavar="LEN")
    density.add_argument("--budget", metavar="FACES", type=int, help="the best within so many faces")
    p.add_argument("--sides", type=int)
    p.add_argument("--crease", metavar="DEG", type=float, help="edges up to this angle are shaded smooth")
    p.add_argument("--roll", metavar="DEG", type=float, default=0.0, help="start roll, counter-clockwise as drawn")
    p.add_argument(
        "--station",
        metavar="AT=SPEC",
        action="append",
        default=[],
        help="another section at a share of the length, 0 to 1; may be given many times",
    )
    p.add_argument("--twist", metavar="DEG", type=float, default=0.0, help="turn over the whole length")
    p.add_argument("--size", metavar="END", type=float, default=None, help="size at the end; 1 is that at the start")
    p.add_argument("--range", metavar="A,B", help="part of the length, two shares from 0 to 1; B,A goes on round")
    p.add_argument("--flip", action="store_true", help="mirror the section")
    p.add_argument("--up", choices=["z", "y"], default="z")
    p.add_argument("--scale", type=float, default=1.0)
    faces = p.add_mutually_exclusive_group()
    faces.add_argument("--triangles", action="store_true", help="four-sided faces are split (OBJ)")
    faces.add_argument("--quads", action="store_true", help="four-sided faces stay (PLY)")
    p.add_argument("--report", action="store_true", help="JSON on standard output")
