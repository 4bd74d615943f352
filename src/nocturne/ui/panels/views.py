"""The list of saved views, each with a small picture of what it sees."""

from functools import partial

from PySide6.QtCore import QSize, Qt, QTimer
from PySide6.QtGui import QIcon

from nocturne.engine.prepare import Prepared, Preparer
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.ui.panels.lists import ListPanel, untinted
from nocturne.ui.session import Session
from nocturne.ui.theme import tokens as t
from nocturne.ui.theme.icons import icon
from nocturne.ui.thumbroom import ThumbRoom

_SIZE = QSize(72, 54)
_CALM_MS = 900  # after an edit, before pictures are asked for: a drag would have each made a hundred times


class ViewList(ListPanel):
    """The saved views; choosing one looks through it."""

    def __init__(
        self, session: Session, part: str, title: str, empty: str, thumbs: ThumbRoom, preparer: Preparer
    ) -> None:
        self.thumbs, self._preparer = thumbs, preparer
        self._icons: dict[str, tuple[object, bool, QIcon]] = {}
        super().__init__(session, part, title, empty)
        self.view.setIconSize(_SIZE)
        self.view.setUniformItemSizes(False)  # a row is taller once it has its picture
        self.view.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._calm = QTimer(self)
        self._calm.setSingleShot(True)
        self._calm.setInterval(_CALM_MS)
        self._calm.timeout.connect(self.ask)
        session.document_changed.connect(lambda change: self.isVisible() and self._calm.start())
        session.assets_changed.connect(lambda: self.isVisible() and self._calm.start())
        thumbs.made.connect(self._on_made)

    def ask(self) -> None:
        """Ask for the pictures that are missing or old."""
        document, assets = self.session.document, self.session.assets
        if not self.isVisible() or not document.things:
            return
        for view in reversed(document.views):
            parts = (document.things, document.materials, document.lights, document.desk, assets.meshes, assets.images)
            key = (*parts, view.model_dump_json(exclude={"id", "name"}))
            self.thumbs.ask(_name(view), key, partial(self._prepared, document, assets, view))

    def _prepared(self, document: Document, assets: Assets, view: View) -> Prepared:
        share = min(2 * _SIZE.width() / view.width, 2 * _SIZE.height() / view.height)
        size = {"width": max(round(view.width * share), 16), "height": max(round(view.height * share), 16)}
        return self._preparer.prepare(document, assets, view=view, **size)

    def showEvent(self, event) -> None:
        """Ask for pictures once it is looked at."""
        super().showEvent(event)
        self._calm.start()

    def _on_made(self, name: str) -> None:
        if name.startswith("view "):
            self._shown = None
            self.show_document(self.session.document)

    def icon_of(self, item, document):
        """Return what the view sees; a camera until there is a picture, marked if it is looked through."""
        image, is_active = self.thumbs.known(_name(item)), item.id == document.view.id
        known = self._icons.get(item.id)
        if known is None or known[0] is not image or known[1] != is_active:
            made = untinted(image) if image is not None else icon("view", t.MOON if is_active else t.INK_SOFT)
            known = self._icons[item.id] = (image, is_active, made)
        return known[2]

    def current(self, document: Document) -> str:
        """Return the view that is looked through."""
        return document.view.id

    def key(self, document: Document) -> object:
        """Return the views' names and which one is active."""
        return tuple((view.id, view.name) for view in document.views), document.active_view


def _name(view: View) -> str:
    return f"view {view.id}"
