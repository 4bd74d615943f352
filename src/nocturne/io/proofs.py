"""Proofs: kept renders on disk beside their project, each a folder with its light, its settings and a thumbnail.

`<project>.proofs/<id>/` holds `light.exr` (every light group, noisy and clean, and the passes), `settings.nocturne`
(the document as it was), `proof.json` (name, note, star, time, noise, quality) and `thumb.png`. A folder is written
under another name and renamed when it is whole, so a proof is there or it is not.
"""

import json
import os
import shutil
import uuid
from collections.abc import Collection, Iterator
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
from pydantic import ValidationError

from nocturne.errors import BadFile, FileError, MissingFile
from nocturne.film.film import Film
from nocturne.io import exr, picture, project
from nocturne.io.atomic import is_running, write_text
from nocturne.io.paths import is_file
from nocturne.jobs import Update
from nocturne.scene.document import Document, film_digest
from nocturne.scene.fields import Model

LIGHT, SETTINGS, ABOUT, THUMB = "light.exr", "settings.nocturne", "proof.json", "thumb.png"
KEEP_UNSAVED_S = 30 * 86400  # proofs of projects that were let go without being saved
_MOST_BETWEEN_S = 7 * 86400  # that count between two looks: a clock that is a month ahead must not remove anything
_AGES = ".ages.json"
_BEING_WRITTEN, _REMOVED = ".new-", ".removed-"


class Proof(Model):
    """What the contact sheet says about a kept render."""

    id: str
    name: str
    note: str = ""
    starred: bool = False
    made: str = ""
    seconds: float = 0.0
    noise: float = 0.0
    samples: float = 0.0
    quality: str = ""
    view: str = ""
    width: int = 0
    height: int = 0
    denoised: bool = False
    digest: str = ""  # of what decided the film


def folder_of(path: Path) -> Path:
    """Return where the proofs of a project file lie."""
    return path.with_suffix(".proofs")


def unsaved_folder() -> Path:
    """Return a new name for the proofs of a project that was never saved; nothing is made yet."""
    return _unsaved() / uuid.uuid4().hex[:12]


def _unsaved() -> Path:
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "nocturne" / "unsaved"


def sweep_unsaved(wanted: Collection[Path], *, now: float) -> list[Path]:
    """Remove the proofs of projects that were let go without being saved, a month after the last was kept.

    The month is counted from look to look, a week at most for each, as one wrong clock says nothing about age.
    wanted: folders that stay whatever their age. now: seconds since the epoch. Returns what was removed.
    """
    removed = []
    if not _unsaved().is_dir():
        return removed
    known = _ages()
    passed = min(max(now - known.get("", now), 0.0), _MOST_BETWEEN_S)
    ages = {"": now}
    for folder in sorted(_unsaved().iterdir()):
        if folder.name.startswith("."):
            continue
        try:
            newest = max(path.stat().st_mtime for path in (folder, *folder.iterdir())) if folder.is_dir() else now
        except FileNotFoundError:
            continue  # another window is at work in it
        age = min(known.get(folder.name, 0.0) + passed, max(now - newest, 0.0))
        if folder not in wanted and age > KEEP_UNSAVED_S:
            shutil.rmtree(folder, ignore_errors=True)
            removed.append(folder)
        else:
            ages[folder.name] = age
    write_text(_unsaved() / _AGES, json.dumps(ages))
    return removed


def _ages() -> dict[str, float]:
    """Return how old each folder was at the last look, seconds, and under "" when that was."""
    try:
        raw = json.loads((_unsaved() / _AGES).read_text(encoding="utf-8"))
        return {str(name): float(age) for name, age in raw.items()}
    except (OSError, ValueError, TypeError, AttributeError, RecursionError):
        return {}


def new(document: Document, film: Film, *, name: str, noise: float, denoised: bool) -> Proof:
    """Return a proof's facts as of now."""
    now = datetime.now(UTC)
    width, height = film.size
    return Proof(
        id=f"{now:%Y%m%d-%H%M%S-%f}-{uuid.uuid4().hex[:4]}",
        name=name,
        made=now.isoformat(timespec="milliseconds"),
        seconds=round(film.seconds, 2),
        noise=float(noise) if np.isfinite(noise) else 0.0,
        samples=round(film.mean_samples, 2),
        quality=document.quality.name,
        view=document.view.name,
        width=width,
        height=height,
        denoised=denoised,
        digest=film_digest(document),
    )


def as_of(proof: Proof, film: Film, *, denoised: bool) -> Proof:
    """Return a proof's facts with what a film says at another moment, and whether it has been denoised by then."""
    of_film = {"seconds": round(film.seconds, 2), "samples": round(film.mean_samples, 2)}
    return proof.model_copy(update={**of_film, "denoised": denoised})


