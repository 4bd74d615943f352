"""Bringing models in: read in the background, shown on a sheet, placed when that is wanted."""

import os
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QWidget

from nocturne.deliver import convert
from nocturne.errors import NocturneError
from nocturne.io import image, paths
from nocturne.io.models import read as models
from nocturne.io.models.allowed import allow
from nocturne.io.models.arrival import Arrival
from nocturne.io.models.border import OutsideFolder
from nocturne.io.models.read import with_folder
from nocturne.jobs import Update
from nocturne.scene.assets import Assets
from nocturne.scene.bringing import Wanted, box_in_metres, brought, first_set
from nocturne.scene.files import split
from nocturne.scene.shapes import joined
from nocturne.ui import files
from nocturne.ui.files import Files
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session

_KIND = "Bring in"
WRITES_THEM = "Save the demo"  # a job that writes models of the project itself
_LOOK_AT_DISK_MS = 3000


class Guest:
    """A model that was read and waits to be brought in."""

    def __init__(self, path: Path, arrival: Arrival) -> None:
        self.path, self.arrival, self.wanted = path, arrival, Wanted.all_of(arrival)


class BringWork(QObject):
    """Reads models and makes them part of the set."""

    arrived = Signal(object)  # a list of `Guest`
    looked = Signal(object)  # a `Guest` whose missing pictures were looked for

    def __init__(self, session: Session, runner: Runner, files: Files) -> None:
        super().__init__()
        self.session, self.runner, self.files = session, runner, files
        self.middle: Callable[[], np.ndarray | None] = lambda: None  # what lies under the middle of the picture
        self._at: np.ndarray | None = None
        self._stood: dict[str, tuple | None] = {}
        self._told: tuple[str, ...] = ()
        session.assets_changed.connect(self._remember)
        session.document_changed.connect(lambda change: change.is_all and self._remember())
        self._disk = QTimer(self)
        self._disk.setInterval(_LOOK_AT_DISK_MS)
        self._disk.timeout.connect(self.notice)
        self._disk.start()

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
                except OutsideFolder as error:
                    guests.append(Guest(path, Arrival(outside=error.names, is_told=True)))
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

        def work() -> Iterator[Update]:
            yield Update(0, 1, f"Looking in {folder.name}")
            yield Update(1, 1, "Looked", result=with_folder(guest.arrival, guest.path, folder))

        def done(arrival: Arrival) -> None:
            before = len(guest.arrival.missing)
            guest.arrival = arrival
            n = before - len(arrival.missing)
            self.session.said.emit(f"{n} of {before} missing pictures found in {folder.name}.", n == 0)
            self.looked.emit(guest)

        self.runner.submit(_KIND, work(), done)

    def let_outside(self, guest: Guest) -> None:
        """Let a model name files outside its folder from now on, and read it again."""

        def work() -> Iterator[Update]:
            yield Update(0, 1, f"Reading {guest.path.name}")
            allow(guest.path)
            yield Update(1, 1, "Read", result=models.read(guest.path))

        def done(arrival: Arrival) -> None:
            guest.arrival, guest.wanted = arrival, Wanted.all_of(arrival)
            self.looked.emit(guest)

        self.runner.submit(_KIND, work(), done)

    def place(self, guests: list[Guest]) -> None:
        """Add models to the set, each in a group of its name, as one step; light an empty set and look at it."""
        self.runner.cancel(_KIND)  # a search for pictures that still runs comes too late
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
            if arrival.is_empty:
                words.append(f"{guest.path.name}: nothing, as it may not read what it names.")
                continue
            named = self._namer(guest.path, base)
            document, group = brought(document, arrival, wanted, base=base, name=guest.path.stem, named=named, at=at)
            words.append(_told(guest))
            if not group:
                continue  # materials alone
            groups.append(group)
            meshes |= {f"{base}#{name}": mesh for name, mesh in arrival.meshes.items()}
            box = box_in_metres(arrival, wanted) + np.array(document.find("things", group).place)
            boxes.append(box)
            if at is not None and len(guests) > 1:
                at = at + (1.2 * float(np.ptp(box, axis=0)[0]), 0.0, 0.0)  # side by side
        if not words:
            return
        is_first = is_first and bool(groups)
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
        self._remember()
        if groups:
            self.session.choose_many("things", tuple(groups))
        elif any(guest.arrival.materials for guest in guests):
            self.session.go_to("materials")
            self.session.choose("materials", document.materials[-1].id)
        also = " A ground, a sky and its sun were added." if is_first else ""
        lost = any(guest.arrival.lost or guest.arrival.missing for guest in guests)
        self.session.said.emit(f"Brought in {' '.join(words)}{also}", lost)

    # ---- files that change on disk ---------------------------------------------------------------------------------

    def close(self) -> None:
        """Look at the disk no more."""
        self._disk.stop()

    def take_standing(self) -> None:
        """Take the files as they stand now for those that were loaded: Nocturne has just written them itself."""
        self._stood = {}
        self._remember()

    def _remember(self) -> None:
        """Remember how each model and picture stood on disk when it was loaded."""
        names = _files_of(self.session.assets)
        folder = self.files.folder()
        self._stood = {name: self._stood.get(name) or _standing(folder / name) for name in names}

    def changed_on_disk(self) -> tuple[str, ...]:
        """Return the models and pictures that have been written since they were loaded."""
        folder = self.files.folder()
        now = {name: _standing(folder / name) for name in self._stood}
        return tuple(name for name, stood in self._stood.items() if now[name] is not None and now[name] != stood)

    def notice(self) -> None:
        """Say once for each time that files have changed on disk."""
        if self.runner.is_busy(_KIND) or self.runner.is_busy(WRITES_THEM):
            return
        changed = self.changed_on_disk()
        if changed and changed != self._told:
            self._told = changed
            names = ", ".join(Path(name).name for name in changed[:3]) + (" and more" if len(changed) > 3 else "")
            self.session.said.emit(f"{names} changed on disk. “Reload what changed on disk” takes it over.", False)

    def reload(self) -> None:
        """Read models and pictures that changed on disk again; places, materials and all edits stay."""
        changed, folder, assets = self.changed_on_disk(), self.files.folder(), self.session.assets
        if not changed:
            self.session.said.emit("Nothing has changed on disk.", False)
            return
        document = self.session.document

        def work() -> Iterator[Update]:
            meshes, images, told = dict(assets.meshes), dict(assets.images), []
            for i, name in enumerate(changed):
                yield Update(i, len(changed), f"Reading {name}")
                try:
                    told += _reloaded(folder, name, meshes, images)
                except NocturneError as error:
                    told.append(f"{error} What was loaded stays.")
            yield Update(
                len(changed), len(changed), "Read", result=(replace(assets, meshes=meshes, images=images), told)
            )

        def done(result: tuple[Assets, list[str]]) -> None:
            if self.session.assets is not assets or self.session.document.name != document.name:
                self.session.said.emit("The set has changed meanwhile. Reload once more.", True)
                return
            self.session.assets, told = result
            for name in changed:
                self._stood.pop(name, None)
            self.session.assets_changed.emit()
            words = " ".join(told) or "Everything in it is as it was named before."
            self.session.said.emit(f"Read again: {', '.join(Path(n).name for n in changed)}. {words}", bool(told))

        self.runner.submit(_KIND, work(), done)

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


