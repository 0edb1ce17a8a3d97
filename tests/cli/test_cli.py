"""The command line: bodies from CSV paths, reports, projects, and exit codes."""

import json
import shlex
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest
import trimesh

from morphax.cli.main import main
from morphax.core.body.recipe import End, Ends
from morphax.core.path.paths import PathKind
from morphax.io.project_file import save_project
from morphax.project.edits import timing
from morphax.project.edits.runs import NewRun, add_run, with_recipe
from morphax.project.model.document import SCHEMA_VERSION, ExportWish, Project, ReadyMadeSource, evolve
from tests.helpers import DEMO_RUNS, circle_points
from tests.io.gltf_check import assert_gltf


def write_csv(path: Path, points: np.ndarray) -> str:
    np.savetxt(path, points, delimiter=",", header="x,y,z", comments="")
    return str(path)


def sweep_report(capsys: pytest.CaptureFixture[str], *words: str) -> dict:
    assert main(["sweep", *words, "--report"]) == 0
    return json.loads(capsys.readouterr().out)


def test_torus(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = write_csv(tmp_path / "c.csv", circle_points(72, 1000.0))
    out = tmp_path / "torus.glb"
    words = ("--path", file, "--closed", "--section", "round:width=400mm", "--deviation", "0.5", "--out", str(out))
    r = sweep_report(capsys, *words)
    assert r["closed"] and r["path_closed"] and r["findings"] == []
    assert r["volume_m3"] == pytest.approx(2 * np.pi**2 * 0.04, rel=5e-3)
    assert r["area_m2"] == pytest.approx(4 * np.pi**2 * 0.2, rel=5e-3)
    assert r["length_m"] == pytest.approx(2 * np.pi, rel=1e-6)
    assert r["faces"] == r["rings"] * r["sides"]
    assert_gltf(out.read_bytes())


def test_mitred_frame(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = write_csv(tmp_path / "f.csv", np.array([[0, 0, 0], [600, 0, 0], [600, 400, 0], [0, 400, 0]]))
    base = ("--path", file, "--kind", "straight", "--closed", "--section", "rectangle:width=20mm,height=10mm")
    for anchor, dx in (("centre", 0.0), ("right", -0.01), ("left", 0.01)):
        r = sweep_report(capsys, *base, "--anchor", anchor, "--out", str(tmp_path / "f.stl"))
        track = 2 * (0.6 + 0.4) + 8 * dx
        assert r["volume_m3"] == pytest.approx(0.02 * 0.01 * track, rel=1e-12) and r["closed"]
        assert r["rings"] == 4 and r["faces"] == 16 and r["triangles"] == 32


def test_helix_and_pipe(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    a = np.linspace(0, 6 * np.pi, 200)
    helix = np.stack([200 * np.cos(a), 200 * np.sin(a), 20 * a], axis=1)
    r = sweep_report(
        capsys, "--path", write_csv(tmp_path / "h.csv", helix), "--section", "round:width=10mm", "--out",
        str(tmp_path / "h.obj"),
    )  # fmt: skip
    length = 6 * np.pi * np.hypot(0.2, 0.02)
    assert r["length_m"] == pytest.approx(length, rel=1e-5) and r["closed"] and not r["path_closed"]
    assert r["volume_m3"] == pytest.approx(np.pi * 0.005**2 * length, rel=0.02)
    line = write_csv(tmp_path / "l.csv", np.array([[0, 0, 0], [0, 0, 1000]]))
    r = sweep_report(
        capsys, "--path", line, "--section", "pipe:width=100,wall=10", "--sides", "64", "--ends", "flat,open", "--out",
        str(tmp_path / "p.obj"),
    )  # fmt: skip
    assert not r["closed"] and r["sides"] == 128 and r["rings"] == 2
    r = sweep_report(
        capsys, "--path", line, "--section", "pipe:width=100,wall=10", "--sides", "64", "--out", str(tmp_path / "p.obj")
    )
    ring = 64 * np.sin(2 * np.pi / 64) / 2 * (0.05**2 - 0.04**2)
    assert r["closed"] and r["volume_m3"] == pytest.approx(ring, rel=1e-12)


def test_units_scale_and_up(tmp_path: Path) -> None:
    file = write_csv(tmp_path / "l.csv", np.array([[0, 0, 0], [0, 0, 2]]))
    out = tmp_path / "a.obj"
    words = ["sweep", "--path", file, "--unit", "in", "--section", "rectangle:width=1,height=1", "--out", str(out)]
    assert main([*words, "--up", "y", "--scale", "10", "--triangles"]) == 0
    v = np.array([[float(x) for x in ln.split()[1:]] for ln in out.read_text().splitlines() if ln.startswith("v ")])
    np.testing.assert_allclose(np.ptp(v, axis=0), [10, 20, 10], rtol=1e-6)
    assert all(len(ln.split()) == 4 for ln in out.read_text().splitlines() if ln.startswith("f "))


def test_points_can_be_joined_as_a_pulled_path(tmp_path: Path, capsys) -> None:
    file = write_csv(tmp_path / "l.csv", np.array([[0, 0, 0], [100, 300, 0], [200, 0, 0]]))
    out = ["--path", file, "--section", "round", "--out", str(tmp_path / "p.obj")]
    pulled = sweep_report(capsys, *out, "--kind", "pulled")["length_m"]
    # two knots and one that pulls: a parabola, whose length is known in closed form
    a, b = 0.3, 0.2
    x = 2 * a / b
    assert pulled == pytest.approx(0.5 * b * np.hypot(1, x) + 0.5 * b * np.arcsinh(x) / x, rel=1e-6)


def test_ply_is_in_triangles_unless_four_sided_faces_are_asked_for(tmp_path: Path) -> None:
    file, out = write_csv(tmp_path / "l.csv", np.array([[0, 0, 0], [0, 0, 300]])), tmp_path / "a.ply"
    words = ["sweep", "--path", file, "--section", "rectangle:width=100", "--out", str(out)]
    for more, sizes in (([], {3}), (["--quads"], {3, 4})):
        assert main([*words, *more]) == 0
        body = out.read_bytes().split(b"end_header\n")[1][8 * 12 :]
        found, at = set(), 0
        while at < len(body):
            found.add(body[at])
            at += 1 + 4 * body[at]
        assert found == sizes
        if found == {3}:  # the other one is refused by this reader
            assert trimesh.load(out).volume == pytest.approx(100 * 100 * 300, rel=1e-5)


@pytest.mark.parametrize(
    "words,sentence",
    [
        (["--section", "tube"], "there is no section 'tube'; there are: round"),
        (["--section", "leaf:thickness=50"], "thickness is 0.05 m; it must be at most"),
        (["--section", "i:webb=2"], "i has no value 'webb'"),
        (["--section", "polygon:points=2.5"], "whole number"),
        (["--section", "polygon:points=5 mm"], "not a plain number"),
        (["--section", "round:depth=3"], "round has no value 'depth'"),
        (["--section", "round:width"], "must be key=value"),
        (["--section", "round:width=3 kg"], "neither a number nor a unit"),
        (["--section", "a.svg"], "could not be read"),
        (["--section", "round", "--rings", "3", "--deviation", "1"], "not allowed with"),
        (["--section", "round", "--spacing", "0"], "more than 0"),
        (["--section", "round", "--roll", "nan"], "finite number"),
        (["--section", "round", "--kind", "hanging"], "is not known"),
        (["--section", "round", "--orientation", "on the host"], "needs a project"),
        (["--section", "round", "--ends", "cut to host"], "needs a project"),
        (["--section", "round", "--kind", "handles"], "points have no handles"),
        (["--section", "round", "--kind", "wild"], "is not known; there are: straight, through"),
        (["--section", "round", "--twist", "nan"], "--twist nan"),
        (["--section", "round", "--size", "-1"], "--size -1: a factor"),
        (["--section", "round", "--station", "star"], "no share of the length"),
        (["--section", "round", "--station", "1.5=star"], "from 0 to 1"),
        (["--section", "round", "--station", "0.5=stair"], "stair"),
        (["--section", "round", "--station", "0=star"], "at the start stands --section"),
        (["--section", "round", "--range", "0.2"], "give two shares of the length"),
        (["--section", "round", "--range", "0.2,2"], "from 0 to 1"),
        (["--section", "round", "--range", "0.8,0.2"], "ends before it starts"),
        (["--section", "round", "--budget=2"], "a budget of faces is 2"),
        (["--section", "round", "--budget", "90", "--rings", "3"], "not allowed with"),
        (
            ["--section", "round", "--ends", "barbed"],
            "there are: open, flat, domed, chamfered, pointed, angled, returned",
        ),
        (["--section", "round", "--corner", "cut"], "there are: mitre, bevel, round"),
        (["--section", "round", "--anchor", "middle"], "is not known"),
        (["--section", "round", "--sides", "2"], "sides is 2"),
        (["--section", "round", "--deviation", "1e-9"], "limit"),
        (["--section", "round", "--out", "a.xyz"], "must be one of"),
        (["--section", "round", "--scale", "0"], "more than 0"),
        (["--section", "round", "--colour", "red"], "unrecognized"),
    ],
)
def test_wrong_use_is_one_sentence_and_exit_2(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], words: list[str], sentence: str
) -> None:
    file = write_csv(tmp_path / "c.csv", circle_points(12, 100.0))
    out = tmp_path / "o.obj"
    code = main(["sweep", "--path", file, "--out", str(out), *words])
    said = capsys.readouterr().err
    assert code == 2 and sentence in said and said.count("\n") == 1 and not out.exists()


def test_findings_of_severity_error_are_exit_1_and_leave_the_old_file(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = write_csv(tmp_path / "c.csv", np.zeros((3, 3)))
    out = tmp_path / "o.obj"
    out.write_text("old")
    assert main(["sweep", "--path", file, "--section", "round", "--out", str(out)]) == 1
    assert "in different places" in capsys.readouterr().err and out.read_text() == "old"


def test_missing_far_and_unreadable_paths_are_exit_2(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    out = ["--section", "round", "--out", str(tmp_path / "o.obj")]
    assert main(["sweep", "--path", str(tmp_path / "no.csv"), *out]) == 2
    assert "could not be read" in capsys.readouterr().err
    far = write_csv(tmp_path / "far.csv", np.array([[0, 0, 0], [1e12, 0, 0]]))
    assert main(["sweep", "--path", far, *out]) == 2
    assert "1e7 m" in capsys.readouterr().err
    assert main(["sweep", "--path", str(tmp_path / "a.svg"), *out]) == 2
    assert main(["nonsense"]) == 2 and main(["takeoff", "x"]) == 2


def test_demo_build_check_and_lists(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = tmp_path / "d.morphax"
    assert main(["demo", "--write", str(file)]) == 0
    first = file.read_bytes()
    assert main(["demo", "--write", str(file)]) == 0 and file.read_bytes() == first
    assert main(["check", str(file)]) == 0 and "No findings." in capsys.readouterr().out
    assert main(["check", str(file), "--json"]) == 0
    assert {r["run"] for r in json.loads(capsys.readouterr().out)} == set(DEMO_RUNS)
    assert main(["build", str(file), "--out", str(tmp_path / "d.glb"), "--only", "Cornice", "Fog hose"]) == 0
    document, _ = assert_gltf((tmp_path / "d.glb").read_bytes())
    nodes = document["nodes"]
    assert [nodes[k]["name"] for k in document["scenes"][0]["nodes"]] == ["Fog hose", "Cornice", "Cornice blocks"]
    assert main(["build", str(file), "--out", str(tmp_path / "d.glb"), "--only", "Nose"]) == 2
    assert "there is no run 'Nose'; there are: Lamp cable" in capsys.readouterr().err
    assert main(["sections"]) == 0 and "pipe" in capsys.readouterr().out
    assert main(["schema"]) == 0 and json.loads(capsys.readouterr().out)["schema_version"] == SCHEMA_VERSION


def test_build_writes_every_picture_of_a_play(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    made = add_run(
        Project(), PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0)], NewRun(ReadyMadeSource(name="round"), name="a")
    )
    project = timing.with_clock(timing.with_origin(made.project, made.ids[:1], "end"), rate=1)
    file = tmp_path / "p.morphax"
    save_project(made.project, file)
    assert main(["build", str(file), "--frames", "--out", str(tmp_path / "p.ply")]) == 2
    assert "nothing in this project moves" in capsys.readouterr().err
    save_project(project, file)
    assert main(["build", str(file), "--frames", "--out", str(tmp_path / "p.ply"), "--unit", "m"]) == 0
    assert capsys.readouterr().out == "p_0001.ply to p_0004.ply: 4 pictures\n"
    found = [trimesh.load(tmp_path / f"p_000{k}.ply") for k in (2, 3, 4)]
    assert [f.bounds[0, 0] for f in found] == pytest.approx([2 / 3, 1 / 3, 0.0], abs=1e-6)
    assert all(f.is_watertight for f in found)
    assert main(["build", str(file), "--frames", "--out", str(tmp_path / "p.glb")]) == 0
    assert capsys.readouterr().out == "p.glb: 4 pictures; a: morph targets\n"
    assert_gltf((tmp_path / "p.glb").read_bytes())


def test_build_stops_at_errors_unless_told_to_go_on(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    from morphax.core.path.paths import PathKind
    from morphax.demo import lantern_wagon
    from morphax.io.project_file import save_project
    from morphax.project.edits.runs import NewRun, add_run
    from morphax.project.model.document import ReadyMadeSource

    bad = add_run(lantern_wagon(), PathKind.THROUGH, [(0.0, 0.0, 0.0)] * 2, NewRun(ReadyMadeSource(name="round")))
    file, out = tmp_path / "b.morphax", tmp_path / "b.stl"
    save_project(bad.project, file)
    assert main(["build", str(file), "--out", str(out)]) == 1 and not out.exists()
    assert main(["build", str(file), "--out", str(out), "--keep-going"]) == 1 and out.exists()
    assert main(["check", str(file)]) == 1


def test_headless_commands_load_no_window_code() -> None:
    code = (
        "import sys; from morphax.cli.main import main; main(['sections']);"
        "print([m for m in ('PySide6', 'vtkmodules') if m in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip().endswith("[]")


def test_bare_core_import_is_light() -> None:
    code = (
        "import sys, morphax.core, morphax.core.body.sweep;"
        "print([m for m in ('PySide6', 'vtkmodules', 'pydantic') if m in sys.modules])"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_a_range_is_a_part_of_the_length(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = write_csv(tmp_path / "l.csv", np.array([[0, 0, 0], [0, 0, 1400.0]]))
    words = ("--path", file, "--kind", "straight", "--section", "rectangle:width=100,height=100")
    r = sweep_report(capsys, *words, "--range", "25%,0.75", "--out", str(tmp_path / "c.stl"))
    assert r["closed"] and r["volume_m3"] == pytest.approx(0.01 * 0.7) and r["length_m"] == pytest.approx(1.4)
    assert trimesh.load(tmp_path / "c.stl").bounds[:, 2] == pytest.approx([350.0, 1050.0])
    ring = write_csv(tmp_path / "r.csv", circle_points(12, 500.0))
    words = ("--path", ring, "--closed", "--section", "round:width=20", "--out", str(tmp_path / "r.stl"))
    parts = [sweep_report(capsys, *words, "--range", v)["volume_m3"] for v in ("0.75,0.25", "0.25,0.75")]
    assert parts[0] == pytest.approx(parts[1], rel=1e-3) and parts[0] == pytest.approx(1e-4 * np.pi**2 * 0.5, rel=0.02)


def test_stations_twist_and_end_size(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file = write_csv(tmp_path / "l.csv", np.array([[0, 0, 0], [0, 0, 1400.0]]))
    out = tmp_path / "c.stl"
    words = ("--path", file, "--kind", "straight", "--section", "rectangle:width=380,height=380", "--unit", "mm")
    column = [f"--station={at}={spec}" for at, spec in (
        ("0.06", "round:width=330"), ("50%", "flute:width=300"), ("0.94", "round:width=250"),
        ("1", "rectangle:width=360,height=360"),
    )]  # fmt: skip
    r = sweep_report(capsys, *words, *column, "--out", str(out))
    assert r["closed"] and r["findings"] == []
    made = trimesh.load(out)
    assert made.is_watertight and made.extents == pytest.approx((380, 380, 1400), rel=1e-6)
    assert made.volume / 1e9 == pytest.approx(r["volume_m3"], rel=1e-6)
    r = sweep_report(capsys, *words, "--size", "0.55", "--out", str(out))
    a, b = 0.38**2, (0.55 * 0.38) ** 2
    assert r["volume_m3"] == pytest.approx(1.4 * (a + b + np.sqrt(a * b)) / 3.0, rel=1e-9)
    rope = ("--section", "bundle:strands=3,width=20", "--twist", "-1440", "--out", str(out))
    r = sweep_report(capsys, "--path", file, "--kind", "straight", *rope)
    assert r["rings"] > 60 and r["closed"]


def test_the_guides_lines_about_varying_runs_work(
    tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    text = (Path(__file__).parents[2] / "docs" / "guide" / "along.md").read_text()
    lines = [x for x in text.replace("\\\n", " ").splitlines() if x.startswith("morphax sweep")]
    assert len(lines) >= 2
    monkeypatch.chdir(tmp_path)
    for name in ("column.csv", "rope.csv"):
        write_csv(tmp_path / name, np.array([[0, 0, 0], [0, 0, 1400.0]]))
    for line in lines:
        assert main(shlex.split(line)[1:]) == 0, line
        mesh = trimesh.load(tmp_path / line.split()[-1], force="mesh")
        mesh.merge_vertices(merge_tex=True, merge_norm=True)
        assert mesh.is_volume, line
    capsys.readouterr()
    rope = ["sweep", "--path", "rope.csv", "--section", "round", "--out", "a.glb", "--twist"]
    assert main([*rope, "100001"]) == 2 and "within 100000" in capsys.readouterr().err.replace("1e+05", "100000")


def test_columns_of_size_and_roll_are_values_of_the_knots(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    file, out = tmp_path / "l.csv", tmp_path / "l.stl"
    file.write_text("x,y,z,roll,size\n0,0,0,0,1\n0,0,500,,\n0,0,1000,90,0.5\n")
    words = ("--path", str(file), "--section", "rectangle:width=100,height=100", "--rings", "41")
    r = sweep_report(capsys, *words, "--out", str(out))
    assert r["closed"]
    made = trimesh.load(out)
    top = made.vertices[np.abs(made.vertices[:, 2] - 1000.0) < 1e-6]
    middle = made.vertices[np.abs(made.vertices[:, 2] - 500.0) < 1e-3]
    assert np.ptp(top[:, 0]) == pytest.approx(50.0, abs=1e-3) and np.ptp(middle[:, 0]) == pytest.approx(100.0, abs=0.1)
    for bad, said in (
        ("x,y,size\n1,2,big\n3,4,1\n", "line 2: size: 'big' is not a number"),
        ("x,y,size\n1,2,-1\n3,4,1\n", "size is -1"),
        ("x,y,size\n1,2,1\n1,2,2\n3,4,1\n", "3 values of size do not fit the 2 knots of the path"),
    ):
        file.write_text(bad)
        assert main(["sweep", "--path", str(file), "--section", "round", "--out", str(out)]) == 2
        assert said in capsys.readouterr().err


def test_settings_to_print_say_which_bodies_are_left_out_of_the_solid(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    closed = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0)], NewRun(ReadyMadeSource(name="round"), 0.1))
    more = add_run(
        closed.project, PathKind.STRAIGHT, [(0, 2, 0), (1, 2, 0)], NewRun(ReadyMadeSource(name="round"), 0.1)
    )
    both = with_recipe(more.project, [more.project.runs[-1].id], ends=Ends(start=End.OPEN))
    file = tmp_path / "bars.morphax"
    save_project(both, file)
    assert main(["build", str(file), "--out", str(tmp_path / "one.stl"), "--settings", "to print"]) == 0
    name = both.runs[-1].show.name
    assert f"{name} is not closed: it is left out of the solid" in capsys.readouterr().err
    assert trimesh.load(tmp_path / "one.stl").extents == pytest.approx([1000, 100, 100], rel=0.01)


def test_build_follows_named_settings_and_says_which_there_are(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    run = add_run(Project(), PathKind.STRAIGHT, [(0, 0, 0), (1, 0, 0)], NewRun(ReadyMadeSource(name="round"), 0.1))
    own = ExportWish(name="game", suffix=".glb", levels=True, origin="foot", pattern="{project} {count}")
    file = tmp_path / "bar.morphax"
    save_project(evolve(run.project, exports=(own,)), file)
    assert main(["build", str(file), "--out", str(tmp_path), "--settings", "game"]) == 0
    names = ["bar 01 near.glb", "bar 01 mid.glb", "bar 01 far.glb"]
    assert capsys.readouterr().out.split("\n")[:3] == names
    sizes = [len(trimesh.load(tmp_path / n).to_mesh().faces) for n in names]
    assert sizes[0] > sizes[1] >= sizes[2]
    assert_gltf((tmp_path / names[0]).read_bytes())
    assert main(["build", str(file), "--out", str(tmp_path / "one.stl"), "--settings", "to print"]) == 0
    assert trimesh.load(tmp_path / "one.stl").is_watertight
    for words, said in (
        (["--settings", "none"], "game"),
        (["--settings", "to print"], ".stl"),
    ):
        assert main(["build", str(file), "--out", str(tmp_path / "x.obj"), *words]) == 2
        assert said in capsys.readouterr().err and not (tmp_path / "x.obj").exists()
