"""Bringing models in: read in the background, shown on a sheet, placed when that is wanted."""

from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from nocturne.deliver import convert
from nocturne.errors import NocturneError
from nocturne.io import paths
from nocturne.io.models import read as models
from nocturne.io.models.arrival import Arrival
from nocturne.io.models.read import with_folder
from nocturne.jobs import Update
from nocturne.scene.bringing import Wanted, box_in_metres, brought, first_set
from nocturne.scene.files import split
from nocturne.ui import files
from nocturne.ui.files import Files
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session

_KIND = "Bring in"


class Guest:
    """A model that was read and waits to be brought in."""

    def __init__(self, path: Path, arrival: Arrival) -> None:
        self.path, self.arrival, self.wanted = path, arrival, Wanted.all_of(arrival)


class BringWork(QObject):
    """Reads models and makes them part of the set."""

    arrived = Signal(object)  # a list of `Guest`

    def __init__(self, session: Session, runner: Runner, files: Files) -> None:
        super().__init__()
        self.session, self.runner, self.files = session, runner, files
        self.middle: Callable[[], np.ndarray | None] = lambda: None  # what lies under the middle of the picture
        self._at: np.ndarray | None = None

    def look_at(self, names: list[Path], *, at: np.ndarray | None = None) -> None:
        """Read models and show what is in them; nothing is placed yet. at: where they are to stand."""
        self._at = at
        self._read(names, self.arrived.emit)

    def bring_in(self, path: Path, *, at: np.ndarray | None = None) -> None:
        """Read a model and place it as it is."""
        self._at = at
        self._read([path], self.place)

    def _read(self, names: list[Path], then: Callable[[list[Guest]], None]) -> None:
        names = [path for path in names if self.files.relative(path)]
        if not names:
            return

        def work() -> Iterator[Update]:
            guests, refused = [], []
            for i, path in enumerate(names):
                yield Update(i, len(names), f"Reading {path.name}")
                try:
                    guests.append(Guest(path, models.read(path)))
                except NocturneError as error:
                    refused.append(error)
            if not guests:
                raise refused[0]
            yield Update(len(names), len(names), "Read", result=(guests, refused))

        def done(result: tuple[list[Guest], list[NocturneError]]) -> None:
            for error in result[1]:
                self.session.said.emit(str(error), True)
            then(result[0])

        self.runner.submit(_KIND, work(), done)

    def try_folder(self, guest: Guest, folder: Path) -> None:
        """Look in a folder for all pictures of a model that are missing."""
        before = len(guest.arrival.missing)
        guest.arrival = with_folder(guest.arrival, guest.path, folder)
        n = before - len(guest.arrival.missing)
        self.session.said.emit(f"{n} of {before} missing pictures found in {folder.name}.", n == 0)

    def place(self, guests: list[Guest]) -> None:
        """Add models to the set, each in a group of its name, as one step; light an empty set and look at it."""
        document, assets = self.session.document, self.session.assets
        is_first = not document.things and not document.lights
        meshes, groups, words = dict(assets.meshes), [], []
        at = self._at if self._at is not None or is_first else self.middle()
        boxes = []
        for guest in guests:
            base = self.files.relative(guest.path)
            if not base:
                continue
            arrival, wanted = guest.arrival, guest.wanted
            named = self._namer(guest.path, base)
            document, group = brought(document, arrival, wanted, base=base, name=guest.path.stem, named=named, at=at)
            groups.append(group)
            meshes |= {f"{base}#{name}": mesh for name, mesh in arrival.meshes.items()}
            box = box_in_metres(arrival, wanted) + np.array(document.find("things", group).place)
            boxes.append(box)
            words.append(_told(guest))
            if at is not None and len(guests) > 1:
                at = at + (1.2 * float(np.ptp(box, axis=0)[0]), 0.0, 0.0)  # side by side
        if not groups:
            return
        if is_first:
            low, high = np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)
            new = [view for view in document.views if self.session.document.find("views", view.id) is None]
            document = first_set(document, low, high, view=new[0] if new else None)
        # They were just read: with them loaded first, no picture is rendered without them.
        wanted_meshes = {thing.mesh for thing in document.things}
        kept = {name: mesh for name, mesh in meshes.items() if name in wanted_meshes}
        self.session.assets = replace(assets, meshes=kept)
        names = ", ".join(guest.path.name for guest in guests[:3]) + (" and more" if len(guests) > 3 else "")
        self.session.push(document, f"Bring in {names}")
        self.session.choose_many("things", tuple(groups))
        also = " A ground, a sky and its sun were added." if is_first else ""
        lost = any(guest.arrival.lost or guest.arrival.missing for guest in guests)
        self.session.said.emit(f"Brought in {' '.join(words)}{also}", lost)

    def ask_export(self, window: QWidget) -> None:
        """Ask where to write the set, and write it."""
        name = self.files.ask_target(window, "Export the set", files.SETS, ".glb")
        if name:
            self.export(Path(name))

    def export(self, path: Path) -> None:
        """Write the set as GLB or OpenUSD; what has no equal there is said."""

        def done(result: tuple[Path, tuple[str, ...]]) -> None:
            path, lost = result
            more = f" and {len(lost) - 3} more" if len(lost) > 3 else ""
            words = f" Left out: {'; '.join(lost[:3])}{more}." if lost else ""
            self.session.said.emit(f"Written: {path.name}.{words}", bool(lost))

        work = convert.export_set(self.session.document, self.session.assets, self.files.folder(), path)
        self.runner.submit("Export the set", work, done)

    def _namer(self, path: Path, base: str) -> Callable[[str], str]:
        def named(picture: str) -> str:
            if not picture or picture.startswith("#"):
                return f"{base}{picture}" if picture else ""
            file = Path(picture) if Path(picture).is_absolute() else path.parent / picture
            return self.files.relative(file) if split(picture, "picture")[1] == "" and paths.is_utf8(picture) else ""

        return named


def _told(guest: Guest) -> str:
    arrival = guest.arrival
    n = len(arrival.parts)
    words = f"{guest.path.name}: {n} part{'' if n == 1 else 's'}, {arrival.n_triangles:,} triangles."
    if arrival.missing:
        words += f" {len(arrival.missing)} files are missing."
    if arrival.lost:
        more = f" and {len(arrival.lost) - 2} more" if len(arrival.lost) > 2 else ""
        words += f" Left out: {'; '.join(arrival.lost[:2])}{more}."
    return words
