"""Files of the version before: they open as they were, and have the bodies that they had."""

import copy
import hashlib
import io
import json
import zipfile
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from morphax.build.project_bodies import new_builder
from morphax.core.mesh.measures import area, volume
from morphax.io.project_file import MIMETYPE, from_bytes, load_project, to_bytes
from morphax.project.edits.runs import duplicate_runs
from morphax.project.migrations import MIGRATIONS
from morphax.project.model.document import SCHEMA_VERSION, PortHold, Project, all_ids

DATA = Path(__file__).parent.parent / "data"
NAMES = ("version-3-wagon", "version-3-mixed", "version-3-many")
BODIES = json.loads((DATA / "version-3-bodies.json").read_text())
"""By file and run: points, faces, volume, area and the sums of coordinates, as the version before built them."""


def document(name: str) -> dict[str, Any]:
    with zipfile.ZipFile(DATA / f"{name}.morphax") as archive:
        out: dict[str, Any] = json.loads(archive.read("project.json"))
        return out


def opened(doc: dict[str, Any]) -> Project:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        archive.writestr("mimetype", MIMETYPE)
        archive.writestr("project.json", json.dumps(doc))
    return from_bytes(out.getvalue(), "old.morphax")


@pytest.mark.parametrize("name", NAMES)
def test_bodies_of_old_files_are_what_they_were(name: str) -> None:
    project, builder = load_project(DATA / f"{name}.morphax"), new_builder()
    assert {r.id for r in project.runs} == BODIES[name].keys()
    for run in project.runs:
        mesh = builder.run(project, run).body.mesh
        now = [len(mesh.points), mesh.face_count, volume(mesh), area(mesh), *np.abs(mesh.points).sum(0)]
        assert now == pytest.approx(BODIES[name][run.id], rel=1e-9), run.show.name


@pytest.mark.parametrize("name", NAMES)
def test_nothing_but_the_version_changes_where_ids_are_unique(name: str) -> None:
    old = document(name)
    assert old.pop("schema_version") == 3
    new = json.loads(json.dumps(old))
    for step in MIGRATIONS[2:]:
        new = step(new)
    assert new == old
    project = load_project(DATA / f"{name}.morphax")
    assert from_bytes(to_bytes(project), "again.morphax") == project


def test_ids_that_several_things_claim_are_renumbered_and_what_names_them_goes_along() -> None:
    plain, doc = load_project(DATA / "version-3-mixed.morphax"), document("version-3-mixed")
    by_id = {p["id"]: p for p in doc["paths"]}
    first, plugged = doc["paths"][1], doc["paths"][0]
    for knot, twin in zip(first["knots"], plugged["knots"], strict=False):
        twin["id"] = knot["id"]  # knots of two paths
    held = [h for h in doc["hosts"] if h["ports"]]
    for host in held:
        host["ports"][0]["id"] = "o1"  # ports of two hosts
    for knot in plugged["knots"]:
        if (knot["hold"] or {}).get("kind") == "port":
            knot["hold"]["port"] = "o1"
    run = next(r for r in doc["runs"] if by_id[r["recipe"]["path"]]["made"] is None)
    clash, old = doc["hosts"][0]["id"], run["recipe"]["path"]
    for thing in [*doc["paths"], *(r["recipe"] for r in doc["runs"]), *(p["made"] or {} for p in doc["paths"])]:
        for key in ("id", "path", "around"):
            if thing.get(key) == old:
                thing[key] = clash  # a path and a host
    doc["next_id"] = 1
    project = opened(copy.deepcopy(doc))
    ids = list(all_ids(project))
    assert len(set(ids)) == len(ids)
    assert project.next_id > max(int(i.lstrip("abcdefghijklmnopqrstuvwxyz")) for i in ids)
    ports = {(h.id, p.id) for h in project.hosts for p in h.ports}
    holds = [k.hold for p in project.paths for k in p.knots if isinstance(k.hold, PortHold)]
    assert len(holds) == 4 and {(h.host, h.port) for h in holds} == ports and len(ports) == 2
    builder = new_builder()
    for run_then, run_now in zip(plain.runs, project.runs, strict=True):
        then, now = (builder.run(p, r).body.mesh for p, r in ((plain, run_then), (project, run_now)))
        assert np.array_equal(then.points, now.points), run_now.show.name


def test_an_old_file_goes_on_to_be_edited() -> None:
    project = load_project(DATA / "version-3-many.morphax")
    added = duplicate_runs(project, [r.id for r in project.runs[:5]])
    assert len(added.project.runs) == 305 and added.ids[0] not in {r.id for r in project.runs}


def test_what_is_no_document_is_left_to_the_reader() -> None:
    for odd in ({}, {"paths": 3}, {"paths": [3, {"id": 4}], "runs": [{"recipe": None}]}, {"hosts": [{"ports": "x"}]}):
        assert MIGRATIONS[2](copy.deepcopy(odd)).keys() >= odd.keys()


def without_words(schema: object) -> object:
    if isinstance(schema, dict):
        return {k: without_words(v) for k, v in schema.items() if not (k == "description" and isinstance(v, str))}
    return [without_words(v) for v in schema] if isinstance(schema, list) else schema


def test_what_a_file_holds_changes_with_its_version_only() -> None:
    """A file with a field that its version had not is one that an older program calls damaged, and not newer."""
    schema = json.dumps(without_words(Project.model_json_schema()), sort_keys=True)
    held = hashlib.sha256(schema.encode()).hexdigest()[:12]
    assert (SCHEMA_VERSION, held) == (16, "e29e1f9a499b"), "a new version, its step, and then the figures here"
    assert len(MIGRATIONS) == SCHEMA_VERSION - 1
