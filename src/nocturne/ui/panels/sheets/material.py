"""The sheet of a material: its swatch, its parameters, and the patterns that drive them."""

from collections.abc import Callable, Iterator
from functools import partial

from PySide6.QtCore import QSize
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from nocturne.colour import metals as measured
from nocturne.colour.clears import clears
from nocturne.engine.relief import Moved
from nocturne.jobs import Update
from nocturne.scene import glowing, mediaorder, metals
from nocturne.scene.document import Document
from nocturne.scene.faces import wearing
from nocturne.scene.layering import may_lie_over
from nocturne.scene.materials import Material
from nocturne.swatch.stand import SIZES_M, STANDS
from nocturne.ui.panels.patterns import PatternOutline
from nocturne.ui.panels.sheets.sheet import Sheet
from nocturne.ui.patternshelf import PatternShelf
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session
from nocturne.ui.swatchroom import SwatchRoom
from nocturne.ui.widgets.pattern import PatternRow
from nocturne.ui.widgets.reflectance import Reflectance
from nocturne.ui.widgets.substance import SubstanceChoice
from nocturne.ui.widgets.words import soft
from nocturne.ui.wiring import Wiring

GLOW = "Measure what glows"
# The fields by what they make of a surface.
SECTIONS = {
    "": ("name",),
    "Base": (
        *("base_metalness", "metal_from", "metal_name", "metal_n", "metal_k", "metal_wavelengths_nm"),
        *("base_color", "base_weight", "base_diffuse_roughness"),
    ),
    "Reflection": (
        *("specular_roughness", "specular_ior", "specular_weight", "specular_color"),
        *("specular_roughness_anisotropy", "specular_rotation_deg", "specular_tail", "specular_tail_roughness"),
    ),
    "Glass and liquid": (
        *("transmission_weight", "transmission_color", "transmission_depth"),
        *("transmission_scatter", "transmission_scatter_anisotropy"),
        *("transmission_dispersion_scale", "transmission_dispersion_abbe_number"),
        "light_passes",
    ),
    "Below the surface": (
        *("subsurface_weight", "subsurface_color", "subsurface_radius_mm", "subsurface_radius_scale"),
        "subsurface_scatter_anisotropy",
    ),
    "Coat": (
        *("coat_weight", "coat_color", "coat_roughness", "coat_ior", "coat_darkening", "coat_levelling"),
        *("coat_roughness_anisotropy", "coat_rotation_deg", "coat_tail", "coat_tail_roughness"),
    ),
    "Fuzz": ("fuzz_weight", "fuzz_color", "fuzz_roughness"),
    "Thin film": ("thin_film_weight", "thin_film_thickness_nm", "thin_film_ior"),
    "Shape": (
        *("geometry_thin_walled", "geometry_opacity", "rounding_mm", "rounding_angle_deg"),
        *("relief_depth", "relief_style", "relief_middle", "relief_pixels"),
    ),
    "Glow": (
        *("emission_luminance", "emission_power", "emission_unit", "emission_efficacy"),
        *("emission_color_from", "emission_kelvin", "emission_color", "emission_look_stops", "emission_group"),
    ),
    "Layer": ("layer_over", "layer_cover", "layer_thickness_mm"),
}
METAL = ("metal_name", "metal_n", "metal_k", "metal_wavelengths_nm")
OF_METAL = {"table": ("metal_name",), "nk": ("metal_n", "metal_k", "metal_wavelengths_nm")}
# What decides whether a section has any effect.
LEADS = {
    "Glass and liquid": ("transmission_weight",),
    "Below the surface": ("subsurface_weight",),
    "Coat": ("coat_weight",),
    "Fuzz": ("fuzz_weight",),
    "Thin film": ("thin_film_weight",),
    "Layer": ("layer_over",),
}


def has(item: Material, name: str) -> bool:
    """Return True if a field has an effect by its value, or by a step that drives it."""
    value = getattr(item, name)
    if isinstance(value, str):
        return bool(value)
    return value > 0 or any(step.parameter == name and step.on for step in item.steps)


