"""What ends a command early."""

from morphax.core.errors import MorphaxError


class UsageError(MorphaxError, ValueError):
    """Wrong use of the command line: exit code 2."""


class FindingsError(MorphaxError, ValueError):
    """A finding of severity error: exit code 1, nothing is written."""
