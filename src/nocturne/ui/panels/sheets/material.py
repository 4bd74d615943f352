"""The sheet of a material: its swatch, its parameters, the pictures that drive them."""

from collections.abc import Callable

from PySide6.QtCore import QSize
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QVBoxLayout,
    QWidget,
)

from nocturne.scene import edit
from nocturne.scene.materials import Material
from nocturne.scene.patterns import DRIVEN, Checker, MeshColours, Picture, Step
from nocturne.swatch.stand import SIZES_M, STANDS
from nocturne.ui.panels.sheets.sheet import Sheet
from nocturne.ui.session import Session
from nocturne.ui.swatchroom import SwatchRoom
from nocturne.ui.widgets.pattern import PatternRow
from nocturne.ui.widgets.words import section, soft


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
    """Parameters of a material, and the pictures that drive them."""

    def __init__(self, session: Session, browse, swatches: SwatchRoom) -> None:
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
                "Glow": ("emission_luminance", "emission_color", "emission_group"),
            },
            "Choose a material in the list, or click a thing in the picture.",
        )
        self._browse = browse
        self.swatches = swatches
        self.stand = SwatchStand(session, swatches)
        self.column.insertWidget(1, self.stand)
        heading = self.heading = section("Patterns")
        self.more.addWidget(heading)
        self.pictures = QVBoxLayout()
        self.pictures.setSpacing(4)
        self.more.addLayout(self.pictures)
        self.add = self.button("Drive a parameter with a picture…", lambda: self._choose(None))
        self.add_checker = self.button("Drive a parameter with a checker", self._add_checker)
        self.add_colours = self.button("Drive the base colour by the mesh's colours", self._add_colours)
        self.rows: list[PatternRow] = []

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
        self.form.show_only(names)
        while len(self.rows) > len(item.steps):
            self.rows.pop().deleteLater()
        while len(self.rows) < len(item.steps):
            self._add_row()
        images = self.session.assets.images
        # The last one lies over all others: it stands on top.
        for row, texture in zip(self.rows, reversed(item.steps)):
            row.show_texture(texture, images.get(texture.picture))
            row.show()

    def _add_row(self) -> None:
        row = PatternRow()

        def act(what: Callable[[int], None]) -> None:
            # A row that is just going away still says what was being typed in it.
            if row in self.rows:
                what(len(self.rows) - 1 - self.rows.index(row))

        row.edited.connect(lambda new, merge: act(lambda i: self._set(i, new, merge)))
        row.committed.connect(lambda new, merge: act(lambda i: self._set(i, new, merge)))
        row.removed.connect(lambda: act(lambda i: self._set(i, None)))
        row.pick_wanted.connect(self.pick_wanted)
        row.copied.connect(lambda: act(lambda _: self._set(None, row.texture)))
        row.shifted.connect(lambda by: act(lambda i: self._shift(i, -by)))
        row.browse.connect(lambda: act(self._choose))
        self.rows.append(row)
        self.pictures.addWidget(row)

    def _shift(self, i: int, by: int) -> None:
        item = self.item(self.session.document)
        old = list(item.steps) if item is not None else []
        if 0 <= i + by < len(old):
            old[i], old[i + by] = old[i + by], old[i]
            self.session.edit(edit.alter, "materials", item.id, steps=tuple(old), label="Move a step")

    def _set(self, i: int | None, texture: Step | None, merge: object = None) -> None:
        item = self.item(self.session.document)
        if item is None or (i is not None and i >= len(item.steps)):
            return
        old = list(item.steps)
        if i is None:
            old.append(texture)
        elif texture is None:
            del old[i]
        else:
            old[i] = texture
        self.session.edit(edit.alter, "materials", item.id, steps=tuple(old), label="Change patterns", merge=merge)

    def _choose(self, i: int | None) -> None:
        path = self._browse()
        if not path:
            return
        if i is None:
            free = self._free_parameter()
            self._set(None, Picture(parameter=free, path=path, space="colour" if free.endswith("_color") else "data"))
        else:
            self._set(i, edit.changed(self.item(self.session.document).steps[i], path=path))

    def _add_checker(self) -> None:
        self._set(None, Checker(parameter=self._free_parameter(), repeat=(4.0, 4.0)))

    def _add_colours(self) -> None:
        self._set(None, MeshColours(parameter="base_color", blend="multiply"))

    def _free_parameter(self) -> str:
        """Return the first parameter that nothing drives yet."""
        used = {step.parameter for step in self.item(self.session.document).steps}
        return next((name for name in DRIVEN if name not in used), DRIVEN[0])

    def show_more(self, visible):
        """Show the pictures with the form."""
        self.stand.setVisible(visible)
        self.heading.setVisible(visible)
        self.add.setVisible(visible)
        self.add_checker.setVisible(visible)
        self.add_colours.setVisible(visible)
        for row in () if visible else self.rows:
            row.hide()
