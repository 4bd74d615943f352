"""What is done with pieces: shown on their strip, put into the set, kept, renamed, taken off the shelf."""

import hashlib
import os
from collections.abc import Iterator
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject

from nocturne.engine.prepare import Prepared, Preparer
from nocturne.errors import NocturneError
from nocturne.io import project
from nocturne.jobs import Update
from nocturne.pieces import shelf
from nocturne.pieces.piece import Piece
from nocturne.pieces.portrait import portrait
from nocturne.pieces.shipped import shipped
from nocturne.scene.assets import Assets
from nocturne.scene.bringing import first_set
from nocturne.scene.document import Document
from nocturne.scene.navigate import bounds_of
from nocturne.scene.piecework import placed, taken
from nocturne.ui.bringwork import BringWork
from nocturne.ui.files import Files, as_named
from nocturne.ui.panels.pieces import PICTURE, PieceStrip
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session
from nocturne.ui.thumbroom import ThumbRoom

_KEEP, _PLACE = "Keep a piece", "Put in a piece"
SHELF = "Shelf"


class PieceWork(QObject):
    """Stands between the strip of pieces, the shelf on disk and the set."""

    def __init__(
        self, session: Session, runner: Runner, files: Files, bring: BringWork, strip: PieceStrip, thumbs: ThumbRoom
    ) -> None:
        super().__init__(strip)
        self.session, self.runner, self.files, self.bring = session, runner, files, bring
        self.strip, self.thumbs = strip, thumbs
        self.pieces: dict[str, Piece] = {piece.id: piece for piece in shipped()}
        self._preparer = Preparer()
        strip.show_cards(tuple(self.pieces.values()))
        strip.seen.connect(self.look)
        strip.filtered.connect(self._ask_pictures)
        strip.used.connect(self.place)
        strip.keep_wanted.connect(self.keep)
        strip.renamed.connect(self._rename)
        strip.removed.connect(self._remove)
        thumbs.made.connect(self._on_made)

    # ---- what there is ---------------------------------------------------------------------------------------------

    def look(self) -> None:
        """Look at the shelf again, and have the pictures made that are missing."""

        def work() -> Iterator[Update]:
            yield Update(0, 1, "Looking at the shelf")
            yield Update(1, 1, "Looked", result=shelf.own())

        def done(found: tuple[list[Piece], list[NocturneError]]) -> None:
            own, refused = found
            self.pieces = {piece.id: piece for piece in (*own, *shipped())}
            self.strip.show_cards(tuple(self.pieces.values()))
            for error in refused:
                self.session.said.emit(str(error), True)
            self._ask_pictures()

        self.runner.submit(SHELF, work(), done)

    def _ask_pictures(self) -> None:
        """Ask for the pictures of the pieces that are shown; the last one asked for is made first."""
        if not self.strip.isVisible():
            return
        for id in reversed(self.strip.shown()):
            piece = self.pieces[id]
            about = piece.document.model_dump_json()
            self.thumbs.ask(f"piece {id}", (about,), partial(self._sit, piece), kept=partial(_picture_file, piece))

    def _sit(self, piece: Piece) -> Prepared:
        """Make ready a piece's picture, in the thread that renders it."""
        assets = Assets()
        if piece.folder is not None:
            for update in project.load_assets(piece.document, piece.folder):
                assets = update.result or assets
        width, height = 2 * PICTURE.width(), 2 * PICTURE.height()
        document = portrait(piece.document, assets, width=width, height=height)
        return self._preparer.prepare(document, assets, width=width, height=height)

    def _on_made(self, name: str) -> None:
        kind, _, id = name.partition(" ")
        if kind == "piece" and id in self.pieces:
            self.strip.show_picture(id, self.thumbs.known(name))

    # ---- into the set ----------------------------------------------------------------------------------------------

    def place(self, id: str, at: np.ndarray | None = None) -> None:
        """Put a piece into the set, upright, on a point of it; None: on what is in the middle of the picture."""
        piece = self.pieces.get(id)
        if piece is None:
            return
        if piece.folder is None:
            self._put(piece, Assets(), at)
            return

        def work() -> Iterator[Update]:
            yield from project.load_assets(piece.document, piece.folder)

        self.runner.submit(_PLACE, work(), lambda assets: self._put(piece, assets, at), replace=False)

    def _put(self, piece: Piece, assets: Assets, at: np.ndarray | None) -> None:
        before = self.session.document
        is_first = not before.things and not before.lights
        if at is None and not is_first:
            at = self.bring.middle()
        at = np.zeros(3) if at is None else np.asarray(at, float)
        names: dict[str, str] = {}

        def moved(name: str) -> str:
            if name and name not in names:
                names[name] = self.files.relative(piece.folder / name)
            return names.get(name, name)

        document, group = placed(before, piece.document, at, moved=moved)
        loaded = as_named(assets, moved)
        kept = self.session.assets
        # Loaded first: no picture is rendered without them.
        self.session.assets = kept.with_more(loaded)
        if is_first:
            document = self._lit(document, group)
        self.session.push(document, f"Put in “{piece.name}”")
        self.session.choose("things", group)
        self.session.said.emit(f"“{piece.name}” put in.", False)

    def _lit(self, document: Document, group: str) -> Document:
        low, high = bounds_of(document, self.session.assets, group) or (np.zeros(3), np.ones(3))
        return first_set(document, low, high)

    # ---- the shelf -------------------------------------------------------------------------------------------------

    def keep(self) -> None:
        """Keep what is chosen as a piece, by the name of what was chosen last."""
        session = self.session
        document, ids = session.document, session.all_chosen("things")
        thing = document.find("things", ids[-1]) if ids else None
        if thing is None:
            session.said.emit("Choose what to keep as a piece first.", True)
            return
        try:
            piece = taken(document, session.assets, ids, thing.name)
        except NocturneError as error:
            session.said.emit(str(error), True)
            return

        def done(result: tuple[Piece, list[str]]) -> None:
            kept, missing = result
            told = f" Not there, so left out: {', '.join(missing[:3])}." if missing else ""
            session.said.emit(f"“{kept.name}” is kept as a piece for all projects.{told}", bool(missing))
            self.look()

        self.runner.submit(_KEEP, shelf.keep(piece, self.files.folder()), done, replace=False)

    def _rename(self, id: str, name: str) -> None:
        self._on_shelf(lambda piece: shelf.rename(piece, name), id)

    def _remove(self, id: str) -> None:
        self._on_shelf(shelf.remove, id)
        self.session.said.emit("It is taken off the shelf; sets that it was put into keep it.", False)

    def _on_shelf(self, act, id: str) -> None:
        piece = self.pieces.get(id)
        if piece is None or not piece.is_own:
            return
        try:
            act(piece)
        except NocturneError as error:
            self.session.said.emit(str(error), True)
        self.look()


def _picture_file(piece: Piece) -> Path:
    """Return where the picture of a piece is kept, by what it is and how its picture is taken."""
    base = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
    seen = portrait(piece.document, Assets(), width=PICTURE.width(), height=PICTURE.height()).model_dump_json()
    digest = hashlib.sha256(f"{piece.folder} {seen}".encode()).hexdigest()[:24]
    return base / "nocturne" / "pieces" / f"{digest}.png"