def _standing(path: Path) -> tuple | None:
    try:
        about = os.stat(path)
    except OSError:
        return None
    return about.st_mtime_ns, about.st_size


def _files_of(assets: Assets) -> set[str]:
    """Return the files that loaded meshes and pictures come from, as the document names them."""
    found = {split(name, "model")[0] for name in assets.meshes}
    return {name for name in found | {split(path, "picture")[0] for path, _ in assets.images} if name}


def _reloaded(folder: Path, name: str, meshes: dict, images: dict) -> list[str]:
    """Put what a file holds now in the place of what it held; return what went and what came, a sentence each."""
    told = []
    keys = [key for key in meshes if split(key, "model")[0] == name]
    if keys:
        arrival = models.read(folder / name)
        found = {**arrival.by_node, **arrival.meshes}
        parts = {key.partition("#")[2] for key in keys}
        for key in keys:
            part = key.partition("#")[2]
            if part in found:
                meshes[key] = found[part]
            elif not part:
                meshes[key] = joined(*arrival.meshes.values())
        gone, new = sorted(parts - found.keys() - {""}), [n for n in arrival.meshes if n not in parts]
        if gone:
            told.append(f"No longer in it, kept as it was: {', '.join(gone[:5])}.")
        if new:
            told.append(f"New in it, bring it in to have it: {', '.join(new[:5])}.")
    for path, space in [key for key in images if split(key[0], "picture")[0] == name]:
        images[(path, space)] = image.read(folder / path, space=space)
    return told


def _told(guest: Guest) -> str:
    arrival = guest.arrival
    n = len(arrival.parts)
    if n:
        words = f"{guest.path.name}: {n} part{'' if n == 1 else 's'}, {arrival.n_triangles:,} triangles."
    else:
        n = len(arrival.materials)
        words = f"{guest.path.name}: {n} material{'' if n == 1 else 's'}."
    if arrival.missing:
        words += f" {len(arrival.missing)} files are missing."
    if arrival.lost:
        more = f" and {len(arrival.lost) - 2} more" if len(arrival.lost) > 2 else ""
        words += f" Left out: {'; '.join(arrival.lost[:2])}{more}."
    return words
