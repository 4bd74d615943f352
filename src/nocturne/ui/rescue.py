"""Autosave and recovery: a copy of every changed document in the user's data folder until it is saved or let go."""

import json
import os
import time
import uuid
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, QTimer

from nocturne.io.atomic import is_running, started, whole_files, write_text
from nocturne.io.migrate import migrated
from nocturne.io.paths import is_file
from nocturne.io.proofs import sweep_unsaved
from nocturne.jobs import Update
from nocturne.scene.document import FORMAT_VERSION, Document
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session

EVERY_MS = 15_000


def folder() -> Path:
    """Return where the copies lie."""
    base = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    return base / "nocturne" / "recovery"


@dataclass(frozen=True)
class Found:
    """A copy that a window left behind."""

    copy: Path
    document: Document
    path: Path | None
    proofs: Path | None
    written: float


def found() -> list[Found]:
    """Return the copies of windows that are gone, newest first; what cannot be read is left alone."""
    out = []
    for copy in whole_files(folder(), ".json"):
        try:
            if not is_file(copy):
                continue
            raw = json.loads(copy.read_text(encoding="utf-8"))
            if is_running(int(raw["pid"]), since=str(raw.get("started", ""))):
                continue
            document = Document.model_validate(migrated(raw["document"], FORMAT_VERSION))
            path, proofs = (Path(raw[k]) if raw.get(k) else None for k in ("path", "proofs"))
            out.append(Found(copy, document, path, proofs, copy.stat().st_mtime))
        except (OSError, ArithmeticError, ValueError, LookupError, TypeError, AttributeError, RecursionError):
            continue
    return sorted(out, key=lambda one: -one.written)


def _write(copy: Path, document: Document, path: Path | None, proofs: Path) -> Iterator[Update]:
    yield Update(0, 1, "Autosave")
    about = {
        "pid": os.getpid(),
        "started": started(os.getpid()),
        "path": str(path or ""),
        "proofs": str(proofs),
        "time": time.time(),
    }
    text = json.dumps({**about, "document": json.loads(document.model_dump_json())})
    write_text(copy, text)
    yield Update(1, 1, "Autosaved")


def sweep() -> Iterator[Update]:
    """Remove old proofs of projects that were never saved, but for those that are open or can be recovered."""
    yield Update(0, 1, "Clear up")
    wanted = set()
    for copy in whole_files(folder(), ".json"):
        try:
            if is_file(copy):
                wanted.add(Path(json.loads(copy.read_text(encoding="utf-8"))["proofs"]))
        except (OSError, ValueError, LookupError, TypeError, RecursionError):
            continue
    yield Update(1, 1, "Clear up", result=sweep_unsaved(wanted, now=time.time()))


class Rescue(QObject):
    """Writes the document away while it has changes that are not saved."""

    def __init__(self, session: Session, runner: Runner, proofs_folder) -> None:
        super().__init__()
        self.session, self.runner, self._proofs_folder = session, runner, proofs_folder
        self.copy = folder() / f"{os.getpid()}-{uuid.uuid4().hex[:8]}.json"
        self._written: Document | None = None
        self._timer = QTimer(self)
        self._timer.setInterval(EVERY_MS)
        self._timer.timeout.connect(self.write)
        self._timer.start()
        session.document_changed.connect(self._on_changed)

    def _on_changed(self, _: object) -> None:
        if not self.session.history.is_dirty:
            self.drop()

    def write(self) -> None:
        """Write a copy if there is something that is not saved and not yet in the copy."""
        document = self.session.document
        if self.session.history.is_dirty and document is not self._written:
            self._written = document
            work = _write(self.copy, document, self.session.path, self._proofs_folder())
            self.runner.submit("Autosave", work)

    def drop(self) -> None:
        """Delete the copy: everything is saved, or the user let the changes go."""
        if self._written is not None:
            self._written = None
            # After a copy that may still be being written.
            self.runner.submit("Autosave", _drop(self.copy), replace=False)

    def close(self) -> None:
        """End, without a copy left behind."""
        self._timer.stop()
        self.copy.unlink(missing_ok=True)


def _drop(copy: Path) -> Iterator[Update]:
    yield Update(0, 1, "Autosave")
    copy.unlink(missing_ok=True)
    yield Update(1, 1, "Autosave")
