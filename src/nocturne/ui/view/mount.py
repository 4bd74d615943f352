"""Where the picture lies in its widget: fitted on the mount, zoomed, beside a second one. Geometry only."""

from PySide6.QtCore import QPointF, QRectF

MARGIN = 8
MOST_ZOOM = 32.0


class Mount:
    """Proportion, zoom and centre of the picture, and what follows from them for a widget's rectangle."""

    def __init__(self) -> None:
        self.proportion = 16 / 9
        self.zoom, self.centre = 1.0, (0.5, 0.5)
        self.is_double = False  # two pictures beside each other

    def room(self, widget: QRectF) -> QRectF:
        """Return the room within the margin."""
        return widget.adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)

    def fitted(self, room: QRectF) -> QRectF:
        """Return where the whole picture fits in a room."""
        width = min(room.width(), room.height() * self.proportion)
        height = width / self.proportion
        return QRectF(
            round(room.center().x() - width / 2), round(room.center().y() - height / 2), round(width), round(height)
        )

    def _zoomed(self, fit: QRectF) -> QRectF:
        if self.zoom == 1:
            return fit
        width, height = fit.width() * self.zoom, fit.height() * self.zoom
        u, v = self.centre
        return QRectF(fit.center().x() - u * width, fit.center().y() - v * height, width, height)

    def rects(self, widget: QRectF) -> tuple[tuple[QRectF, QRectF], tuple[QRectF, QRectF]]:
        """Return where both pictures lie, and the part of the widget each may fill; the same twice but for a double."""
        room = self.room(widget)
        rooms = (room, room)
        if self.is_double:
            half = (room.width() - 6) / 2
            rooms = (
                QRectF(room.left(), room.top(), half, room.height()),
                QRectF(room.left() + half + 6, room.top(), half, room.height()),
            )
        fits = tuple(self.fitted(r) for r in rooms)
        return tuple(self._zoomed(fit) for fit in fits), fits if self.zoom == 1 else rooms

    def zoom_to(self, zoom: float, widget: QRectF, about: QPointF | None) -> None:
        """Zoom to a factor of the fitted size, keeping a point of the widget in its place."""
        zoom = min(max(zoom, 1.0), MOST_ZOOM)
        fit, old = self.fitted(self.room(widget)), self.rects(widget)[0][0]
        about = about or fit.center()
        u = (about.x() - old.left()) / old.width()
        v = (about.y() - old.top()) / old.height()
        self.zoom = zoom
        # The point stays where it was: centre + (about - middle) / size = (u, v).
        self.centre_on(
            u - (about.x() - fit.center().x()) / (fit.width() * zoom),
            v - (about.y() - fit.center().y()) / (fit.height() * zoom),
        )

    def centre_on(self, u: float, v: float) -> None:
        """Put a place of the picture in the middle, as far as the picture reaches."""
        reach = 0.5 / self.zoom
        self.centre = (min(max(u, reach), 1 - reach), min(max(v, reach), 1 - reach))

    def place(self, at: QPointF, widget: QRectF) -> tuple[float, float] | None:
        """Return a point of the widget as (u, v) in the picture, None if it is outside."""
        rects, clips = self.rects(widget)
        for rect, clip in zip(rects, clips):
            if clip.contains(at):
                u, v = (at.x() - rect.left()) / rect.width(), (at.y() - rect.top()) / rect.height()
                return (u, v) if 0 <= u < 1 and 0 <= v < 1 else None
        return None
