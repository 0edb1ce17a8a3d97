"""The renderer: the only place that knows VTK."""
