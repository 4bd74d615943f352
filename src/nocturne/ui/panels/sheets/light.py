"""The sheet of a light: power, colour, place, shape."""

from PySide6.QtCore import Signal

from nocturne.errors import NocturneError
from nocturne.scene import arrange, edit
from nocturne.scene.document import Document
from nocturne.scene.lights import KINDS, Light, Placed, Surface, strength, with_unit
from nocturne.ui.panels.sheets.sheet import Sheet
from nocturne.ui.session import Session
from nocturne.ui.view.overlay import plain

_PORTAL = (
    "Portal: where light from sky, surroundings and domes comes in. It gives no light, and the picture stays as it is; "
    "it says where to look for light, so that a room with windows gets clean sooner."
)
UNIT_NAMES = {"W": "watts", "lm": "lumens", "cd": "candela", "nit": "nits", "lx": "lux", "x": "× nature"}


class LightSheet(Sheet):
    """A light's power, colour, place and shape."""

    measure_wanted = Signal(str)  # a portal's id

    def __init__(self, session: Session, browse) -> None:
        super().__init__(
            session,
            "lights",
            tuple(KINDS.values()),
            {
                "": ("name", "group", "on", "visible", "parent"),
                "Power": ("power", "unit", "efficacy"),
                "Colour": ("colour_from", "kelvin", "colour"),
                "Place and shape": tuple(dict.fromkeys(name for kind in KINDS.values() for name in kind.own)),
            },
            "Choose a light in the list, click one in the picture, or add one.",
        )
        self.form.editors["power"].given.connect(self._give)
        self.reading = self.text()
        self.browse = self.button("Choose a picture…", lambda: self._choose(browse))
        self.measure = self.button("Measure what it gains", self._measure)
        self.measure.setToolTip("Renders small pictures of this view with it and without it, for a few seconds.")
        self._gains: dict[str, tuple[float, tuple]] = {}  # of portals, and what the set was when they were measured

    def show_item(self, item, document):
        """Show a light with the fields its kind has."""
        self.form.set_choices("group", [(g, g) for g in document.light_groups])
        self.form.set_choices("unit", [(u, UNIT_NAMES[u]) for u in item.units])
        power = self.form.editors["power"]
        power.set_unit(item.unit)
        power.also = tuple(unit for unit in item.units if unit != item.unit)
        self.form.show_model(item)
        groups = [(thing.id, thing.name) for thing in document.things if thing.is_group]
        self.form.set_choices("parent", [("", "Nothing"), *groups])
        names = {"name", "on", *item.own} | ({"parent"} if isinstance(item, Placed) else set())
        if item.gives_light:
            names |= {"group", "power", "unit"}
        if item.unit == "W":
            names.add("efficacy")
        if item.can_be_seen and item.gives_light:
            names.add("visible")
        if item.has_own_colour:
            names.add("colour_from")
            names.add("kelvin" if item.colour_from == "kelvin" and item.kind != "environment" else "colour")
        self.form.show_only(names)
        if item.gives_light:
            self.reading.setText(_reading(item) + _hint(item))
        else:
            self.reading.setText(_PORTAL + self._gain_of(item.id, document))
        self.browse.setVisible(item.kind == "environment")
        self.measure.setVisible(not item.gives_light)

    def show_more(self, visible):
        """Show the reading with the form."""
        self.reading.setVisible(visible)
        if not visible:
            self.browse.hide()
            self.measure.hide()

    def _measure(self) -> None:
        self.measure.setEnabled(False)
        self.measure.setText("Measuring…")
        self.measure_wanted.emit(self.chosen_id(self.session.document))

    def show_gain(self, id: str, gain: float | None, document: Document | None) -> None:
        """Show what a portal was measured to gain in a document; None: it could not be measured."""
        self.measure.setEnabled(True)
        self.measure.setText("Measure what it gains")
        if gain is not None:
            self._gains[id] = gain, _measured_on(document)
            self.show_document(self.session.document)

    def _gain_of(self, id: str, document: Document) -> str:
        """Return what a portal was measured to gain, "" if nobody asked."""
        if id not in self._gains:
            return ""
        gain, on = self._gains[id]
        when = "in this view" if on == _measured_on(document) else "before the last edits"
        words = (
            f"for the same noise {gain:.1f} times fewer rays"
            if gain >= 1.05
            else "no gain, the noise comes from other light"
        )
        return f"\n\nMeasured {when}: {words}."

    def _alter(self, name, value, merge):
        if name == "parent":
            ids = tuple(light.id for light in self.several(self.session.document)) or (self.chosen_id(None),)
            self.session.edit(arrange.put_into, "lights", ids, value, label="Put into a group")
            return
        if name == "unit":
            new = [with_unit(light, value) for light in self._all() if value in light.units]
            values = {light.id: {"unit": light.unit, "power": light.power} for light in new}
            self.session.edit(self.change_each, values, label="Change unit")
            return
        if name == "power" and len({light.unit for light in self._all()}) > 1:
            self._give(self.item(self.session.document).unit, value, merge)  # the number is of the unit beside it
            return
        super()._alter(name, value, merge)

    def _all(self) -> list[Light]:
        """Return all selected lights, the main one last."""
        document = self.session.document
        return self.several(document) or [self.item(document)]

    def change(self, document, id, **values):
        """Return the document with a light changed; a sun and its sky move together."""
        return edit.alter_light(document, id, **values)

    def change_each(self, document, values):
        """Return the document with several lights changed; a unit that a kind does not have leaves it as it is."""
        for id, changes in values.items():
            light = document.find("lights", id)
            if changes.get("unit", light.unit) in light.units:
                document = self.change(document, id, **changes)
        return document

    def _give(self, unit: str, power: float, merge: object = None) -> None:
        """Give all selected lights that have a unit a power in it."""
        new = {light.id: {"unit": unit, "power": power} for light in self._all() if unit in light.units}
        self.session.edit(self.change_each, new, label="Change power", merge=merge)

    def _choose(self, browse) -> None:
        path = browse()
        if path:
            self._alter("image", path, None)


def _measured_on(document: Document) -> tuple:
    """Return what decides how much a portal gains."""
    return document.things, document.materials, document.lights, document.view


def _reading(light: Light) -> str:
    """Return what a light's power amounts to, in other words."""
    kind = light.title
    try:
        value = strength(light)
    except NocturneError:
        return kind
    if isinstance(light, Surface) or light.kind in ("dome", "environment"):
        return f"{kind}: {plain(value)} nit"
    if not light.is_infinite:
        return f"{kind}: {plain(value)} cd, that is {plain(value)} lx at 1 m and {plain(value / 4)} lx at 2 m"
    return f"{kind}: {'a factor of what nature gives' if light.unit == 'x' else 'illuminance facing it'}"


def _hint(light: Light) -> str:
    """Return advice if a light is brighter than any of its kind."""
    try:
        factor = light.too_bright_by()
    except NocturneError:
        return ""
    if factor <= 1:
        return ""
    return (
        f"\n▲ {factor:.3g} times as bright as any {light.title.lower()} there is. "
        "If the picture is too dark, open the camera instead."
    )
