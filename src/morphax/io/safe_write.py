"""Writing files so that what was there stays until the new one is complete."""

import glob
import os
import shutil
import tempfile
from collections.abc import Mapping
from pathlib import Path

from morphax.io.errors import FileError


def write_bytes(path: Path, data: bytes, *, keep_old: bool = False) -> None:
    """Writes through a temporary file in the same folder; with ``keep_old`` the old file becomes ``.bak``.

    Raises FileError when the folder is missing or cannot be written to.
    """
    write_all({path: data}, keep_old=keep_old)


def write_all(files: Mapping[Path, bytes], *, keep_old: bool = False) -> None:
    """Writes several files: all are complete on the disk before the first takes its name."""
    ready: list[tuple[Path, Path]] = []
    try:
        for path, data in files.items():
            ready.append((_temporary(path, data), path))
        for temporary, path in ready:
            if keep_old and path.exists():
                _keep_old(path)
            os.replace(temporary, path)
            _sync_folder(path.parent)
    except OSError as error:
        for temporary, _ in ready:
            temporary.unlink(missing_ok=True)
        reason = error.strerror or str(error)
        raise FileError(f"{next(iter(files))} could not be written: {reason}") from error


def _keep_old(path: Path) -> None:
    """The present file as ``.bak`` too, without a moment in which ``path`` itself is not there."""
    spare = path.with_name(f".{path.name}.{os.getpid()}.bak")
    spare.unlink(missing_ok=True)
    try:
        os.link(path, spare)
    except OSError:  # a file system without hard links
        shutil.copy2(path, spare)
    os.replace(spare, path.with_name(path.name + ".bak"))


def _temporary(path: Path, data: bytes) -> Path:
    sweep(path)
    handle, name = tempfile.mkstemp(prefix=f".{path.name}.{os.getpid()}.", suffix=".part", dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
            file.flush()
            os.fsync(file.fileno())
        mode = path.stat().st_mode & 0o777 if path.exists() else 0o666 & ~_umask()
        os.chmod(name, mode)
    except OSError:  # a full disk: half a file helps nobody
        Path(name).unlink(missing_ok=True)
        raise
    return Path(name)


def sweep(path: Path) -> None:
    """Removes what writers of this file that were killed have left beside it."""
    for left in path.parent.glob(f".{glob.escape(path.name)}.*.part"):
        writer = left.name[len(path.name) + 2 :].split(".")[0]
        if writer.isdigit() and int(writer) != os.getpid() and not Path(f"/proc/{writer}").exists():
            left.unlink(missing_ok=True)


def _umask() -> int:
    current = os.umask(0)
    os.umask(current)
    return current


def _sync_folder(folder: Path) -> None:
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)
