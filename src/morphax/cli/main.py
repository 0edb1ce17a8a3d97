"""The program: opens the window, or does a command without one."""

import sys
from collections.abc import Sequence

from morphax.build.memory import keep_freed_memory
from morphax.cli.commands import COMMANDS
from morphax.cli.errors import FindingsError, UsageError
from morphax.cli.parser import parser
from morphax.core.errors import MorphaxError

_HEADLESS = (*COMMANDS, "takeoff", "-h", "--help")


def main(argv: Sequence[str] | None = None) -> int:
    """Runs the command line; returns the exit code (0 done, 1 a finding of severity error, 2 wrong use)."""
    words = list(sys.argv[1:] if argv is None else argv)
    keep_freed_memory()
    if not words or words == ["demo"] or (len(words) == 1 and words[0].endswith(".morphax")):
        from morphax.app.launch import launch  # start-up time: commands without a window load no Qt

        return int(launch(words))
    try:
        return _command(words)
    except FindingsError as error:
        return _said(error, 1)
    except (MorphaxError, MemoryError) as error:
        return _said(error, 2)


def _said(error: BaseException, code: int) -> int:
    text = str(error) or "there is not enough memory for this"
    print(f"morphax: {text}", file=sys.stderr)
    return code


def _command(words: list[str]) -> int:
    if words[0] == "takeoff":
        raise UsageError("takeoff cannot be used yet")
    if words[0] not in _HEADLESS and not words[0].startswith("-"):
        raise UsageError(f"there is no command {words[0]!r}; there are: {', '.join(COMMANDS)}")
    args = parser().parse_args(words)
    return COMMANDS[args.command](args)


if __name__ == "__main__":
    raise SystemExit(main())
