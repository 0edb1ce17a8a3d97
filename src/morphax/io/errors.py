"""The error of reading and writing files."""

from morphax.core.errors import MorphaxError


class FileError(MorphaxError, OSError):
    """A file that cannot be read or written; its text is a plain sentence."""
