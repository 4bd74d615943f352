"""The sheet at the right of the picture: properties of what is chosen."""

from pathlib import Path

from PySide6.QtCore import QSignalBlocker, QSize, Qt, Signal
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from nocturne.errors import NocturneError
from nocturne.preflight.lights import too_bright_by
from nocturne.scene import edit, exposing
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.fields import Model
from nocturne.scene.lights import FIELDS_OF_KIND, KIND_NAMES, UNITS, Light, strength, with_unit
from nocturne.scene.materials import TEXTURED, Material, Texture
from nocturne.scene.outputs import Quality
from nocturne.scene.shapes import Thing
from nocturne.swatch.stand import SIZES_M, STANDS
from nocturne.ui.panels.lists import tool
from nocturne.ui.session import Session
from nocturne.ui.swatchroom import SwatchRoom
from nocturne.ui.widgets.form import Form
from nocturne.ui.widgets.numberfield import NumberField
from nocturne.ui.widgets.words import section, soft

LENSES = tuple(
    (f"{mm:g} mm {words}".strip(), float(mm))
    for mm, words in (
        (18, "very wide"),
        (24, "wide"),
        (28, ""),
        (35, "reportage"),
        (50, "natural"),
        (85, "portrait"),
        (105, ""),
        (135, "long"),
        (200, "very long"),
    )
)
SENSORS = (
    ("Full frame, 36 mm", 36.0),
    ("Super 35, 24.9 mm", 24.9),
    ("APS-C, 23.5 mm", 23.5),
    ("Four thirds, 17.3 mm", 17.3),
    ("Medium format, 53.4 mm", 53.4),
    ("Large format 4 x 5, 121 mm", 121.0),
)
UNIT_NAMES = {"W": "watts", "lm": "lumens", "cd": "candela", "nit": "nits", "lx": "lux", "x": "× nature"}


class Sheet(QScrollArea):
    """A scrolling sheet with a heading, a form, and room for more below."""

    pick_wanted = Signal(object)

    def __init__(self, session: Session, part: str, model: type[Model], sections: dict, empty: str) -> None:
        super().__init__()
        self.session, self.part = session, part
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        inside = QWidget()
        inside.setObjectName("panel")
        self.column = QVBoxLayout(inside)
        self.column.setContentsMargins(14, 10, 14, 14)
        self.column.setSpacing(6)
        self.title = QLabel()
        self.title.setObjectName("heading")
        self.column.addWidget(self.title)
        self.empty = QLabel(empty)
        self.empty.setObjectName("soft")
        self.empty.setWordWrap(True)
        self.column.addWidget(self.empty)
        self.form = Form(model, sections)
        self.form.edited.connect(lambda n, v, m: self._alter(n, v, m))
        self.form.committed.connect(lambda n, v, m: self._alter(n, v, m))
        self.form.pick_wanted.connect(self.pick_wanted)
        self.column.addWidget(self.form)
        self.more = QVBoxLayout()
        self.more.setSpacing(6)
        self.column.addLayout(self.more)
        self.column.addStretch(1)
        self.setWidget(inside)
        session.document_changed.connect(lambda _, document: self.show_document(document))
        session.chosen_changed.connect(lambda part, _: part == self.part and self.show_document(session.document))

    def chosen_id(self, document: Document) -> str:
        """Return the id of what the sheet is about."""
        return self.session.chosen.get(self.part, "")

    def item(self, document: Document) -> Model | None:
        """Return what the sheet is about."""
        return document.find(self.part, self.chosen_id(document))

    def show_document(self, document: Document) -> None:
        """Show the chosen item."""
        item = self.item(document)
        self.form.setVisible(item is not None)
        self.empty.setVisible(item is None)
        self.title.setText(item.name if item is not None else "Nothing chosen")
        self.show_more(item is not None)
        if item is not None:
            self.show_item(item, document)

    def show_item(self, item: Model, document: Document) -> None:
        """Show an item."""
        self.form.show_model(item)

    def show_more(self, visible: bool) -> None:
        """Show or hide what stands below the form."""

    def _alter(self, name: str, value: object, merge: object) -> None:
        id = self.chosen_id(self.session.document)
        label = f"Change {self.form._about[name].label.lower()}"
        self.session.edit(edit.alter, self.part, id, label=label, merge=merge, **{name: value})

    def text(self, words: str = "") -> QLabel:
        """Put a soft line below the form."""
        label = soft(words)
        self.more.addWidget(label)
        return label

    def button(self, words: str, action, *, main: bool = False) -> QPushButton:
        """Put a button below the form."""
        button = QPushButton(words)
        if main:
            button.setObjectName("main")
        button.clicked.connect(lambda: action())
        self.more.addWidget(button)
        return button


