"""The renderer: with build/cells, the only place that knows VTK."""
