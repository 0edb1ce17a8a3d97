#!/usr/bin/env bash
# Starts the application with the demo project; under a virtual display where there is no other.
set -u
cd "$(dirname "$0")/.."
if [ -n "${DISPLAY:-}" ] || [ -n "${WAYLAND_DISPLAY:-}" ]; then
    exec .venv/bin/morphax demo
fi
if ! command -v Xvfb >/dev/null 2>&1; then
    echo "There is no display and no virtual one: please install the packages xvfb and xauth." >&2
    exit 1
fi
echo "There is no display here: Morphax starts under a virtual one (1280x800). Ctrl+C ends it."
exec xvfb-run -a -s "-screen 0 1280x800x24" .venv/bin/morphax demo
