"""What lies over the picture: outline, lights, focus, guides, legend, region, handles, drawn only when they change."""

from dataclasses import dataclass, replace

from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPainter

from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.lights import Light
from nocturne.ui.darkroom.prints import Print
from nocturne.ui.view import handles, overlay
from nocturne.ui.view.drawn import Drawn, draw_drawn
from nocturne.ui.widgets.layer import Layer


@dataclass(frozen=True, eq=False, repr=False)
class Scene:
    """What there is to mark, and where the picture lies."""

    rect: QRectF  # of the whole picture in the widget
    clip: QRectF  # of the part of the widget it may fill
    scale: float  # device pixels for a pixel of the picture
    print: Print
    document: Document
    shown: overlay.Shown
    is_compared: bool
    members: frozenset[str]  # things to outline
    light: str  # the chosen light
    offered: tuple[Light, ...]  # lights that are not there yet
    drawn: tuple[Drawn, ...]
    region: tuple | None
    star: handles.Star | None
    held: handles.Grip | None
    box: QRectF | None  # being drawn
    behind: QImage | None = None  # a veil over what is seen from behind


class Marks:
    """Draws marks over a picture, from layers that are kept until what they show changes."""

    def __init__(self) -> None:
        self.sharp: tuple[tuple, QImage | None] | None = None
        self._layer, self._handles = Layer(), Layer()

    def draw(self, painter: QPainter, scene: Scene) -> None:
        """Draw all that is to be seen."""
        shown, view = scene.shown, scene.document.view
        is_live = scene.print.frame.prepared is not None and not scene.is_compared
        if shown.sharp:
            self._draw_sharp(painter, scene)
        else:
            self.sharp = None  # it keeps the film it was made of
        if is_live and scene.behind is not None:
            painter.drawImage(scene.rect, scene.behind)
        if is_live and scene.print.outline is not None and scene.print.outlined == scene.members:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, scene.scale < 2)
            painter.drawImage(scene.rect, scene.print.outline)
        marks_set = is_live and (shown.lights or (shown.focus and view.depth_of_field))
        false_colour = scene.print.is_false_colour
        cutaways = _chosen_cutaways(scene) if is_live else ()
        if any((false_colour, marks_set, shown.guides, scene.region, scene.offered, scene.drawn, cutaways)):
            key = (
                replace(shown),
                scene.rect,
                marks_set,
                view,
                scene.document.standing_lights,
                scene.light,
                scene.offered,
                scene.drawn,
                false_colour,
                scene.region,
                cutaways,
            )
            self._layer.draw(painter, scene.clip, key, lambda over: _draw_still(over, scene, marks_set, cutaways))
        made, held = scene.star, scene.held
        if made is not None:
            key = (made, held and (held.kind, held.axis))
            area = handles.room(made).intersected(scene.clip)
            self._handles.draw(painter, area, key, lambda over: handles.draw(over, made, held))
        if scene.box is not None:
            overlay.draw_box(painter, scene.box)

    def _draw_sharp(self, painter: QPainter, scene: Scene) -> None:
        view, frame = _focused(scene), scene.print.frame
        key = (frame.film, view.focus_m, view.f_number, view.focal_mm, frame.progress.step)
        if self.sharp is None or self.sharp[0] != key:
            self.sharp = (key, overlay.sharp_image(scene.print, view))
        if self.sharp[1] is not None:
            painter.drawImage(scene.rect, self.sharp[1])


def _focused(scene: Scene) -> View:
    """Return the view that is looked through, focused as what is shown is."""
    view, prepared = scene.document.view, scene.print.frame.prepared
    if not view.focus_middle or prepared is None:
        return view
    return view.model_copy(update={"focus_m": prepared.view.focus_m})


def _chosen_cutaways(scene: Scene) -> tuple:
    """Return the cutaways among the chosen things, and where they stand."""
    things, stands = scene.document.things, scene.document.placements
    return tuple((t, stands[t.id][0].tobytes()) for t in things if t.cutaway is not None and t.id in scene.members)


def _draw_still(painter: QPainter, scene: Scene, marks_set: bool, cutaways: tuple) -> None:
    shown, document = scene.shown, scene.document
    if scene.print.is_false_colour:
        overlay.draw_legend(painter, scene.clip)
    if marks_set and shown.focus and document.view.depth_of_field:
        overlay.draw_focus(painter, scene.rect, _focused(scene))
    if marks_set and shown.lights:
        overlay.draw_lights(painter, scene.rect, document, scene.light)
    if cutaways:
        overlay.draw_cutaways(painter, scene.rect, document, scene.members)
    overlay.draw_offered(painter, scene.rect, document.view, scene.offered)
    draw_drawn(painter, scene.rect, document.view, scene.drawn)
    if shown.guides:
        overlay.draw_guides(painter, scene.rect)
    if scene.region:
        overlay.draw_box(painter, overlay.part_of(scene.rect, scene.region))
