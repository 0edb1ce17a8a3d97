"""The project file: a zip with the document as JSON; equal projects give equal bytes."""

import hashlib
import io
import json
import struct
import zipfile
import zlib
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from morphax.io.errors import FileError
from morphax.io.reading import read_within
from morphax.io.safe_write import write_bytes
from morphax.project.migrations import MIGRATIONS
from morphax.project.model.document import SCHEMA_VERSION, Asset, Project, evolve

MIMETYPE = "application/x-morphax"
_DAMAGE = (
    zipfile.BadZipFile,
    zlib.error,
    struct.error,
    EOFError,
    NotImplementedError,
    OverflowError,
    RuntimeError,
    ValueError,  # offsets and names that make no sense, text that is not UTF-8
)
"""What the zip reader raises on damaged bytes."""
_MOST_PARSED = 384 << 20
_STAMP = (1980, 1, 1, 0, 0, 0)
_MOST_UNPACKED, _MOST_ENTRIES, _MOST_RATIO, _MOST_JSON, _MOST_DEPTH = 2 << 30, 10_000, 200, 64 << 20, 64


def to_bytes(project: Project, thumbnail: bytes | None = None) -> bytes:
    """The file's bytes; the same for equal projects. ``thumbnail`` is a PNG for file managers."""
    document = {"schema_version": SCHEMA_VERSION, **project.model_dump(mode="json")}
    text = json.dumps(document, sort_keys=True, ensure_ascii=False, allow_nan=False, indent=1)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        _add(archive, "mimetype", MIMETYPE.encode(), zipfile.ZIP_STORED)
        _add(archive, "project.json", text.encode(), zipfile.ZIP_DEFLATED)
        for asset in sorted(project.assets, key=lambda a: a.sha256):
            _add(archive, _asset_name(asset), asset.data, zipfile.ZIP_STORED)
        if thumbnail is not None:
            _add(archive, "thumbnail.png", thumbnail, zipfile.ZIP_STORED)
    return out.getvalue()


def _add(archive: zipfile.ZipFile, name: str, data: bytes, method: int) -> None:
    info = zipfile.ZipInfo(name, _STAMP)
    info.compress_type, info.external_attr = method, 0o644 << 16
    archive.writestr(info, data)


def save_project(project: Project, path: Path, thumbnail: bytes | None = None) -> None:
    """Writes a project; the previous version becomes ``.bak``. Raises FileError."""
    write_bytes(path, to_bytes(project, thumbnail), keep_old=True)


def load_project(path: Path) -> Project:
    """Reads a project. Raises FileError with one plain sentence when it is no sound project file."""
    return from_bytes(read_within(path, _MOST_UNPACKED, str(path)), str(path))


def from_bytes(data: bytes, name: str) -> Project:
    """A project from a file's bytes; ``name`` is for the sentence of an error."""
    text, files = _contents(data, name)
    if _parsed_size(text) > _MOST_PARSED:
        raise FileError(f"{name} is refused: its document would take more memory than a project may")
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise FileError(f"{name} is damaged: its document is not JSON") from error
    if not isinstance(document, dict):
        raise FileError(f"{name} is damaged: its document is not an object")
    if _depth(document) > _MOST_DEPTH:
        raise FileError(f"{name} is refused: its document is nested too deeply")
    return _with_assets(_validated(_current(document, name), name), files, name)


def _parsed_size(text: str) -> int:
    """About how many bytes JSON takes when it is read: a list, an object, an item and a name each have their cost."""
    lists, items = text.count("[") + text.count("{"), text.count(",") + text.count(":")
    return len(text) + 88 * lists + 56 * items


def _asset_name(asset: Asset) -> str:
    return f"assets/{asset.sha256}{asset.suffix}"


def _with_assets(project: Project, files: dict[str, bytes], name: str) -> Project:
    """The project with the files that lie beside its document; each is what its name says."""
    filled = []
    for asset in project.assets:
        found = files.get(_asset_name(asset))
        if found is None or hashlib.sha256(found).hexdigest() != asset.sha256:
            raise FileError(f"{name} is damaged: a file that it keeps is missing or changed")
        filled.append(evolve(asset, data=found))
    return evolve(project, assets=tuple(filled)) if filled else project


def _contents(data: bytes, name: str) -> tuple[str, dict[str, bytes]]:
    """The document's text, and the bytes of all assets by their names."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            _check_entries(archive, name)
            if archive.read("mimetype").decode("ascii", "replace") != MIMETYPE:
                raise FileError(f"{name} is not a Morphax project")
            files = {n: archive.read(n) for n in archive.namelist() if n.startswith("assets/")}
            return archive.read("project.json").decode("utf-8"), files
    except KeyError as error:
        raise FileError(f"{name} is not a Morphax project") from error
    except _DAMAGE as error:
        raise FileError(f"{name} is not a Morphax project, or it is damaged") from error


def _check_entries(archive: zipfile.ZipFile, name: str) -> None:
    """Refuses archives that are too large, too many or have names that lead elsewhere, before reading any."""
    entries = archive.infolist()
    names = [e.filename for e in entries]
    if len(entries) > _MOST_ENTRIES or sum(e.file_size for e in entries) > _MOST_UNPACKED:
        raise FileError(f"{name} is refused: it unpacks to more than a project may hold")
    if any(e.file_size > _MOST_RATIO * max(e.compress_size, 512) for e in entries):
        raise FileError(f"{name} is refused: it is packed too tightly to be a project")
    if len(set(names)) != len(names) or any(n.startswith(("/", "\\")) or ".." in n.split("/") for n in names):
        raise FileError(f"{name} is refused: its entries have doubled or unsafe names")
    if any(e.filename == "project.json" and e.file_size > _MOST_JSON for e in entries):
        raise FileError(f"{name} is refused: its document is larger than 64 MiB")


def _depth(value: Any) -> int:
    level, depth = [value], 0
    while level and depth <= _MOST_DEPTH:
        depth += 1
        nested: list[Any] = []
        for item in level:
            nested += item.values() if isinstance(item, dict) else item if isinstance(item, list) else ()
        level = [n for n in nested if isinstance(n, dict | list)]
    return depth


def _current(document: dict[str, Any], name: str) -> dict[str, Any]:
    version = document.pop("schema_version", None)
    if not isinstance(version, int) or version < 1:
        raise FileError(f"{name} is damaged: it does not say which version it is")
    if version > SCHEMA_VERSION:
        raise FileError(f"{name} was made by a newer Morphax (format {version}; this one reads up to {SCHEMA_VERSION})")
    for step in MIGRATIONS[version - 1 :]:
        document = step(document)
    return document


def _validated(document: dict[str, Any], name: str) -> Project:
    try:
        return Project.model_validate_json(json.dumps(document))
    except (ValidationError, ValueError) as error:
        where, what = "", str(error)
        if isinstance(error, ValidationError):
            first = error.errors()[0]
            where = " at " + ".".join(str(p) for p in first["loc"]) if first["loc"] else ""
            what = str(first["msg"]).removeprefix("Value error, ")
        raise FileError(f"{name} is damaged{where}: {what}") from error
