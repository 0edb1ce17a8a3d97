"""The flourish on the name board: a drop along a wave, out to a point, that appears within three seconds."""

import numpy as np

from morphax.core.body.recipe import End
from morphax.core.path.made_paths import MadeCurve, MadeShape, checked_values
from morphax.project.edits.ready_made import add_made
from morphax.project.edits.runs import NewRun, with_recipe
from morphax.project.edits.timing import with_appears, with_origin
from morphax.project.model.document import Ends, Placing, Project, ReadyMadeSource

MM = 1e-3
_LONG, _HIGH, _FRONT, _MIDDLE = 1260.0, 76.0, -778.0, 2150.0


def with_flourish(project: Project) -> Project:
    """It lies on the front of the board, its back cut by nothing: the drop's flat anchor is on the face."""
    values = checked_values(MadeShape.WAVE, {"length": _LONG * MM, "height": _HIGH * MM, "waves": 2.5})
    frame = np.array([(1.0, 0.0, 0.0), (0.0, 0.0, 1.0), (0.0, -1.0, 0.0)])
    curve = MadeCurve(MadeShape.WAVE, values, np.array([-0.5 * _LONG, _FRONT - 9.0, _MIDDLE]) * MM, frame)
    source = ReadyMadeSource(name="drop", values=(("height", 0.032), ("width", 0.02)))
    added = add_made(project, curve, NewRun(source, 20 * MM, name="Flourish", material="m10"))
    run = [added.ids[0]]
    ends = Ends(start=End.POINTED, end=End.POINTED, start_length=0.12, end_length=0.5, start_curve=0.5, end_curve=0.3)
    project = with_recipe(added.project, run, ends=ends, placing=Placing())
    return with_appears(with_origin(project, run, "start"), run, begin=0.0, end=3.0, easing="soft end")
