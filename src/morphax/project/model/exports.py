"""How an export is written, as it stands in the document."""

from typing import Annotated, Literal

from pydantic import Field

from morphax.project.model.values import FARTHEST, Entity, Name, Positive, Unit


class ExportWish(Entity):
    """How an export is written: format and what, its unit and axis, and how its files are named.

    ``triangles`` splits four-sided faces in OBJ, ``quads`` keeps them in PLY.
    ``time``: as it is in the end, as it is shown, or every picture of the play; pictures are ``pixels`` wide.
    ``pattern`` names the files: {project}, {run} where ``per_run``, and {count}; ``joined`` makes all runs one object,
    ``solid`` one watertight solid, ``by_material`` one for each look. ``bed``, ``wall`` and ``detail``, m, are asked of
    a print. ``levels``: three files, for near, mid and far, within budgets of faces.
    ``origin``: where the file's is: the project's, the middle of what is written, or below that on its lowest height.
    ``edges``: shaded as they are, all smooth or all hard.
    ``curves``: the paths of the runs stand beside them, in a file of lines of their own.
    """

    name: Name
    suffix: Literal[".obj", ".glb", ".stl", ".ply", ".png", ".gif", ".webp"] = ".obj"
    time: Literal["end", "now", "every"] = "end"
    pixels: Annotated[int, Field(ge=16, le=8192)] = 1280
    what: Literal["shown", "chosen"] = "shown"
    unit: Unit = "mm"
    scale: Positive = 1.0
    up: Literal["z", "y"] = "z"
    triangles: bool = False
    quads: bool = False
    joined: bool = False
    solid: bool = False
    bed: tuple[Positive, Positive, Positive] | None = None
    wall: Annotated[float, Field(ge=0.0, le=FARTHEST)] = 0.8e-3
    detail: Annotated[float, Field(ge=0.0, le=FARTHEST)] = 0.4e-3
    per_run: bool = False
    by_material: bool = False
    levels: bool = False
    curves: bool = False
    edges: Literal["kept", "smooth", "hard"] = "kept"
    origin: Literal["project", "middle", "foot"] = "project"
    pattern: Annotated[str, Field(min_length=1, max_length=120)] = "{project}"
    folder: str = ""
