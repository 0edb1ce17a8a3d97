"""The errors that core functions raise: one base, each also a builtin kind."""


class MorphaxError(Exception):
    """Any error that Morphax raises on purpose; its text is a plain sentence for the user."""


class PathError(MorphaxError, ValueError):
    """A path that cannot be used."""


class SectionError(MorphaxError, ValueError):
    """A section or one of its values that cannot be used."""


class DensityError(MorphaxError, ValueError):
    """A density wish that cannot be met."""
