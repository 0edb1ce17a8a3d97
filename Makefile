.PHONY: setup demo test check bench shots fuzz
OFFSCREEN = QT_QPA_PLATFORM=offscreen VTK_DEFAULT_OPENGL_WINDOW=vtkEGLRenderWindow

setup:
	@bash tools/setup.sh

demo: setup
	@bash tools/demo.sh

test: setup
	@env -u DISPLAY -u WAYLAND_DISPLAY $(OFFSCREEN) .venv/bin/python -m pytest -q -n 2 --dist loadfile

fuzz: setup
	@env -u DISPLAY -u WAYLAND_DISPLAY $(OFFSCREEN) HYPOTHESIS_PROFILE=random .venv/bin/python -m pytest -q -n 2 --dist loadfile tests/core tests/project tests/io tests/app/driven/test_at_random.py
	@env -u DISPLAY -u WAYLAND_DISPLAY $(OFFSCREEN) .venv/bin/python -m tools.faults.run

check: setup
	@.venv/bin/ruff check src tests benchmarks tools
	@.venv/bin/ruff format --check -q src tests benchmarks tools
	@.venv/bin/mypy
	@.venv/bin/lint-imports --no-cache
	@.venv/bin/python tools/check_structure.py
	@bash tools/check_glb.sh
	@bash tools/check_wheel.sh

bench: setup
	@env -u DISPLAY -u WAYLAND_DISPLAY $(OFFSCREEN) .venv/bin/python -m benchmarks.run

shots: setup
	@own=$$(mktemp -d) && env -u DISPLAY -u WAYLAND_DISPLAY $(OFFSCREEN) XDG_STATE_HOME=$$own XDG_CONFIG_HOME=$$own \
		.venv/bin/python -m tools.shots.screens docs/screenshots; rm -rf $$own
