"""Which models the user lets name files outside their folder: kept with the user's settings, never in a project.

A project could come from the same hand as the model, so it cannot allow this for itself.
"""

import json
import os
from pathlib import Path

from nocturne.errors import FileError
from nocturne.io.atomic import write_text

_MOST = 1000  # the latest are kept


def _file() -> Path:
    base = Path(os.environ.get("XDG_CONFIG_HOME") or Path.home() / ".config")
    return base / "nocturne" / "allowed-models.json"


def _known() -> list[str]:
    try:
        found = json.loads(_file().read_text(encoding="utf-8"))
    except (OSError, ValueError, RecursionError):
        return []
    return [name for name in found if isinstance(name, str)] if isinstance(found, list) else []


def is_allowed(path: Path) -> bool:
    """Return True if the user has allowed this model to name files anywhere."""
    try:
        return str(path.resolve()) in _known()
    except (OSError, RuntimeError, ValueError):
        return False


def allow(path: Path) -> None:
    """Let a model name files anywhere from now on; where that cannot be kept, it will be asked again.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    name = str(path.resolve())
    names = [known for known in _known() if known != name]
    try:
        write_text(_file(), json.dumps([*names, name][-_MOST:], indent=1) + "\n")
    except UnicodeEncodeError as error:
        raise FileError(path, "its name is no UTF-8 text.", hint="Rename it.") from error
