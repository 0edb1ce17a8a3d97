#!/usr/bin/env bash
# Sets up .venv and the system libraries that Qt and software OpenGL need. Quiet and quick the second time.
set -u
cd "$(dirname "$0")/.."

missing_system_parts() {
    local libs
    libs=$(ldconfig -p 2>/dev/null || /sbin/ldconfig -p)
    for pair in libEGL.so.1:libegl1 libGL.so.1:libgl1 libxkbcommon-x11.so.0:libxkbcommon-x11-0 \
        libxcb-cursor.so.0:libxcb-cursor0 libxcb-icccm.so.4:libxcb-icccm4 libxcb-image.so.0:libxcb-image0 \
        libxcb-keysyms.so.1:libxcb-keysyms1 libxcb-randr.so.0:libxcb-randr0 \
        libxcb-render-util.so.0:libxcb-render-util0 libxcb-shape.so.0:libxcb-shape0 \
        libxcb-xinerama.so.0:libxcb-xinerama0 libxcb-xkb.so.1:libxcb-xkb1 libfontconfig.so.1:libfontconfig1 \
        libdbus-1.so.3:libdbus-1-3 libglib-2.0.so.0:libglib2.0-0 libfreetype.so.6:libfreetype6; do
        case "$libs" in *"${pair%%:*}"*) ;; *) printf '%s ' "${pair##*:}" ;; esac
    done
    ls /usr/lib/*/dri/swrast_dri.so /usr/lib/dri/swrast_dri.so /usr/lib/*/dri/libdril_dri.so >/dev/null 2>&1 \
        || ls /usr/lib/*/dri/*.so >/dev/null 2>&1 || printf 'libgl1-mesa-dri '
}

install_system_parts() {
    local parts=$1 as=""
    [ -n "$parts" ] || return 0
    if command -v apt-get >/dev/null 2>&1; then
        if [ "$(id -u)" = 0 ]; then as="env"; elif sudo -n true 2>/dev/null; then as="sudo -n"; fi
        if [ -n "$as" ]; then
            echo "Installing system libraries: $parts"
            # shellcheck disable=SC2086
            { $as apt-get update -qq && DEBIAN_FRONTEND=noninteractive $as apt-get install -y -qq $parts; } >/dev/null && return 0
        fi
    fi
    echo "Please install these system packages (Debian names), then run this again: $parts" >&2
    return 1
}

find_python() {
    for name in python3.11 python3.12 python3.13 python3; do
        if command -v "$name" >/dev/null 2>&1 &&
            "$name" -c 'import sys; sys.exit(not (3, 11) <= sys.version_info[:2] <= (3, 13))' 2>/dev/null; then
            echo "$name"
            return 0
        fi
    done
    return 1
}

python=$(find_python) || { echo "Morphax needs Python 3.11 to 3.13; please install it (Debian: python3 and python3-venv)." >&2; exit 1; }
install_system_parts "$(missing_system_parts)" || exit 1
if ! command -v Xvfb >/dev/null 2>&1 && [ -z "${DISPLAY:-}${WAYLAND_DISPLAY:-}" ]; then
    install_system_parts "xvfb xauth" || true # the tests need no display; demo.sh says what is missing
fi

stamp=$(cat pyproject.toml constraints.txt tools/setup.sh | sha256sum | cut -d' ' -f1)
compile_loops() { .venv/bin/python -m morphax.core.kernels >/dev/null; } # a moment, once they are there
if [ "$(cat .venv/stamp 2>/dev/null)" = "$stamp" ] && [ -x .venv/bin/morphax ]; then
    compile_loops
    exit
fi

if [ ! -x .venv/bin/pip ]; then
    "$python" -m venv .venv >/dev/null 2>&1 || { rm -rf .venv; install_system_parts python3-venv && "$python" -m venv .venv; } || exit 1
fi
echo "Installing the Python packages into .venv"
.venv/bin/python -m pip install -q --disable-pip-version-check -c constraints.txt -e '.[dev]' || {
    echo "The Python packages could not be installed; see the lines above." >&2
    exit 1
}
echo "Compiling the loops of the core"
compile_loops || exit 1
echo "$stamp" >.venv/stamp