def keep(
    folder: Path, proof: Proof, film: Film, document: Document, *, clean: np.ndarray | None, thumb: np.ndarray
) -> Iterator[Update]:
    """Write a proof, all or nothing; the last update's `result` is the proof.

    clean: (g, h, w, 3) denoised groups. thumb: (h, w, 3) small display picture in 0..1.

    Raises
    ------
    FileError
        If the folder cannot be written.
    """
    being_written = folder / f"{_BEING_WRITTEN}{os.getpid()}-{proof.id}"
    try:
        being_written.mkdir(parents=True, exist_ok=True)
        yield Update(0, 3, f"Keeping “{proof.name}”")
        exr.write_film(being_written / LIGHT, film, document, denoised=clean, cues=(), compact=True)
        yield Update(2, 3, f"Keeping “{proof.name}”")
        picture.write(being_written / THUMB, thumb)
        write_text(being_written / SETTINGS, document.model_dump_json(indent=1) + "\n")
        write_text(being_written / ABOUT, proof.model_dump_json(indent=1) + "\n")
        os.replace(being_written, folder / proof.id)
    except OSError as error:
        raise FileError(
            folder, f"the proof could not be kept ({error.strerror or error}).", hint="Is the disk full?"
        ) from error
    finally:
        shutil.rmtree(being_written, ignore_errors=True)
    yield Update(3, 3, "Kept", result=proof)


def listed(folder: Path) -> tuple[list[Proof], list[str]]:
    """Return the proofs of a folder, oldest first, and a sentence for each that cannot be read."""
    found, problems = [], []
    if not folder.is_dir():
        return found, problems
    for path in sorted(folder.iterdir()):
        if not path.is_dir() or path.name.startswith("."):
            continue
        try:
            if not is_file(path / ABOUT):
                raise FileNotFoundError(path / ABOUT)
            proof = Proof.model_validate(json.loads((path / ABOUT).read_text(encoding="utf-8")))
        except (OSError, ValueError, ValidationError, RecursionError):
            problems.append(f"{path}: this proof cannot be read and is left out.")
            continue
        found.append(proof if proof.id == path.name else proof.model_copy(update={"id": path.name}))
    return sorted(found, key=lambda proof: (proof.made, proof.id)), problems


def read(folder: Path, id: str) -> Iterator[Update]:
    """Read a proof; the last update's `result` is (`exr.Saved`, its document).

    Raises
    ------
    FileError
        If one of its files is missing or damaged.
    """
    yield Update(0, 2, "Reading the proof")
    document = project.read_document(folder / id / SETTINGS)
    yield Update(1, 2, "Reading the proof")
    yield Update(2, 2, "Read", result=(exr.read_film(folder / id / LIGHT), document))


def alter(folder: Path, proof: Proof) -> None:
    """Write a proof's changed name, note or star.

    Raises
    ------
    FileError
        If the proof is gone or cannot be written.
    """
    if not (folder / proof.id).is_dir():
        raise MissingFile(folder / proof.id, "this proof is not there any more.")
    write_text(folder / proof.id / ABOUT, proof.model_dump_json(indent=1) + "\n")


def remove(folder: Path, id: str) -> None:
    """Take a proof off the sheet; `bring_back` undoes it until `clean_up`."""
    _rename(folder / id, folder / f"{_REMOVED}{id}")


def bring_back(folder: Path, id: str) -> None:
    """Put a removed proof back."""
    _rename(folder / f"{_REMOVED}{id}", folder / id)


def _rename(old: Path, new_path: Path) -> None:
    try:
        os.replace(old, new_path)
    except OSError as error:
        raise BadFile(old, f"the proof could not be moved ({error.strerror or error}).") from error


def clean_up(folder: Path) -> None:
    """Delete what was removed, and what a process that is gone left half written."""
    if not folder.is_dir():
        return
    for path in folder.iterdir():
        half_written = path.name.startswith(_BEING_WRITTEN) and not _has_writer(path.name)
        if half_written or path.name.startswith(_REMOVED):
            shutil.rmtree(path, ignore_errors=True)


def _has_writer(name: str) -> bool:
    number = name.removeprefix(_BEING_WRITTEN).partition("-")[0]
    return number.isdigit() and is_running(int(number))


def move(old: Path, target: Path) -> None:
    """Bring the proofs of one folder to another, as when a project gets its first file.

    Raises
    ------
    FileError
        If they cannot be moved; none is lost.
    """
    if not old.is_dir() or old.resolve() == target.resolve():
        return
    try:
        target.mkdir(parents=True, exist_ok=True)
        for path in old.iterdir():
            if not path.name.startswith(".") and not (target / path.name).exists():
                shutil.move(path, target / path.name)
        shutil.rmtree(old, ignore_errors=True)
    except OSError as error:
        raise FileError(target, f"the proofs could not be moved there ({error.strerror or error}).") from error
