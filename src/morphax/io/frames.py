"""A play to files: numbered meshes, or one GLB with an animation."""

from collections.abc import Sequence
from pathlib import Path

from morphax.io.bodies import ExportOptions
from morphax.io.errors import FileError
from morphax.io.export import check_name, write
from morphax.io.glb_moving import Frame, Written, moving_glb
from morphax.io.safe_write import write_bytes


def numbered(path: Path, k: int, of: int) -> Path:
    """The file of a picture, counted from 1: all numbers of a play have as many digits, four or more."""
    digits = max(4, len(str(of)))
    return path.with_name(f"{path.stem}_{k + 1:0{digits}d}{path.suffix}")


def frame_files(path: Path, count: int) -> list[Path]:
    """The files that a play of so many pictures is written to."""
    return [path] if path.suffix.lower() == ".glb" else [numbered(path, k, count) for k in range(count)]


def words_of(written: Written) -> str:
    """How the bodies of a GLB move, in a sentence; empty where all stand still."""
    parts = []
    if written.morphing:
        parts.append(f"{', '.join(written.morphing)}: morph targets")
    if written.numbered:
        parts.append(f"{', '.join(written.numbered)}: a mesh for each picture")
    return "; ".join(parts)


def write_frames(
    path: Path, frames: Sequence[Frame], times: Sequence[float], options: ExportOptions
) -> tuple[list[Path], str]:
    """Writes the bodies of a play; its files, and how bodies move in a GLB. Raises FileError.

    Pictures in which nothing is there yet are files without a body, so that no number is missing.
    """
    suffix = check_name(path)
    if not any(b.mesh.face_count for frame in frames for b in frame.values()):
        raise FileError("there is nothing to write: no run has a body at any time")
    if suffix == ".glb":
        data, written = moving_glb(frames, times)
        write_bytes(path, data)
        return [path], words_of(written) or "nothing moves"
    files = frame_files(path, len(frames))
    for file, frame in zip(files, frames, strict=True):
        write(file, suffix, [b for b in frame.values() if b.mesh.face_count], options)
    return files, ""
