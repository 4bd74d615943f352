"""Own patterns: steps with all that is inside of them, kept for all projects, each in a small file."""

import json
import os
import re
from collections.abc import Callable
from dataclasses import dataclass
from itertools import count
from pathlib import Path

from pydantic import TypeAdapter, ValidationError

from nocturne.errors import BadFile, FileError, NewerVersion, NocturneError
from nocturne.io.atomic import claimed, write_text
from nocturne.io.paths import is_file
from nocturne.scene.patterns import AnyStep, Picture, Step

SUFFIX = ".pattern.json"
VERSION = 1
_MOST_BYTES = 4_000_000
_STEP = TypeAdapter(AnyStep)


@dataclass(frozen=True)
class OwnPattern:
    """A kept step: what it is called, and its file."""

    name: str
    step: Step
    path: Path


def shelf() -> Path:
    """Return the folder of own patterns."""
    base = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    return base / "nocturne" / "patterns"


def own(folder: Path | None = None) -> tuple[tuple[OwnPattern, ...], list[NocturneError]]:
    """Return the own patterns by name, and what could not be read."""
    folder = folder or shelf()
    try:
        files = sorted(path for path in folder.iterdir() if _is_whole(path))
    except OSError:
        return (), []
    found, refused = [], []
    for path in files:
        try:
            found.append(_read(path))
        except FileError as error:
            refused.append(error)
    return tuple(sorted(found, key=lambda pattern: pattern.name.casefold())), refused


def _is_whole(path: Path) -> bool:
    """Return True for a pattern's file that is not just being written."""
    return path.name.endswith(SUFFIX) and is_file(path) and path.stat().st_size > 0


def keep(step: Step, name: str, files: Path, folder: Path | None = None) -> OwnPattern:
    """Keep a step under a name that no other has; its pictures are named by whole paths.

    files: what its paths are relative to now.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    folder = folder or shelf()
    stem = re.sub(r"[^\w\- ]", "", name).strip()[:60] or "Pattern"
    kept = with_paths(step, lambda at: (files / at).resolve().as_posix() if at else at)
    path = folder / f"{stem}{SUFFIX}"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        path = claimed(folder / f"{stem}{f' {n}' if n > 1 else ''}{SUFFIX}" for n in count(1))
    except OSError as error:
        raise FileError(path, f"it could not be written ({error.strerror or error}).") from error
    name = name if path.name == f"{stem}{SUFFIX}" else path.name.removesuffix(SUFFIX)
    try:
        write_text(path, json.dumps({"nocturne_pattern": VERSION, "name": name, "step": kept.model_dump()}, indent=1))
    except FileError:
        path.unlink(missing_ok=True)
        raise
    return OwnPattern(name, kept, path)


def remove(pattern: OwnPattern) -> None:
    """Take a pattern off the shelf.

    Raises
    ------
    FileError
        If that is refused.
    """
    try:
        pattern.path.unlink(missing_ok=True)
    except OSError as error:
        raise FileError(pattern.path, f"it could not be removed ({error.strerror or error}).") from error


def with_paths(step: Step, named: Callable[[str], str]) -> Step:
    """Return a step, and all inside of it, with the paths of pictures as a function names them."""
    values: dict[str, object] = {"steps": tuple(with_paths(inner, named) for inner in step.steps)}
    if isinstance(step, Picture):
        values["path"] = named(step.path)
    return step.model_copy(update=values)


def _read(path: Path) -> OwnPattern:
    hint = "Remove the file, and keep the pattern again."
    try:
        if path.stat().st_size > _MOST_BYTES:
            raise BadFile(path, "it is too large for a pattern.", hint=hint)
        raw = json.loads(path.read_text(encoding="utf-8"))
        if raw["nocturne_pattern"] > VERSION:
            raise NewerVersion(path, "it was kept by a newer Nocturne.", hint="Update Nocturne to use it.")
        return OwnPattern(str(raw["name"]), _STEP.validate_python(raw["step"]), path)
    except OSError as error:
        raise FileError(path, f"it could not be read ({error.strerror or error}).") from error
    except (ValidationError, ValueError, KeyError, TypeError, RecursionError) as error:
        raise BadFile(path, "it is no pattern of Nocturne.", hint=hint) from error
