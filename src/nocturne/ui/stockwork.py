"""What is done with ready materials: shown on their strip, given to things, kept, renamed, taken off the shelf."""

import hashlib
import os
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

from PySide6.QtCore import QObject, QRect
from PySide6.QtGui import QImage

from nocturne.engine.prepare import Prepared, Preparer
from nocturne.errors import NocturneError
from nocturne.io import project
from nocturne.jobs import Update
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.stocking import alone, stocked
from nocturne.stock import sheet, shelf
from nocturne.stock.ready import Ready
from nocturne.swatch.stand import document_of
from nocturne.ui.choice import Choice
from nocturne.ui.files import Files, as_named
from nocturne.ui.panels.stock import PICTURE, StockStrip
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session
from nocturne.ui.thumbroom import ThumbRoom

LOOK = "Look at ready materials"
_KEEP, _TAKE, _CHANGE = "Keep a material", "Take a ready material", "Change a ready material"


class StockWork(QObject):
    """Stands between the strip of ready materials, the shelf on disk and the set."""

    def __init__(
        self, session: Session, runner: Runner, files: Files, choice: Choice, strip: StockStrip, thumbs: ThumbRoom
    ) -> None:
        super().__init__(strip)
        self.session, self.runner, self.files, self.choice = session, runner, files, choice
        self.strip, self.thumbs = strip, thumbs
        self.ready: dict[str, Ready] = {}
        self._drawn: set[str] = set()  # whose pictures ship
        self._preparer = Preparer()
        strip.seen.connect(self.look)
        strip.filtered.connect(self._ask_pictures)
        strip.used.connect(self.give_to_choice)
        strip.replaced.connect(self.give_everywhere)
        strip.added.connect(lambda id: self._take(id, lambda document, _: (document, "Add")))
        strip.keep_wanted.connect(self.keep)
        strip.renamed.connect(lambda id, name: self._change(id, lambda one: shelf.rename(one, name)))
        strip.removed.connect(self._remove)
        thumbs.made.connect(self._on_made)

    # ---- what there is ---------------------------------------------------------------------------------------------

    def look(self) -> None:
        """Look at the shelf, and have the pictures made that are missing."""
        self.runner.submit(LOOK, _looked(), self._show)

    def _show(self, found: tuple[list[Ready], dict[str, Ready], list[NocturneError]]) -> None:
        own, shipped, refused = found
        is_first = not self.ready
        self.ready = {**{one.id: one for one in own}, **shipped}
        if is_first:
            self._cut_sheet()
        self.strip.show_cards(tuple(self.ready.values()))
        for error in refused:
            self.session.said.emit(str(error), True)
        self._ask_pictures()

    def _cut_sheet(self) -> None:
        """Take the pictures that ship from their sheet; what is not on it is made."""
        whole = QImage(str(sheet.PICTURE))
        for id, (x, y, size) in sheet.places().items():
            if id in self.ready and not whole.isNull():
                self._drawn.add(id)
                self.strip.show_picture(id, whole.copy(QRect(x, y, size, size)))

    def _ask_pictures(self) -> None:
        """Ask for the pictures of what is shown; the last one asked for is made first."""
        if not self.strip.isVisible():
            return
        for id in reversed(self.strip.shown()):
            if id not in self._drawn:
                one = self.ready[id]
                key = (sheet.digest(one),)
                self.thumbs.ask(f"stock {id}", key, partial(self._sit, one), kept=partial(_picture_file, one))

    def _sit(self, one: Ready) -> Prepared:
        """Make ready a material's picture, in the thread that renders it."""
        images = _loaded(one).images if one.folder is not None else {}
        top, *below = one.materials
        pixels = 2 * PICTURE.width()
        document, assets = document_of(
            top, images, below=tuple(below), stand=one.stand, size_m=one.size_m, pixels=pixels
        )
        return self._preparer.prepare(document, assets, width=pixels, height=pixels)

    def _on_made(self, name: str) -> None:
        kind, _, id = name.partition(" ")
        if kind == "stock" and id in self.ready:
            self.strip.show_picture(id, self.thumbs.known(name))

    # ---- into the set ----------------------------------------------------------------------------------------------

    def give(self, id: str, thing: str, *, everywhere: bool = False) -> None:
        """Give a ready material to a thing, or to all that wear what that wears."""
        old = self.choice.worn_by(thing)
        if everywhere and old:
            self._take(id, lambda document, new: self.choice.with_instead(document, new, old))
        else:
            self._take(id, lambda document, new: self.choice.with_given(document, new, (thing,)))

    def give_to_choice(self, id: str) -> None:
        """Give a ready material to what is chosen; if nothing is, only put it into the list."""
        ids = self.session.all_chosen("things")
        if ids:
            self._take(id, lambda document, new: self.choice.with_given(document, new, ids))
        else:
            self._take(id, lambda document, _: (document, "Add"))

    def give_everywhere(self, id: str) -> None:
        """Give a ready material to all that wear the chosen one."""
        old = self.session.chosen.get("materials", "")
        if self.session.document.find("materials", old) is None:
            self.session.said.emit("Choose the material that it is to take the place of first.", True)
            return
        self._take(id, lambda document, new: self.choice.with_instead(document, new, old))

    def _take(self, id: str, then: Callable[[Document, str], tuple[Document, str]]) -> None:
        """Put a ready material into the list, and do with it what is wanted, as one step."""
        one = self.ready.get(id)
        if one is None:
            return
        if one.folder is None:
            self._put(one, Assets(), then)
            return
        self.runner.submit(_TAKE, _load(one), lambda assets: self._put(one, assets, then), replace=False)

    def _put(self, one: Ready, assets: Assets, then: Callable[[Document, str], tuple[Document, str]]) -> None:
        session = self.session
        names: dict[str, str] = {}

        def moved(name: str) -> str:
            if name and name not in names:
                names[name] = self.files.relative(one.folder / name)
            return names.get(name, name)

        try:
            document, new = stocked(session.document, one.materials, moved=moved)
            document, done = then(document, new)
        except NocturneError as error:
            session.said.emit(str(error), True)
            return
        if one.folder is not None:
            # Loaded first: no picture is rendered without them.
            session.assets = session.assets.with_more(as_named(assets, moved))
        session.push(document, f"{done} “{one.name}”")
        session.choose("materials", new)
        told = "added to the list" if done == "Add" else "given"
        session.said.emit(f"“{one.name}” {told}. Ctrl+Z takes it back.", False)

    # ---- the shelf -------------------------------------------------------------------------------------------------

    def keep(self) -> None:
        """Keep the chosen material, with those that it lies over, for all projects."""
        session = self.session
        id = session.chosen.get("materials", "")
        if session.document.find("materials", id) is None:
            session.said.emit("Choose the material to keep first.", True)
            return

        def done(result: tuple[Ready, list[str]]) -> None:
            kept, missing = result
            told = f" Not there, so left out: {', '.join(missing[:3])}." if missing else ""
            session.said.emit(f"“{kept.name}” is kept for all projects.{told}", bool(missing))
            self.look()

        self.runner.submit(_KEEP, shelf.keep(alone(session.document, id), self.files.folder()), done, replace=False)

    def _remove(self, id: str) -> None:
        self._change(id, shelf.remove)
        self.session.said.emit("It is taken off the shelf; projects that have it keep it.", False)

    def _change(self, id: str, act: Callable[[Ready], None]) -> None:
        one = self.ready.get(id)
        if one is None or not one.is_own:
            return

        def work() -> Iterator[Update]:
            yield Update(0, 1, _CHANGE)
            act(one)
            yield from _looked()

        self.runner.submit(_CHANGE, work(), self._show, replace=False)


def _looked() -> Iterator[Update]:
    yield Update(0, 1, LOOK)
    # Only now: to write them all out takes a second.
    from nocturne.stock.library import shipped

    own, refused = shelf.own()
    yield Update(1, 1, LOOK, result=(own, shipped(), refused))


def _load(one: Ready) -> Iterator[Update]:
    yield from project.load_assets(project.read_document(one.folder), one.folder)


def _loaded(one: Ready) -> Assets:
    assets = Assets()
    for update in _load(one):
        assets = update.result or assets
    return assets


def _picture_file(one: Ready) -> Path:
    """Return where the picture of a ready material is kept, by what it is and how its picture is taken."""
    base = Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache")
    name = hashlib.sha256(f"{one.folder} {sheet.digest(one)}".encode()).hexdigest()[:24]
    return base / "nocturne" / "swatches" / f"{name}.png"
