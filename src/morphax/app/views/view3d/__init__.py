"""The renderer: with build/locators, the only place that knows VTK."""