def without_effect(item: Material) -> set[str]:
    """Return the fields that change nothing while the others are as they are."""
    idle: set[str] = set()
    for lead, others in (
        ("base_metalness", ("metal_from", *METAL, "specular_tail")),
        ("specular_roughness_anisotropy", ("specular_rotation_deg",)),
        ("specular_tail", ("specular_tail_roughness",)),
        ("transmission_weight", SECTIONS["Glass and liquid"][1:]),
        ("transmission_depth", ("transmission_scatter", "transmission_scatter_anisotropy")),
        ("transmission_dispersion_scale", ("transmission_dispersion_abbe_number",)),
        ("subsurface_weight", SECTIONS["Below the surface"][1:]),
        ("coat_weight", SECTIONS["Coat"][1:]),
        ("coat_roughness_anisotropy", ("coat_rotation_deg",)),
        ("coat_tail", ("coat_tail_roughness",)),
        ("fuzz_weight", SECTIONS["Fuzz"][1:]),
        ("rounding_mm", ("rounding_angle_deg",)),
        ("layer_over", ("layer_cover", "layer_thickness_mm")),
        ("thin_film_weight", SECTIONS["Thin film"][1:]),
    ):
        if lead in idle or not has(item, lead):
            idle.update(others)
    idle |= _without_effect_of_glow(item)
    idle |= {name for name in METAL if name not in OF_METAL.get(item.metal_from, ())}
    if item.base_metalness >= 1:
        idle |= {"base_diffuse_roughness", "specular_ior"}
        if item.metal_from in metals.BY_INDEX:
            idle |= {"base_color", "base_weight"}
        if item.metal_from != "colour":
            idle.add("specular_color")
    driven = {step.parameter for step in item.steps if step.on}
    if item.transmission_weight >= 1 and item.base_metalness <= 0 and not driven & {"transmission_weight"}:
        idle |= {"base_color", "base_weight", "base_diffuse_roughness"} - driven
    if max(item.transmission_scatter) <= 0:
        idle.add("transmission_scatter_anisotropy")
    if item.geometry_thin_walled:
        idle |= {"transmission_depth", "light_passes", "transmission_scatter"}
        idle |= {"transmission_scatter_anisotropy", "transmission_dispersion_scale"}
        idle |= {"transmission_dispersion_abbe_number", "subsurface_radius_mm", "subsurface_radius_scale"}
    if not has(item, "transmission_weight") and not has(item, "subsurface_weight"):
        idle.add("geometry_thin_walled")
    if not any(step.parameter == "geometry_height" for step in item.steps):
        idle |= {"relief_depth", "relief_style"}
    if not item.heights:
        idle |= {"relief_middle", "relief_pixels"}
    if not any(step.parameter in ("geometry_height", "geometry_normal") for step in item.steps):
        idle.add("coat_levelling")
    return idle


