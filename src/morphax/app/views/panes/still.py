"""Pictures of a view for files: as large as is wanted, without the grid and what is chosen."""

from morphax.app.views.panes.camera_view import CameraView
from morphax.app.views.panes.smoother import smoothed_and_caged
from morphax.app.views.pictures import sheets
from morphax.app.views.render_hub import RenderHub
from morphax.app.views.view3d.scene import RenderRequest
from morphax.app.widgets.theme import backdrop

STILL = 9
"""The pane that they are drawn in: none that is seen."""


def still(view: CameraView, hub: RenderHub, width: int) -> RenderRequest:
    """What the render thread is asked for; the height is that of the view, in proportion."""
    wide, high = view.sight.size
    return RenderRequest(
        STILL,
        hub.next_number(),
        (width, max(8, round(width * high / wide))),
        view.camera,
        view.scene.items(view.look.tokens),
        backdrop(view.look.tokens),
        view.grid,
        fine=True,
        edges=view.look.edges,
        shaded=view.look.shaded,
        sheets=sheets(view.workspace, view.camera.view),
        grid=False,
        smooth=view.look.smooth,
        smoothed=smoothed_and_caged(view.workspace)[0],
    )
