"""Swatches in the background: one thread renders the materials that are wanted, the chosen one first."""

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QImage

from nocturne.engine.render import Stop
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.layering import by_id, chain
from nocturne.scene.materials import Material
from nocturne.scene.patterns import every
from nocturne.ui.darkroom.prints import to_image
from nocturne.ui.live import COURTESY
from nocturne.ui.worker import Worker


class SwatchRoom(QObject):
    """Renders swatches and remembers them; `made` tells which material has a new one."""

    made = Signal(str, object)  # material's id, QImage
    failed = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.stand, self.size_m = "ball", 0.1
        self._wanted: dict[str, tuple] = {}
        self._kept: dict[str, tuple[tuple, QImage]] = {}
        self._stop = Stop()
        self._doing = self._first = ""
        self._worker = Worker(
            "swatches",
            lambda: bool(self._wanted),
            self._take,
            self._do,
            fail=self.failed.emit,
            trouble=lambda task: f"The swatch of “{task[1][0][0].name}” could not be made",
            courtesy=6,
            interrupt=lambda: self._stop.set(),
        )

    def start(self) -> None:
        """Start rendering, once the engine is compiled."""
        self._worker.start()

    def show_on(self, stand: str, size_m: float) -> None:
        """Show materials on another stand."""
        self.stand, self.size_m = stand, size_m

    def _key(self, layers: tuple[Material, ...], assets: Assets) -> tuple:
        pictures = tuple(id(assets.images.get(step.picture)) for m in layers for step in every(m.steps))
        return layers, pictures, self.stand, self.size_m

    def image(self, material: Material, document: Document, assets: Assets) -> QImage | None:
        """Return the newest swatch of a material, None if there is none yet; one is made if it is not up to date."""
        layers = chain(by_id(document.materials), material.id) if material.layer_over else (material,)
        key = self._key(layers, assets)
        kept = self._kept.get(material.id)
        if kept is None or kept[0] != key:
            needs = {step.picture for m in layers for step in every(m.steps)}
            images = {key: assets.images[key] for key in needs if key in assets.images}
            with self._worker.changed:
                self._wanted[material.id] = (key, images)
                if self._doing == material.id:
                    self._stop.set()
                self._worker.wake()
        return kept[1] if kept is not None else None

    def hurry(self, material: str) -> None:
        """Make this material's swatch before others."""
        self._first = material

    def close(self) -> None:
        """End the thread and wait for it."""
        self._worker.close()

    def _take(self) -> tuple[str, tuple, dict]:
        name = self._first if self._first in self._wanted else next(iter(self._wanted))
        key, images = self._wanted.pop(name)
        self._doing, self._stop = name, Stop()
        return name, key, images

    def _do(self, task: tuple[str, tuple, dict]) -> None:
        from nocturne.swatch.render import swatch

        name, key, images = task
        (material, *below), _, stand, size_m = key
        try:
            pixels = swatch(
                material,
                images,
                below=tuple(below),
                stand=stand,
                size_m=size_m,
                stop=self._stop,
                courtesy=COURTESY,
            )
        finally:
            self._doing = ""
        if pixels is not None:
            image = to_image(pixels)
            self._kept[name] = (key, image)
            self.made.emit(name, image)
