"""Tools on the sections along a run."""
