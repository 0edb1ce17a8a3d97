"""The user's own presets: one JSON file that is read and written whole."""

import json
from collections.abc import Sequence
from pathlib import Path

from pydantic import BaseModel, ConfigDict, ValidationError

from morphax.io.errors import FileError
from morphax.io.reading import read_within
from morphax.io.safe_write import write_bytes
from morphax.project.edits.presets import Preset

_MOST_BYTES = 20 << 20


class _Shelf(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")

    version: int = 1
    presets: tuple[Preset, ...] = ()


def load_presets(file: Path) -> tuple[Preset, ...]:
    """The presets, none where there is no file. Raises FileError on a damaged one, which stays where it is."""
    try:
        if not file.exists():
            return ()
        return _Shelf.model_validate_json(read_within(file, _MOST_BYTES, str(file))).presets
    except ValidationError as error:
        raise FileError(f"{file} is damaged, so your own presets could not be read") from error


def save_presets(file: Path, presets: Sequence[Preset]) -> None:
    """Writes the presets; the previous file becomes ``.bak``. Raises FileError."""
    shelf = _Shelf(presets=tuple(presets))
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileError(f"{file.parent} could not be made: {error.strerror or error}") from error
    write_bytes(file, json.dumps(shelf.model_dump(mode="json"), indent=1).encode(), keep_old=True)
