"""What views that stand in the second pane in place of the scene have in common."""

from morphax.app.views.panes.pane import Pane

BACK = "back to the scene"


class InPlace:
    """Such a view in its ``pane``: its name leads back to the scene, and what it paints is at once all there is."""

    choices = (BACK,)
    pane: Pane

    @property
    def is_shown(self) -> bool:
        shown: object = self.pane.view
        return shown is self and self.pane.isVisible()

    @property
    def is_settled(self) -> bool:
        return True
