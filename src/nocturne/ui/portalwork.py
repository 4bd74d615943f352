"""Portals found, or laid on a face: shown over the picture before they are taken, and measured."""

from collections.abc import Iterator

import numpy as np
from PySide6.QtCore import QObject, Signal

from nocturne.engine.gain import portal_gain
from nocturne.engine.openings import Opening, find_openings, opening_of_face
from nocturne.engine.prepare import Preparer
from nocturne.jobs import Update
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document, free_id
from nocturne.scene.edit import free_name
from nocturne.scene.lights import make_light
from nocturne.scene.lights.portal import Portal
from nocturne.scene.shapes import Mesh
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session
from nocturne.ui.view.offer import Offer
from nocturne.ui.view.picture import PictureView

_KIND = "Look for openings"
_GAIN = "Measure a portal"


class PortalWork(QObject):
    """Looks for openings, offers portals on them, and measures what one gains."""

    measured = Signal(str, object, object)  # a portal's id; its gain, None if it could not be had; in which document

    def __init__(self, session: Session, runner: Runner, preparer: Preparer, picture: PictureView) -> None:
        super().__init__(picture)
        self.session, self.runner, self.preparer, self.picture = session, runner, preparer, picture
        self.offer = Offer(picture)
        self.offer.taken.connect(self.take)
        self.offer.left.connect(self.leave)
        self._measuring = ""
        session.document_changed.connect(lambda change: change.parts and self.leave())
        runner.failed.connect(lambda kind, _: kind == _GAIN and self.measured.emit(self._measuring, None, None))

    def find(self) -> None:
        """Look for openings about the camera; they are shown, not yet taken."""
        document, assets = self.session.document, self.session.assets
        self.runner.submit(_KIND, _found(self.preparer, document, assets), self._offer)
        self.session.said.emit("Looking for openings…", False)

    def on_face(self) -> None:
        """Offer a portal on the largest flat face of the chosen thing that faces the camera."""
        document = self.session.document
        thing = document.find("things", self.session.chosen.get("things", ""))
        mesh = self.session.assets.shape(thing) if thing is not None else None
        if mesh is None:
            self.session.said.emit("Choose a pane or another thing with a flat face first.", True)
            return
        work = _on_face(mesh, document.placement(thing.id), np.array(document.view.eye))
        self.runner.submit(_KIND, work, self._offer)

    def _offer(self, openings: tuple[Opening, ...]) -> None:
        known = [light for light in self.session.document.lights if isinstance(light, Portal)]
        new = [opening for opening in openings if not any(_is_there(opening, light) for light in known)]
        if not new:
            words = "Every opening that was found has its portal." if openings else "No opening was found."
            self.session.said.emit(words, False)
            return
        document, portals = self.session.document, []
        for opening in new:
            document, portal = _with_portal(document, opening)
            portals.append(portal)
        n = len(portals)
        words = f"{n} openings found" if n > 1 else "One opening found"
        self.picture.set_offered(tuple(portals))
        self.offer.show_words(words, f"Add {n} portals" if n > 1 else "Add a portal")
        self.session.said.emit(f"{words}.", False)

    def take(self) -> None:
        """Add the portals that are shown."""
        portals = self.picture.offered
        self.leave()
        document = self.session.document
        for portal in portals:
            document = edit.put(document, "lights", portal)
        if portals:
            self.session.push(document, "Add portals" if len(portals) > 1 else "Add a portal")
            self.session.choose("lights", portals[0].id)
            self.session.go_to("light")

    def leave(self) -> None:
        """Show no portals that are not there."""
        if self.picture.offered:
            self.picture.set_offered(())
        self.offer.hide()

    def measure(self, id: str) -> None:
        """Measure what a portal gains in this view."""
        document = self.session.document
        work = portal_gain(self.preparer, document, self.session.assets, id, courtesy=5)
        self._measuring = id
        self.runner.submit(_GAIN, work, lambda gain: self.measured.emit(id, gain, document))


def _found(preparer: Preparer, document: Document, assets: Assets) -> Iterator[Update]:
    prepared = preparer.prepare(document, assets, width=64, height=36)
    yield from find_openings(prepared.stage, np.array(document.view.eye))


def _on_face(mesh: Mesh, matrix: np.ndarray, eye: np.ndarray) -> Iterator[Update]:
    yield Update(0, 1, "Looking for a face")
    yield Update(1, 1, "Looked for a face", result=(opening_of_face(mesh, matrix, eye),))


def _with_portal(document: Document, opening: Opening) -> tuple[Document, Portal]:
    portal = make_light(
        kind="portal",
        id=free_id(document, "lights", "portal"),
        name=free_name(document, "lights", "Portal"),
        group=document.light_groups[0],
        place=opening.place,
        turn_deg=opening.turn_deg,
        width=opening.width,
        height=opening.height,
    )
    return edit.put(document, "lights", portal), portal


def _is_there(opening: Opening, portal: Portal) -> bool:
    """Return True if a portal lies on an opening already."""
    apart = float(np.linalg.norm(np.subtract(opening.place, portal.place)))
    return apart < 0.3 * max(min(opening.width, opening.height), 0.1)
