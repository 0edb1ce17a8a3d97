"""What the application remembers between sessions: recent projects, look, last width. One JSON file."""

import json
from contextlib import suppress
from pathlib import Path
from typing import Literal

from platformdirs import user_config_path
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from morphax.io.errors import FileError
from morphax.io.safe_write import write_bytes

_MOST_RECENT = 8


class Widths(BaseModel):
    """How wide the list and the inspector's column are, pixels, and the second view's share of both views."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    list: int = Field(default=180, ge=0, le=100_000)
    column: int = Field(default=248, ge=0, le=100_000)
    second: float = Field(default=0.36, ge=0.0, le=1.0)


class Settings(BaseModel):
    """Remembered choices; unknown fields of a newer version are left out."""

    model_config = ConfigDict(frozen=True, extra="ignore")

    version: int = 1
    recent: tuple[str, ...] = ()
    look: Literal["light", "dark", "system"] = "system"
    export_folder: str = ""
    autosave_seconds: float = 5.0
    keys: dict[str, tuple[str, ...]] = {}
    mouse: Literal["middle orbits", "right orbits", "modifier and left", "trackpad and pen"] = "middle orbits"
    unit: Literal["mm", "cm", "m", "in", "ft"] = "mm"
    scale: Literal["hand", "room", "site"] = "room"
    widths: Widths = Widths()


def settings_file() -> Path:
    """Where the settings are kept."""
    return user_config_path("morphax") / "settings.json"


def load_settings() -> Settings:
    """The settings, or fresh ones where there are none; damaged ones are kept aside as ``settings.damaged.json``."""
    file = settings_file()
    try:
        return Settings.model_validate_json(file.read_bytes())
    except OSError:
        return Settings()
    except ValidationError:
        with suppress(OSError):  # a folder that cannot be written to keeps the damaged file where it is
            file.replace(file.with_suffix(".damaged.json"))
        return Settings()


def save_settings(settings: Settings) -> str | None:
    """Writes the settings; returns a sentence when that failed."""
    file = settings_file()
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        write_bytes(file, json.dumps(settings.model_dump(), indent=1).encode())
    except (OSError, FileError) as error:
        return f"The settings could not be kept: {error}"
    return None


def with_recent(settings: Settings, path: Path) -> Settings:
    """``path`` first among the recent projects."""
    name = str(path.resolve())
    recent = (name, *(r for r in settings.recent if r != name))[:_MOST_RECENT]
    return settings.model_copy(update={"recent": recent})
