"""Swatches in the background: one thread renders the materials that are wanted, the chosen one first."""

import logging
import threading

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from nocturne.engine.render import Stop
from nocturne.errors import NocturneError
from nocturne.jobs import FAULTS, give_way
from nocturne.scene.assets import Assets
from nocturne.scene.materials import Material
from nocturne.ui.darkroom import to_image
from nocturne.ui.live import COURTESY

_log = logging.getLogger(__name__)


class SwatchRoom(QObject):
    """Renders swatches and remembers them; `made` tells which material has a new one."""

    made = Signal(str, object)  # material's id, QImage
    failed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.stand, self.size_m = "ball", 0.1
        self._changed = threading.Condition()
        self._wanted: dict[str, tuple] = {}
        self._kept: dict[str, tuple[tuple, QImage]] = {}
        self._stop = Stop()
        self._doing = self._first = ""
        self._closing = self._started = False
        self._thread = threading.Thread(target=self._work, name="nocturne-swatches", daemon=True)

    def start(self) -> None:
        """Start rendering, once the engine is compiled."""
        if not self._started:
            self._started = True
            self._thread.start()

    def show_on(self, stand: str, size_m: float) -> None:
        """Show materials on another stand."""
        self.stand, self.size_m = stand, size_m

    def _key(self, material: Material, assets: Assets) -> tuple:
        pictures = tuple(id(assets.images.get((t.path, t.space))) for t in material.textures)
        return material, pictures, self.stand, self.size_m

    def image(self, material: Material, assets: Assets) -> QImage | None:
        """Return the newest swatch of a material, None if there is none yet; one is made if it is not up to date."""
        key = self._key(material, assets)
        kept = self._kept.get(material.id)
        if kept is None or kept[0] != key:
            images = {
                (t.path, t.space): assets.images[(t.path, t.space)]
                for t in material.textures
                if (t.path, t.space) in assets.images
            }
            with self._changed:
                self._wanted[material.id] = (key, images)
                if self._doing == material.id:
                    self._stop.set()
                self._changed.notify()
        return kept[1] if kept is not None else None

    def hurry(self, material: str) -> None:
        """Make this material's swatch before others."""
        self._first = material

    def close(self) -> None:
        """End the thread and wait for it."""
        with self._changed:
            self._closing = True
            self._stop.set()
            self._changed.notify()
        if self._started:
            self._thread.join(timeout=30)

    def _work(self) -> None:
        give_way(6)
        from nocturne.swatch.render import swatch

        while True:
            with self._changed:
                while not self._closing and not self._wanted:
                    self._changed.wait()
                if self._closing:
                    return
                name = self._first if self._first in self._wanted else next(iter(self._wanted))
                key, images = self._wanted.pop(name)
                self._doing, self._stop = name, Stop()
            material, _, stand, size_m = key
            try:
                pixels = swatch(material, images, stand=stand, size_m=size_m, stop=self._stop, courtesy=COURTESY)
            except NocturneError as error:
                self.failed.emit(error)
                continue
            except FAULTS as error:
                _log.exception("swatch")
                self.failed.emit(NocturneError(f"The swatch of “{material.name}” could not be made ({error})."))
                continue
            finally:
                self._doing = ""
            if pixels is not None:
                image = to_image(pixels)
                self._kept[name] = (key, image)
                self.made.emit(name, image)
