"""Final renders that were ended before they were done, in the user's data folder: what they are of, their samples."""

import json
import os
import uuid
from dataclasses import dataclass
from pathlib import Path

from nocturne.io.atomic import is_running, started, whole_files, write_text
from nocturne.io.migrate import migrated
from nocturne.io.paths import is_file
from nocturne.rendering.keep import Keep
from nocturne.scene.document import FORMAT_VERSION, Document, film_digest


def folder() -> Path:
    """Return where they lie."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share") / "nocturne" / "unfinished"


@dataclass(frozen=True, eq=False)
class Unfinished:
    """A render that a window left: the project file it was of, None if it had none, and where its files lay.

    region: (u0, v0, u1, v1) of the picture, None for all of it.
    """

    about: Path
    document: Document
    project: Path | None
    files: Path
    region: tuple[float, float, float, float] | None = None

    @property
    def keep(self) -> Keep:
        """Return where its samples are kept."""
        return Keep(self.about.with_suffix(".film"), when_done=False)


def begin(document: Document, project: Path | None, files: Path, region: tuple | None = None) -> Unfinished:
    """Return a place for a render that begins now; nothing is written yet."""
    about = folder() / f"{os.getpid()}-{uuid.uuid4().hex[:8]}.json"
    return Unfinished(about, document, project, files, region)


def write(render: Unfinished) -> None:
    """Write what a render is of, as one that this process is at.

    Raises
    ------
    FileError
        If it cannot be written.
    """
    about = {
        "pid": os.getpid(),
        "started": started(os.getpid()),
        "project": str(render.project or ""),
        "files": str(render.files),
        "region": render.region,
        "document": json.loads(render.document.model_dump_json()),
    }
    write_text(render.about, json.dumps(about))


def found(document: Document, project: Path | None) -> list[Unfinished]:
    """Return the renders of a project, or of the same picture, that no process is at; oldest first.

    What cannot be read is left alone.
    """
    out = []
    digest = film_digest(document)
    for about in whole_files(folder(), ".json"):
        try:
            if not is_file(about):
                continue
            raw = json.loads(about.read_text(encoding="utf-8"))
            if is_running(int(raw["pid"]), since=str(raw.get("started", ""))):
                continue
            of = Document.model_validate(migrated(raw["document"], FORMAT_VERSION))
            path = Path(raw["project"]) if raw.get("project") else None
            u0, v0, u1, v1 = map(float, raw.get("region") or (0, 0, 1, 1))
            if not (0 <= u0 < u1 <= 1 and 0 <= v0 < v1 <= 1):
                continue
            region = (u0, v0, u1, v1) if raw.get("region") else None
            if (project is not None and path == project) or film_digest(of) == digest:
                out.append((about.stat().st_mtime, Unfinished(about, of, path, Path(raw["files"]), region)))
        except (OSError, ArithmeticError, ValueError, LookupError, TypeError, AttributeError, RecursionError):
            continue
    return [render for _, render in sorted(out, key=lambda one: one[0])]


def remove(render: Unfinished) -> None:
    """Delete it: it is done, or nobody wants it any more."""
    render.keep.path.unlink(missing_ok=True)
    render.about.unlink(missing_ok=True)
