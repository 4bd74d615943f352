"""Faces chosen in the picture, and lengths measured in it: what is clicked is drawn over the picture."""

from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QObject, QPointF

from nocturne.engine.pick import Face, face_at
from nocturne.scene import arrange, edit, faces, measuring, placing
from nocturne.scene.document import Document
from nocturne.scene.projection import project, seen_along
from nocturne.scene.thing import FaceMaterial
from nocturne.ui.session import Session
from nocturne.ui.view.drawn import Drawn
from nocturne.ui.view.hands.hand import Touch
from nocturne.ui.view.picture import PictureView
from nocturne.ui.widgets.numberfield import NumberField

_FLAT_DEG = 8.0  # a flat side: faces that turn from the clicked one by less
_SMOOTH_DEG = 30.0  # a smooth one: from one face to the next
_SNAP_PX = 12.0
_MOST_EDGES = 20_000  # drawn around chosen faces


@dataclass(frozen=True, eq=False)
class Chosen:
    """Faces of one thing: (m,) True for those of its triangles that are chosen."""

    thing: str
    mask: np.ndarray


class SetWork(QObject):
    """Chooses faces and measures, by clicks in the picture."""

    def __init__(self, session: Session, picture: PictureView) -> None:
        super().__init__(picture)
        self.session, self.picture = session, picture
        self.faces: Chosen | None = None
        self.points: list[np.ndarray] = []
        self.length: float | None = None
        picture.touched.connect(self._touched)
        session.document_changed.connect(lambda change: change.touches("things") and self._look_again())
        session.chosen_changed.connect(lambda part, id: part == "things" and self._leave_faces_of_others(id))

    def _touched(self, mode: str, touch: Touch) -> None:
        found = self._face(touch.at)
        reach = "whole" if touch.has_shift else "smooth" if touch.has_alt else "flat"
        if mode == "faces":
            self._choose(found, more=touch.has_ctrl, reach=reach)
        elif mode == "stand":
            self._stand(found, turns=not touch.has_ctrl)
        elif mode == "pivot":
            self._pivot(touch.at, found, snaps=not touch.has_ctrl)
        else:
            self._measure(touch.at, found, snaps=not touch.has_ctrl)

    def _face(self, at: QPointF) -> Face | None:
        view = self.picture
        place = view.place_at(at)
        prepared = view.print.frame.prepared if view.print is not None else None
        if place is None or prepared is None:
            return None
        return face_at(prepared, place[0] * prepared.width, place[1] * prepared.height)

    # ---- faces -----------------------------------------------------------------------------------------------------

    def _choose(self, found: Face | None, *, more: bool, reach: str) -> None:
        document = self.session.document
        thing = document.find("things", found.id) if found is not None else None
        mesh = self.session.assets.shape(thing) if thing is not None else None
        if mesh is None or not 0 <= found.triangle < len(mesh.triangles):
            self.leave()
            return
        if arrange.locked(document, (thing.id,)):
            self.session.said.emit(f"“{thing.name}” is locked.", True)
            return
        how = {"flat": (_FLAT_DEG, True), "smooth": (_SMOOTH_DEG, False), "whole": (180.0, False)}[reach]
        piece = faces.connected(mesh, found.triangle, angle_deg=how[0], is_flat=how[1])
        before = self.faces
        if more and before is not None and before.thing == thing.id and len(before.mask) == len(piece):
            piece = before.mask & ~piece if before.mask[found.triangle] else before.mask | piece
        self.session.choose("things", thing.id)
        self.faces = Chosen(thing.id, piece) if piece.any() else None
        self._draw()
        n = int(piece.sum())
        self.session.said.emit(f"{n:,} of {len(piece):,} faces chosen. A material given now goes to them.", False)

    def _leave_faces_of_others(self, id: str) -> None:
        if self.faces is not None and self.faces.thing != id:
            self.faces = None
            self._draw()

    def leave(self) -> None:
        """Choose no faces."""
        self.faces = None
        self._draw()

    def with_material(self, document: Document, material: str, ids: tuple[str, ...]) -> Document | None:
        """Return a document with a material on the chosen faces if they are of one of these things, else None."""
        chosen = self.faces
        thing = document.find("things", chosen.thing) if chosen is not None and chosen.thing in ids else None
        if thing is None:
            return None
        entry = FaceMaterial(runs=faces.runs_of(chosen.mask), material=material)
        mesh = self.session.assets.shape(thing)
        # Entries that are covered whole by the new one say nothing any more.
        kept = tuple(f for f in thing.faces if f.set or (faces.mask(f, mesh) & ~chosen.mask).any())
        return edit.alter(document, "things", thing.id, faces=(*kept, entry))

    def _stand(self, found: Face | None, *, turns: bool) -> None:
        """Put the chosen thing on the surface that was clicked, its origin at the point."""
        ids = placing.tops(self.session.document, self.session.all_chosen("things"))
        self.picture.set_mode("choose")
        if found is None or not ids or found.id in self.session.document.with_members(ids):
            self.session.said.emit("Choose a thing first, then click the surface of another.", True)
            return
        normal = np.cross(found.corners[1] - found.corners[0], found.corners[2] - found.corners[0])
        normal /= max(float(np.linalg.norm(normal)), 1e-30)
        if normal @ seen_along(self.session.document.view, found.point) > 0:
            normal = -normal
        label = "Put on a surface"
        self.session.edit(placing.on_surface, ids[-1], found.point, normal, turns=turns, label=label)

    def _pivot(self, at: QPointF, found: Face | None, *, snaps: bool) -> None:
        """Put the pivot of the chosen thing where was clicked."""
        ids = placing.tops(self.session.document, self.session.all_chosen("things"))
        self.picture.set_mode("choose")
        if found is None or not ids:
            self.session.said.emit("Choose a thing first, then click where its pivot is to be.", True)
            return
        point = (self._snapped(at, found) if snaps else None) or found.point
        self.session.edit(placing.pivoted, ids[-1], np.asarray(point, float), label="Set the pivot")

    # ---- measuring -------------------------------------------------------------------------------------------------

    def _measure(self, at: QPointF, found: Face | None, *, snaps: bool) -> None:
        if found is None:
            self.session.said.emit("Nothing of the set is there.", True)
            return
        point = (self._snapped(at, found) if snaps else None) or found.point
        point = np.asarray(point, float)
        self.points = [point] if len(self.points) != 1 else [*self.points, point]
        if len(self.points) == 2:
            a, b = self.points
            self.length = float(np.linalg.norm(b - a))
            x, y, z = np.abs(b - a)
            words = f"{measuring.length(self.length)}   (x {x:.4g}, y {y:.4g}, z {z:.4g} m)"
            self.session.said.emit(f"{words}. Alt+M types it into the length field used last.", False)
        self._draw()

    def _snapped(self, at: QPointF, found: Face) -> tuple | None:
        """Return what is nearest to a click of a face's corners and sides' middles and of its thing's box, if near."""
        view, rect = self.session.document.view, self.picture.image_rect()
        middles = (found.corners + np.roll(found.corners, 1, axis=0)) / 2
        box = placing.anchors_of(self.session.document, self.session.assets, (found.id,))
        points = np.concatenate([found.corners, middles, box])
        places, ahead = project(view, points)
        gaps = np.hypot(
            rect.left() + places[:, 0] * rect.width() - at.x(), rect.top() + places[:, 1] * rect.height() - at.y()
        )
        i = int(np.argmin(gaps))
        return tuple(points[i]) if gaps[i] <= _SNAP_PX and ahead[i] > 0 else None

    def forget_measure(self) -> None:
        """Take the reading off the picture."""
        self.points, self.length = [], None
        self._draw()

    def send_length(self) -> None:
        """Type the measured length into the length field that was used last."""
        field = NumberField.last_length
        if self.length is None:
            self.session.said.emit("Measure something first.", True)
        elif field is None:
            self.session.said.emit("Click into a field for a length first.", True)
        else:
            field.take_length(self.length)

    # ---- drawing ---------------------------------------------------------------------------------------------------

    def _look_again(self) -> None:
        """Draw anew after an edit: a thing may have moved, or be gone."""
        if self.faces is not None:
            thing = self.session.document.find("things", self.faces.thing)
            mesh = self.session.assets.shape(thing) if thing is not None else None
            if mesh is None or len(mesh.triangles) != len(self.faces.mask):
                self.faces = None
            self._draw()

    def _draw(self) -> None:
        drawn: list[Drawn] = []
        if self.faces is not None:
            drawn += self._outline()
        for point in self.points:
            drawn.append(Drawn(np.array([point, point])))
        if len(self.points) == 2:
            drawn.append(Drawn(np.array(self.points), measuring.length(self.length)))
        self.picture.set_drawn(tuple(drawn))

    def _outline(self) -> list[Drawn]:
        document = self.session.document
        mesh = self.session.assets.shape(document.find("things", self.faces.thing))
        matrix = document.placement(self.faces.thing)
        lines = faces.border(mesh, self.faces.mask)[:_MOST_EDGES]
        world = lines @ matrix[:3, :3].T + matrix[:3, 3]
        return [Drawn(line) for line in world]