class ThingSheet(Sheet):
    """Place, size and material of a thing."""

    def __init__(self, session: Session) -> None:
        super().__init__(
            session,
            "things",
            Thing,
            {"": ("name", "material", "visible"), "In the set": ("place", "turn_deg", "size")},
            "Click a thing in the picture or in the outline.",
        )
        self.facts = self.text()

    def show_item(self, item, document):
        """Show a thing with its size in metres."""
        choices = [("", "No material")] + [(m.id, m.name) for m in document.materials]
        self.form.set_choices("material", choices)
        self.form.show_model(item)
        is_group = not item.mesh
        self.form.rows["material"].setVisible(not is_group)
        mesh = self.session.assets.meshes.get(item.mesh)
        if mesh is not None:
            size = (mesh.bounds[1] - mesh.bounds[0]) * item.size
            self.facts.setText(
                f"{' × '.join(f'{v:.4g}' for v in size)} m   ·   {len(mesh.triangles):,} triangles\n{item.mesh}"
            )
        else:
            n = len(list(document.children(item.id)))
            self.facts.setText(
                f"A group of {n} thing{'' if n == 1 else 's'}." if is_group else "Its model could not be loaded."
            )

    def show_more(self, visible):
        """Show the facts with the form."""
        self.facts.setVisible(visible)


class TextureRow(QWidget):
    """One picture that drives a parameter."""

    changed = Signal(object)
    removed = Signal()
    browse = Signal()

    def __init__(self, texture: Texture) -> None:
        super().__init__()
        self.texture = texture
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self.parameter = QComboBox()
        self.parameter.setAccessibleName("Drives")
        self.parameter.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.parameter.setMinimumContentsLength(8)
        for name in TEXTURED:
            self.parameter.addItem(label_of(name), name)
        self.parameter.setCurrentIndex(TEXTURED.index(texture.parameter))
        self.parameter.activated.connect(self._switch)
        name = QPushButton(Path(texture.path).name or "Choose a picture…")
        name.setToolTip(
            f"{texture.path}\nRead as {texture.space}; repeats {texture.repeat[0]:.3g} × {texture.repeat[1]:.3g}"
        )
        name.setMinimumWidth(60)
        name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        name.clicked.connect(self.browse)
        row.addWidget(self.parameter, 3)
        row.addWidget(name, 4)
        row.addWidget(tool("remove", "Remove this picture", self.removed.emit))

    def _switch(self, index: int) -> None:
        name = self.parameter.itemData(index)
        space = "colour" if name.endswith("_color") else "data"
        self.changed.emit(edit.changed(self.texture, parameter=name, space=space))


def label_of(parameter: str) -> str:
    """Return a material parameter's label."""
    return "Normal" if parameter == "geometry_normal" else Material.model_fields[parameter].title


