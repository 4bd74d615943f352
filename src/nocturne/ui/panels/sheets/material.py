"""The sheet of a material: its swatch, its parameters, and the patterns that drive them."""

from PySide6.QtCore import QSize
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QVBoxLayout,
    QWidget,
)

from nocturne.engine.relief import Moved
from nocturne.scene.document import Document
from nocturne.scene.faces import wearing
from nocturne.scene.materials import Material
from nocturne.swatch.stand import SIZES_M, STANDS
from nocturne.ui.panels.patterns import PatternOutline
from nocturne.ui.panels.sheets.sheet import Sheet
from nocturne.ui.patternshelf import PatternShelf
from nocturne.ui.session import Session
from nocturne.ui.swatchroom import SwatchRoom
from nocturne.ui.widgets.pattern import PatternRow
from nocturne.ui.widgets.words import soft
from nocturne.ui.wiring import Wiring


class SwatchStand(QWidget):
    """The chosen material on its stand, and which stand and size that is."""

    def __init__(self, session: Session, swatches: SwatchRoom) -> None:
        super().__init__()
        self.session, self.swatches = session, swatches
        self.material: Material | None = None
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 4)
        row.setSpacing(10)
        self.picture = QLabel()
        self.picture.setFixedSize(96, 96)
        self.picture.setAccessibleName("Swatch")
        self.picture.setToolTip("The material on a stand; drag the swatch in the list onto a thing in the picture")
        row.addWidget(self.picture)
        column = QVBoxLayout()
        column.addWidget(soft("Shown on a"))
        self.stand, self.size = QComboBox(), QComboBox()
        for box, words, choices in (
            (self.stand, "Stand", STANDS),
            (self.size, "Size of the stand", tuple((s, f"{s * 100:g} cm" if s < 1 else f"{s:g} m") for s in SIZES_M)),
        ):
            box.setAccessibleName(words)
            for value, label in choices:
                box.addItem(label, value)
            column.addWidget(box)
        self.size.setCurrentIndex(1)
        column.addStretch(1)
        row.addLayout(column, 1)
        for box in (self.stand, self.size):
            box.activated.connect(self._on_stand)
        swatches.made.connect(self._on_made)

    def _on_stand(self) -> None:
        self.swatches.show_on(self.stand.currentData(), self.size.currentData())
        # Every list that shows swatches asks anew.
        self.session.assets_changed.emit()
        if self.material is not None:
            self.show_material(self.material)

    def show_material(self, material: Material) -> None:
        """Show a material's newest swatch, and ask for one if it is old."""
        self.material = material
        self.swatches.hurry(material.id)
        image = self.swatches.image(material, self.session.assets)
        if image is not None:
            self._on_made(material.id, image)
        else:
            self.picture.clear()

    def _on_made(self, id: str, image) -> None:
        if self.material is not None and id == self.material.id:
            fitted = image.scaled(QSize(96, 96) * self.devicePixelRatioF())
            fitted.setDevicePixelRatio(self.devicePixelRatioF())
            self.picture.setPixmap(QPixmap.fromImage(fitted))


class MaterialSheet(Sheet):
    """Parameters of a material, and the patterns that drive them."""

    def __init__(self, session: Session, browse, swatches: SwatchRoom, wiring: Wiring, shelf: PatternShelf) -> None:
        super().__init__(
            session,
            "materials",
            (Material,),
            {
                "": ("name",),
                "Base": ("base_color", "base_metalness", "metal_from", "metal_n", "metal_k"),
                "Reflection": ("specular_roughness", "specular_ior", "specular_weight", "specular_color"),
                "Glass and liquid": (
                    "transmission_weight",
                    "transmission_color",
                    "transmission_depth",
                    "geometry_thin_walled",
                    "light_passes",
                    "precedence",
                ),
                "Coat": ("coat_weight", "coat_color", "coat_roughness", "coat_ior", "coat_darkening"),
                "Shape": ("relief_depth", "relief_style", "relief_middle", "relief_pixels"),
                "Glow": ("emission_luminance", "emission_color", "emission_group"),
            },
            "Choose a material in the list, or click a thing in the picture.",
        )
        self._moved: tuple[Moved, ...] = ()
        self._told: set[str] = set()  # fields that something was said of
        self.swatches = swatches
        self.stand = SwatchStand(session, swatches)
        self.column.insertWidget(1, self.stand)
        self.wiring = wiring
        self.outline = PatternOutline(session, browse, wiring, shelf)
        self.outline.pick_wanted.connect(self.pick_wanted)
        self.more.addWidget(self.outline)
        session.assets_changed.connect(lambda: self._follow(session.document))

    @property
    def rows(self) -> list[PatternRow]:
        """Return the rows of the pattern outline."""
        return self.outline.rows

    def show_item(self, item, document):
        """Show a material; fields without effect are left out."""
        groups = [("", "light")] + [(g, g) for g in document.light_groups]
        self.stand.show_material(item)
        self.form.set_choices("emission_group", groups)
        self.form.show_model(item)
        names = set(self.form.rows)
        if item.base_metalness <= 0:
            names -= {"metal_from", "metal_n", "metal_k"}
        elif item.metal_from == "colour":
            names -= {"metal_n", "metal_k"}
        if item.transmission_weight <= 0:
            names -= {"transmission_color", "transmission_depth", "geometry_thin_walled", "light_passes", "precedence"}
        elif item.geometry_thin_walled:
            names -= {"transmission_depth", "light_passes", "precedence"}
        if item.coat_weight <= 0:
            names -= {"coat_color", "coat_roughness", "coat_ior", "coat_darkening"}
        if item.emission_luminance <= 0:
            names -= {"emission_color", "emission_group"}
        if not any(step.parameter == "geometry_height" for step in item.steps):
            names -= {"relief_depth", "relief_style"}
        if not item.heights:
            names -= {"relief_middle", "relief_pixels"}
        self.form.show_only(names)
        self._tell_driven(item)
        self._tell_moved(item, document)
        self.outline.show_material(item)

    def _tell_driven(self, item: Material) -> None:
        """Say below a field what drives it."""
        driven: dict[str, list[str]] = {}
        for step in item.steps:
            if step.on:
                driven.setdefault(step.parameter, []).append(step.title.lower())
        for name in self.form.rows:
            titles = driven.get(name, [])
            if titles or name in self._told:
                self._told.add(name)
                self.form.note(name, f"Driven by {', '.join(reversed(titles))}." if titles else "")

    def show_moved(self, moved: tuple[Moved, ...]) -> None:
        """Show of which things the picture has the relief as real geometry."""
        if moved == self._moved:
            return
        self._moved = moved
        item = self.session.document.find("materials", self.outline.material)
        if item is not None:
            self._tell_moved(item, self.session.document)

    def _tell_moved(self, item: Material, document: Document) -> None:
        """Say how large a relief's geometry is in the picture, and when it could be no larger."""
        words = ""
        if item.heights and self._moved:
            worn = {thing.id for thing in wearing(document, item.id)} | {t.id for t in document.things if t.scatter}
            here = [moved for moved in self._moved if moved.thing in worn]
            if here:
                words = f"{sum(moved.triangles for moved in here):,} triangles in the picture"
                words += ", as many as there may be: what is finer is shaded." if any(m.is_cut for m in here) else "."
        self.form.note("relief_pixels", words)

    def show_more(self, visible):
        """Show the swatch and the patterns with the form."""
        self.stand.setVisible(visible)
        self.outline.setVisible(visible)
