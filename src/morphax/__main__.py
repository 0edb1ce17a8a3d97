"""``python -m morphax`` is the command line."""

from morphax.cli.main import main

if __name__ == "__main__":
    raise SystemExit(main())
