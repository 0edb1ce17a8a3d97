#!/usr/bin/env bash
# Builds the wheel, installs it into an environment of its own as a user would, and lets it do its work there.
set -eu
cd "$(dirname "$0")/.."
place=.venv/wheel
stamp=$(cat pyproject.toml | sha256sum | cut -d' ' -f1)
rm -rf "$place/dist" "$place/src"
mkdir -p "$place/src"
cp -r pyproject.toml README.md LICENSE src "$place/src/"
rm -rf "$place/src/src/"*.egg-info
.venv/bin/python -m build --wheel --no-isolation --outdir "$place/dist" "$place/src" >/dev/null 2>"$place/build.log" || {
    cat "$place/build.log" >&2
    exit 1
}
wheel=$(ls "$place"/dist/*.whl)
if [ "$(cat "$place/stamp" 2>/dev/null)" != "$stamp" ]; then
    rm -rf "$place/env"
    .venv/bin/python -m venv "$place/env"
    "$place/env/bin/python" -m pip install -q --disable-pip-version-check "$wheel"
    echo "$stamp" >"$place/stamp"
else
    "$place/env/bin/python" -m pip install -q --disable-pip-version-check --no-deps --force-reinstall "$wheel"
fi
home=$(mktemp -d)
trap 'chmod -R u+w "$home" "$place/env/lib" 2>/dev/null; rm -rf "$home"' EXIT
# a read-only install and an empty cache: nothing is written beside the program, and nothing waits for a compiler
chmod -R a-w "$place/env/lib/"python*/site-packages/morphax
run() { (cd "$home" && env -u PYTHONPATH HOME="$home" XDG_CACHE_HOME="$home/cache" "$@"); }
bin=$PWD/$place/env/bin
printf '0,0,0\n100,50,0\n200,0,30\n300,80,60\n' >"$home/path.csv"
run "$bin/morphax" sweep --path path.csv --section round:width=20mm --out first.glb
test -s "$home/first.glb"
run "$bin/morphax" demo --write wagon.morphax
run "$bin/morphax" check wagon.morphax >/dev/null
run env QT_QPA_PLATFORM=offscreen VTK_DEFAULT_OPENGL_WINDOW=vtkEGLRenderWindow "$bin/python" - <<'PY'
import sys
import PySide6
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QWidget

widget = (app := QApplication([])) and QWidget()
before = sys.getrefcount(None)
for _ in range(1000):
    widget.update()
assert before - sys.getrefcount(None) < 100, f"this Qt binding ({PySide6.__version__}) loses references"
from morphax.app.window import Window

window = Window()
window.start()
QTimer.singleShot(300, app.quit)
app.exec()
window.shut_down()
PY
test -z "$(find "$place/env/lib/"python*/site-packages/morphax -name '*.nbi' -print -quit)"
echo "wheel: $(basename "$wheel") works in an environment of its own"
