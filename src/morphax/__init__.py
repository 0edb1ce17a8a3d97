"""Morphax: sweep cross-sections along drawn curves. Layers: app > cli > demo, build, io > project > core."""

__version__ = "0.5.0"
