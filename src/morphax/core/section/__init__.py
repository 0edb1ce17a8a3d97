"""Sections: outlines, their sampling, ready-made ones."""