def _without_effect_of_glow(item: Material) -> set[str]:
    is_power = item.emission_unit != "nit"
    idle = {"emission_luminance"} if is_power else {"emission_power"}
    if item.emission_unit != "W":
        idle.add("emission_efficacy")
    idle.add("emission_color" if item.emission_color_from == "kelvin" else "emission_kelvin")
    if not item.is_emitter:
        idle |= {"emission_look_stops", "emission_group", "emission_color_from", "emission_kelvin", "emission_efficacy"}
    if not item.is_emitter and max(item.emission_color) > 0:
        idle.add("emission_color")
    return idle


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
        image = self.swatches.image(material, self.session.document, self.session.assets)
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

    def __init__(
        self,
        session: Session,
        browse: Callable[[], str],
        ask_metal: Callable[[], tuple | None],
        show_order: Callable[[], None],
        swatches: SwatchRoom,
        wiring: Wiring,
        shelf: PatternShelf,
        runner: Runner,
    ) -> None:
        super().__init__(
            session,
            "materials",
            (Material,),
            SECTIONS,
            "Choose a material in the list, or click a thing in the picture.",
            folds=True,
        )
        self._moved: tuple[Moved, ...] = ()
        self._told: set[str] = set()  # fields that something was said of
        self.swatches = swatches
        self.stand = SwatchStand(session, swatches)
        self.column.insertWidget(1, self.stand)
        self.wiring = wiring
        self.runner = runner
        self._ask_metal = ask_metal
        self._show_order = show_order
        self._place_extras()
        self.outline = PatternOutline(session, browse, wiring, shelf)
        self.outline.pick_wanted.connect(self.pick_wanted)
        self.more.addWidget(self.outline)
        session.assets_changed.connect(lambda: self._follow(session.document))

    def _place_extras(self) -> None:
        """Put what is no field between those of its section: buttons, readings, drawings."""
        self.reflectance = Reflectance()
        self.read_metal = QPushButton("Read a table…")
        self.read_metal.setToolTip("Three columns: wavelength in nm or um, n, k; as CSV or plain text")
        self.read_metal.clicked.connect(self._read_metal)
        self._after("metal_wavelengths_nm", self.read_metal, self.reflectance)
        self.substance = SubstanceChoice()
        self.substance.chosen.connect(self._take_substance)
        self._after("transmission_weight", self.substance)
        self.order = QPushButton("Order where they overlap…")
        self.order.setToolTip("Which of overlapping glasses and liquids exists, and what meets at their walls")
        self.order.clicked.connect(lambda: self._show_order())
        self._after("light_passes", self.order)
        self.hot_core = QPushButton("Hot core, coloured rim")
        self.hot_core.setToolTip(
            "Nearly white where it faces you, its own full colour at the rim; a ramp to tune below"
        )
        self.hot_core.clicked.connect(self._heat)
        self.glow = soft("")
        self._after("emission_look_stops", self.hot_core, self.glow)
        power = self.form.editors["emission_power"]
        power.given.connect(self._give)
        for title in ("Base", "Glass and liquid", "Glow"):
            self.form.headings[title][0].clicked.connect(lambda: self._show_extras(self.item(self.session.document)))

    def _after(self, name: str, *widgets: QWidget) -> None:
        at = self.form.layout().indexOf(self.form.rows[name]) + 1
        for i, widget in enumerate(widgets):
            self.form.layout().insertWidget(at + i, widget)

    def _is_open(self, title: str) -> bool:
        return self.form.headings[title][0].isChecked()

    def _show_extras(self, item: Material | None) -> None:
        """Show what stands between the fields."""
        if item is None:
            return
        self._show_metal(item)
        is_glass = has(item, "transmission_weight") and self._is_open("Glass and liquid")
        self.substance.setVisible(is_glass)
        self.order.setVisible(is_glass and item.is_medium)
        if is_glass:
            self.substance.show_material(item)
            place, n = mediaorder.place_of(self.session.document, item.id)
            self.order.setText("Order where they overlap…" if n < 2 else f"Order where they overlap: {place} of {n}…")
        is_lit = item.is_emitter and self._is_open("Glow")
        self.hot_core.setVisible(is_lit and not glowing.has_hot_core(item))
        words = self._reading(item) if is_lit else ""
        self.glow.setText(words)
        self.glow.setVisible(bool(words))

    def _reading(self, item: Material) -> str:
        """Return what a glow amounts to, in words; what takes long to measure is measured meanwhile."""
        document, assets = self.session.document, self.session.assets
        if glowing.is_at_hand(document, assets, item.id):
            return glowing.reading(document, assets, item.id)
        self._measure(GLOW, [item.id], partial(self._show_reading, item.id))
        return "Measuring the surfaces that wear it…"

    def _show_reading(self, id: str, words: str) -> None:
        # Of another document another one is on its way.
        if id == self.chosen_id(self.session.document):
            self.glow.setText(words)
            self.glow.setVisible(bool(words))

    def _measure(self, kind: str, ids: list[str], then: Callable[[str], None]) -> None:
        """Measure what wears glows behind the window; `then` is given the last one's reading."""
        document, assets = self.session.document, self.session.assets

        def work() -> Iterator[Update]:
            yield Update(0, 1, "Measuring what glows")
            words = [glowing.reading(document, assets, id) for id in ids]
            yield Update(1, 1, "Measured", result=words[-1])

        self.runner.submit(kind, work(), then)

    def _take_substance(self, key: str) -> None:
        item = self.item(self.session.document)
        clear = clears()[key]
        if item is not None:
            self.session.edit(mediaorder.as_substance, item.id, clear, label=f"Make it {clear.name}")

    def _heat(self) -> None:
        item = self.item(self.session.document)
        if item is not None:
            self.session.edit(glowing.with_hot_core, item.id, label="Hot core, coloured rim")

    def _give(self, unit: str, power: float, merge: object = None) -> None:
        """Take a power that was typed in another unit."""
        name = "emission_luminance" if unit == "nit" else "emission_power"
        document = self.session.document
        ids = [item.id for item in self.several(document)] or [self.chosen_id(document)]
        values = {id: {"emission_unit": unit, name: power} for id in ids}
        self.session.edit(self.change_each, values, label="Change power", merge=merge)

    def _alter(self, name, value, merge):
        if name == "emission_unit":
            document = self.session.document
            ids = [item.id for item in self.several(document)] or [self.chosen_id(document)]

            def change() -> None:
                self.session.edit(self._with_unit, ids, value, label="Change unit")

            if all(glowing.is_at_hand(document, self.session.assets, id) for id in ids):
                change()
            else:
                self._measure("Change unit", ids, lambda _: change())
            return
        if name in ("emission_power", "emission_luminance"):
            units = {item.emission_unit for item in self.several(self.session.document)}
            if len(units) > 1:  # the number is of the unit beside it
                unit = "nit" if name == "emission_luminance" else self.form.editors[name].unit
                self._give(unit, value, merge)
                return
        super()._alter(name, value, merge)

    def _with_unit(self, document: Document, ids: list[str], unit: str) -> Document:
        for id in ids:
            document = glowing.with_unit(document, self.session.assets, id, unit)
        return document

    def change(self, document, id, **values):
        """Return the document with a material changed; one that begins to glow gets a light group of its own."""
        return glowing.altered(document, id, **values)

    def change_each(self, document, values):
        """Return the document with several materials changed, as each alone."""
        for id, changes in values.items():
            document = self.change(document, id, **changes)
        return document

    @property
    def rows(self) -> list[PatternRow]:
        """Return the rows of the pattern outline."""
        return self.outline.rows

    def show_item(self, item, document):
        """Show a material; fields without effect are left out."""
        groups = [("", "light")] + [(g, g) for g in document.light_groups]
        self.stand.show_material(item)
        below = [("", "Nothing")] + [(m.id, m.name) for m in may_lie_over(document, item.id)]
        self.form.set_choices("layer_over", below)
        self.form.set_choices("emission_group", groups)
        power = self.form.editors["emission_power"]
        power.set_unit("W" if item.emission_unit == "W" else "lm")
        power.also = ("lm", "nit") if item.emission_unit == "W" else ("W", "nit")
        self.form.show_model(item)
        idle = {title for title, leads in LEADS.items() if not any(has(item, name) for name in leads)}
        self.form.show_idle(idle | (set() if item.is_emitter else {"Glow"}))
        self.form.show_only(set(self.form.rows) - without_effect(item))
        self._tell_driven(item)
        self._show_extras(item)
        self._tell_moved(item, document)
        self.outline.show_material(item)

    def _show_metal(self, item: Material) -> None:
        """Draw what the metal reflects; say where it was measured, and what cannot be."""
        is_metal = has(item, "base_metalness") and self._is_open("Base")
        self.reflectance.setVisible(is_metal)
        self.read_metal.setVisible(is_metal and item.metal_from == "spectrum")
        if not is_metal:
            return
        self.reflectance.show_material(item)
        metal = measured.metals().get(item.metal_name)
        self.form.note("metal_name", metal.source if item.metal_from == "table" and metal else "")
        self.form.note("metal_k", measured.doubt(*metals.typed(item)) if item.metal_from == "nk" else "")
        words = ""
        if item.metal_from == "spectrum" and len(item.metal_spectrum) < 2:
            words = "No table was read yet; what is typed as n and k counts until then."
        elif item.metal_from == "spectrum":
            rows = item.metal_spectrum
            words = f"{len(rows)} rows, {rows[0][0]:.0f} to {rows[-1][0]:.0f} nm. "
            words += measured.doubt(*metals.indices(item))
        self.form.note("metal_from", words.strip())

    def _read_metal(self) -> None:
        """Ask for a table of n and k for the chosen material."""
        rows, item = self._ask_metal(), self.item(self.session.document)
        if rows and item is not None:
            self.session.edit(
                self.change, item.id, label="Read n and k", merge=None, metal_spectrum=rows, metal_from="spectrum"
            )

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