class SwatchStand(QWidget):
    """The chosen material on its stand, and which stand and size that is."""

    changed = Signal()

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
            Material,
            {
                "": ("name",),
                "Base": ("base_color", "base_metalness", "metal_from", "metal_n", "metal_k"),
                "Reflection": ("specular_roughness", "specular_ior", "specular_weight", "specular_color"),
                "Glass and liquid": (
                    "transmission_weight",
                    "transmission_color",
                    "transmission_depth",
                    "geometry_thin_walled",
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
        heading = self.heading = section("Pictures")
        self.more.addWidget(heading)
        self.pictures = QVBoxLayout()
        self.pictures.setSpacing(4)
        self.more.addLayout(self.pictures)
        self.add = self.button("Drive a parameter with a picture…", lambda: self._choose(None))
        self._shown: tuple | None = None

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
            names -= {"transmission_color", "transmission_depth", "geometry_thin_walled", "precedence"}
        elif item.geometry_thin_walled:
            names -= {"transmission_depth", "precedence"}
        if item.coat_weight <= 0:
            names -= {"coat_color", "coat_roughness", "coat_ior", "coat_darkening"}
        if item.emission_luminance <= 0:
            names -= {"emission_color", "emission_group"}
        self.form.show_only(names)
        key = (item.id, item.textures)
        if key != self._shown:
            self._shown = key
            while self.pictures.count():
                self.pictures.takeAt(0).widget().deleteLater()
            for i, texture in enumerate(item.textures):
                row = TextureRow(texture)
                row.changed.connect(lambda new, i=i: self._set(i, new))
                row.removed.connect(lambda i=i: self._set(i, None))
                row.browse.connect(lambda i=i: self._choose(i))
                self.pictures.addWidget(row)

    def _set(self, i: int | None, texture: Texture | None) -> None:
        item = self.item(self.session.document)
        old = list(item.textures)
        if i is None:
            old.append(texture)
        elif texture is None:
            del old[i]
        else:
            old[i] = texture
        self.session.edit(edit.alter, "materials", item.id, textures=tuple(old), label="Change pictures")

    def _choose(self, i: int | None) -> None:
        path = self._browse()
        if not path:
            return
        item = self.item(self.session.document)
        if i is None:
            used = {texture.parameter for texture in item.textures}
            free = next((name for name in TEXTURED if name not in used), TEXTURED[0])
            self._set(None, Texture(parameter=free, path=path, space="colour" if free.endswith("_color") else "data"))
        else:
            self._set(i, edit.changed(item.textures[i], path=path))

    def show_more(self, visible):
        """Show the pictures with the form."""
        self.stand.setVisible(visible)
        self.heading.setVisible(visible)
        self.add.setVisible(visible)
        if not visible and self._shown is not None:
            self._shown = None
            while self.pictures.count():
                self.pictures.takeAt(0).widget().deleteLater()


class LightSheet(Sheet):
    """A light's power, colour, place and shape."""

    def __init__(self, session: Session, browse) -> None:
        super().__init__(
            session,
            "lights",
            Light,
            {
                "": ("name", "group", "on", "visible"),
                "Power": ("power", "unit", "efficacy"),
                "Colour": ("colour_from", "kelvin", "colour"),
                "Place and shape": (
                    "place",
                    "turn_deg",
                    "width",
                    "height",
                    "radius",
                    "inner_deg",
                    "outer_deg",
                    "image",
                    "azimuth_deg",
                    "elevation_deg",
                    "turbidity",
                    "ground",
                ),
            },
            "Choose a light in the list, click one in the picture, or add one.",
        )
        self.reading = self.text()
        self.browse = self.button("Choose a picture…", lambda: self._choose(browse))

    def show_item(self, item, document):
        """Show a light with the fields its kind has."""
        self.form.set_choices("group", [(g, g) for g in document.light_groups])
        self.form.set_choices("unit", [(u, UNIT_NAMES[u]) for u in UNITS[item.kind]])
        self.form.editors["power"].set_unit(item.unit)
        self.form.show_model(item)
        names = {"name", "group", "on", "power", "unit", *FIELDS_OF_KIND[item.kind]}
        if item.unit == "W":
            names.add("efficacy")
        if item.kind in ("rect", "sphere", "environment", "dome", "sun", "sky"):
            names.add("visible")
        if item.kind not in ("sun", "sky"):
            names.add("colour_from")
            names.add("kelvin" if item.colour_from == "kelvin" and item.kind != "environment" else "colour")
        self.form.show_only(names)
        self.reading.setText(_reading(item) + _hint(item))
        self.browse.setVisible(item.kind == "environment")

    def show_more(self, visible):
        """Show the reading with the form."""
        self.reading.setVisible(visible)
        if not visible:
            self.browse.hide()

    def _alter(self, name, value, merge):
        if name == "unit":
            item = self.item(self.session.document)
            self.session.edit(edit.put, "lights", with_unit(item, value), label="Change unit")
            return
        super()._alter(name, value, merge)

    def _choose(self, browse) -> None:
        path = browse()
        if path:
            self._alter("image", path, None)


def _plain(value: float) -> str:
    return f"{value:,.0f}" if abs(value) >= 1000 else f"{value:.3g}"


def _reading(light: Light) -> str:
    """Return what a light's power amounts to, in other words."""
    kind = KIND_NAMES[light.kind]
    try:
        value = strength(light)
    except NocturneError:
        return kind
    if light.kind in ("rect", "sphere", "dome", "environment"):
        return f"{kind}: {_plain(value)} nit"
    if light.kind in ("point", "spot"):
        return f"{kind}: {_plain(value)} cd, that is {_plain(value)} lx at 1 m and {_plain(value / 4)} lx at 2 m"
    return f"{kind}: {'a factor of what nature gives' if light.unit == 'x' else 'illuminance facing it'}"


def _hint(light: Light) -> str:
    """Return advice if a light is brighter than any of its kind."""
    try:
        factor = too_bright_by(light)
    except NocturneError:
        return ""
    if factor <= 1:
        return ""
    return (
        f"\n▲ {factor:.3g} times as bright as any {KIND_NAMES[light.kind].lower()} there is. "
        "If the picture is too dark, open the camera instead."
    )


class CameraSheet(Sheet):
    """Lens, exposure, focus and frame of the view that is looked through."""

    focus_wanted = Signal()
    mode_wanted = Signal(str)
    average_wanted = Signal()
    upright_wanted = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(
            session,
            "views",
            View,
            {
                "": ("name",),
                "Exposure": ("iso", "shutter_s", "f_number", "white_k"),
                "Lens": ("focal_mm", "sensor_mm", "shift_x", "shift_y", "roll_deg"),
                "Focus": ("depth_of_field", "focus_m"),
                "Frame": ("width", "height"),
                "Stand": ("eye", "target"),
            },
            "",
        )
        self.reading = self.text()
        self.column.removeItem(self.more)
        self.column.insertLayout(2, self.more)
        self._buttons(
            ("Expose for all", "Put the mean of the picture at middle grey, by the shutter", self.average_wanted.emit),
            ("Spot…", "Click what should become middle grey   Shift+X", lambda: self.mode_wanted.emit("spot")),
        )
        self._buttons(
            ("Neutral…", "Click something that should look grey   Shift+N", lambda: self.mode_wanted.emit("neutral")),
            ("Focus…", "Click what should be sharp   X", self.focus_wanted.emit),
            (
                "Upright",
                "Hold the camera level and shift the frame: verticals stay upright   T",
                self.upright_wanted.emit,
            ),
        )
        self.lens = self._presets("Lens", LENSES, "focal_mm")
        self.sensor = self._presets("Sensor", SENSORS, "sensor_mm")
        self.range = QWidget()
        rows = QVBoxLayout(self.range)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(5)
        help = "The f-number and focus distance that make this range look sharp."
        self.near = NumberField("Sharp from", unit="m", low=0.01, high=1e5, log=True, label_width=64, help=help)
        self.far = NumberField("Sharp to", unit="m", low=0.01, high=1e5, log=True, label_width=64, help=help)
        for field in (self.near, self.far):
            field.committed.connect(lambda *_: self._focus_on_range())
            rows.addWidget(field)
        self.more.addWidget(self.range)
        self.lock = QCheckBox("Keep the frame's proportion")
        self.lock.setChecked(True)
        self.more.addWidget(self.lock)

    def _buttons(self, *rows: tuple) -> None:
        line = QHBoxLayout()
        line.setSpacing(4)
        for words, help, action in rows:
            button = QPushButton(words)
            button.setToolTip(help)
            button.clicked.connect(lambda _=False, a=action: a())
            line.addWidget(button)
        self.more.addLayout(line)

    def _presets(self, words: str, choices: tuple, name: str) -> QComboBox:
        line = QHBoxLayout()
        label = soft(words, width=64)
        box = QComboBox()
        box.setAccessibleName(f"{words} preset")
        box.setPlaceholderText("Other")
        for text, value in choices:
            box.addItem(text, value)
        box.activated.connect(lambda i: self._alter(name, box.itemData(i), None))
        line.addWidget(label)
        line.addWidget(box, 1)
        self.more.addLayout(line)
        return box

    def _focus_on_range(self) -> None:
        view = self.session.document.view
        after = exposing.focused_on_range(view, self.near.value, self.far.value)
        self.session.edit(edit.put, "views", after, label="Focus on a range")

    def _alter(self, name, value, merge):
        view = self.session.document.view
        if name in ("width", "height") and self.lock.isChecked():
            share = view.height / view.width
            other = value * share if name == "width" else value / share
            both = {name: value, "height" if name == "width" else "width": min(max(round(other), 16), 16384)}
            self.session.edit(edit.alter, "views", view.id, label="Change the frame", merge=merge, **both)
            return
        super()._alter(name, value, merge)

    def chosen_id(self, document):
        """Return the active view."""
        return document.view.id

    def show_item(self, item, document):
        """Show a view with its exposure value and what is sharp."""
        self.form.show_model(item)
        near, far = exposing.sharp_range(item)
        self.near.show_value(round(near, 4))
        self.far.show_value(round(min(far, 1e5), 4))
        self.range.setVisible(item.depth_of_field)
        sharp = (
            f"\nsharp from {near:.3g} m to {'infinity' if far > 1e5 else f'{far:.3g} m'}" if item.depth_of_field else ""
        )
        self.reading.setText(
            f"EV {item.ev100:.1f} at ISO 100   ·   white at {_plain(item.white_luminance)} nit   ·   "
            f"middle grey at {_plain(item.white_luminance * 0.18)} nit{sharp}"
        )
        for box, value in ((self.lens, item.focal_mm), (self.sensor, item.sensor_mm)):
            with QSignalBlocker(box):
                box.setCurrentIndex(box.findData(value))


class RenderSheet(Sheet):
    """Settings of the quality level in use; start, stop, go on; export."""

    start_wanted, stop_wanted, go_on_wanted, export_wanted = Signal(), Signal(), Signal(), Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(
            session,
            "qualities",
            Quality,
            {
                "": ("name",),
                "Stop": ("samples", "least_samples", "noise", "minutes"),
                "Light's ways": ("diffuse_bounces", "reflections", "transmissions", "bounces"),
                "Against noise": ("denoise", "clamp", "regularise"),
            },
            "",
        )
        keys = QHBoxLayout()
        self.start = QPushButton("Render")
        self.start.setObjectName("main")
        self.start.setToolTip("Render the view at its full size and this quality")
        self.stop = QPushButton("Stop")
        self.on = QPushButton("Go on")
        for button, signal in (
            (self.start, self.start_wanted),
            (self.stop, self.stop_wanted),
            (self.on, self.go_on_wanted),
        ):
            button.clicked.connect(lambda _=False, s=signal: s.emit())
            keys.addWidget(button)
        self.column.insertLayout(1, keys)
        self.button("Export…", self.export_wanted.emit)

    def chosen_id(self, document):
        """Return the quality level in use."""
        return document.quality.id
