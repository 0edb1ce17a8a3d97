"""The first start after an installation: plain loops answer, nothing needs a folder that can be written."""

import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from morphax.build import readiness
from morphax.build.builder import Builder
from morphax.core.body.range import Range, Stop
from morphax.core.body.recipe import Density, End, Ends, PlainRecipe
from morphax.core.body.sweep import sweep
from morphax.core.kernels import compiling
from morphax.core.section.ready_made import ready_made
from morphax.demo import many_runs
from tests.helpers import recipe_of, zoo

PLAINLY = """
import sys, numpy as np
from morphax.core.kernels.compiling import answer_plainly, is_plain
assert answer_plainly() and is_plain()
from morphax.core.body.sweep import sweep
from morphax.core.section.ready_made import ready_made
from tests.helpers import recipe_of, zoo
out = {}
for name in ("s curve", "frame", "corners out of plane", "closed"):
    mesh = sweep(zoo()[name], ready_made("crown", {"width": 0.05}), recipe_of(rings=9, sides=12)).mesh
    out[name + " points"], out[name + " normals"], out[name + " quads"] = mesh.points, mesh.normals, mesh.quads
assert "numba" not in sys.modules, "no compiler is loaded"
np.savez(sys.argv[1], **out)
"""


def run(code: str, *words: str, **env: str) -> subprocess.CompletedProcess:
    root = Path(__file__).parents[2]
    whole = {**os.environ, "PYTHONPATH": str(root), **env}
    return subprocess.run([sys.executable, "-c", code, *words], env=whole, cwd=root, capture_output=True, text=True)


def test_plain_loops_give_the_same_bodies_bit_for_bit(tmp_path) -> None:
    done = run(PLAINLY, str(tmp_path / "plain.npz"), XDG_CACHE_HOME=str(tmp_path / "empty"))
    assert done.returncode == 0, done.stderr
    plain = np.load(tmp_path / "plain.npz")
    for name in ("s curve", "frame", "corners out of plane", "closed"):
        mesh = sweep(zoo()[name], ready_made("crown", {"width": 0.05}), recipe_of(rings=9, sides=12)).mesh
        np.testing.assert_array_equal(plain[f"{name} points"], mesh.points)
        np.testing.assert_array_equal(plain[f"{name} normals"], mesh.normals)
        np.testing.assert_array_equal(plain[f"{name} quads"], mesh.quads)


def test_a_home_that_cannot_be_written_to_compiles_in_memory(tmp_path) -> None:
    blocked = tmp_path / "file"
    blocked.write_text("")
    code = (
        "import numpy as np; from morphax.core.kernels import compiling, meshing\n"
        "assert compiling.cache_folder() is None and not compiling.is_complete()\n"
        "out = meshing.face_normals(np.eye(3), np.array([[0, 1, 2]], dtype=np.int32)); print(out.shape)"
    )
    done = run(code, XDG_CACHE_HOME=str(blocked), NUMBA_CACHE_DIR="")
    assert done.returncode == 0 and "(1, 4)" in done.stdout, done.stderr


def test_a_small_sweep_on_the_command_line_needs_no_compiler(tmp_path) -> None:
    (tmp_path / "a.csv").write_text("0,0,0\n100,50,0\n200,0,30\n300,80,60\n")
    code = (
        "import sys; from morphax.cli.main import main\n"
        "code = main(['sweep', '--path', sys.argv[1], '--section', 'round:width=20', '--out', sys.argv[2]])\n"
        "assert code == 0 and 'numba' not in sys.modules"
    )
    done = run(code, str(tmp_path / "a.csv"), str(tmp_path / "a.obj"), XDG_CACHE_HOME=str(tmp_path / "cold"))
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "a.obj").stat().st_size > 1000


def test_the_fingerprint_names_what_machine_code_depends_on(monkeypatch) -> None:
    now = compiling.fingerprint()
    compiling.fingerprint.cache_clear()
    monkeypatch.setattr(compiling, "version", lambda name: "0.0")
    other = compiling.fingerprint()
    compiling.fingerprint.cache_clear()
    assert now != other and len(now) == 16


@pytest.fixture
def cold(monkeypatch):
    """A program whose loops are not compiled, as far as builders know."""
    state = {"plain": True}
    for module in ("morphax.build.builder", "morphax.build.readiness", "morphax.app.session.bodies"):
        monkeypatch.setattr(f"{module}.is_plain", lambda: state["plain"])
    return state


def test_bodies_are_coarser_for_now_and_never_kept(cold) -> None:
    project = many_runs(1, rings=5000, sides=40)
    builder = Builder()
    early = builder.run(project, project.runs[0])
    assert early.is_for_now and len(early.body.mesh.points) <= readiness.MOST_POINTS
    cold["plain"] = False
    late = builder.run(project, project.runs[0])
    assert not late.is_for_now and len(late.body.mesh.points) == 200_000


def test_what_is_small_enough_is_built_as_it_was_asked_for() -> None:
    recipe = PlainRecipe(density=Density(rings=24, sides=12))
    assert readiness.for_now(recipe) == (recipe, ())
    part = PlainRecipe(range=Range(Stop(0.0), Stop(0.5)), limit=1.0, ends=Ends(End.DOMED))
    same = readiness.for_now(part)[0]
    assert (same.range, same.limit, same.ends) == (part.range, part.limit, part.ends), "coarser, and nothing else"
    coarser, notes = readiness.for_now(PlainRecipe())
    assert notes and coarser.density.rings * coarser.density.sides <= readiness.MOST_POINTS


def test_the_window_builds_anew_when_loops_are_compiled(cold, qtbot) -> None:
    from morphax.app.launch import build_anew_when_ready
    from morphax.app.session.workspace import Workspace

    workspace = Workspace(many_runs(2, rings=3000, sides=30))
    qtbot.waitUntil(lambda: not workspace.bodies.is_waiting, timeout=20_000)
    assert all(b.is_for_now for b in workspace.bodies.values())
    build_anew_when_ready(workspace)
    cold["plain"] = False
    qtbot.waitUntil(lambda: not any(b.is_for_now for b in workspace.bodies.values()), timeout=20_000)
    assert all(len(b.body.mesh.points) == 90_000 for b in workspace.bodies.values())
    workspace.close()
