"""The demo project, the Lantern Wagon; may import project."""

from morphax.demo.wagon import lantern_wagon

__all__ = ["lantern_wagon"]
