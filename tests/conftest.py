"""Profiles and settings for the whole suite."""

import os

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("VTK_DEFAULT_OPENGL_WINDOW", "vtkEGLRenderWindow")

from hypothesis import settings

settings.register_profile("steady", deadline=None, derandomize=True, max_examples=40, database=None)
settings.register_profile("random", deadline=None, max_examples=400, database=None)
MANY = 2000 if os.environ.get("HYPOTHESIS_PROFILE") == "random" else 200
"""Examples of what is searched most: bodies, files."""
settings.load_profile(os.environ.get("HYPOTHESIS_PROFILE", "steady"))
