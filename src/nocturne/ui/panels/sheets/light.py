"""The sheet of a light: power, colour, place, shape."""

from nocturne.errors import NocturneError
from nocturne.scene import edit
from nocturne.scene.lights import KINDS, Light, Surface, strength, with_unit
from nocturne.ui.panels.sheets.sheet import Sheet
from nocturne.ui.session import Session
from nocturne.ui.view.overlay import plain

UNIT_NAMES = {"W": "watts", "lm": "lumens", "cd": "candela", "nit": "nits", "lx": "lux", "x": "× nature"}


class LightSheet(Sheet):
    """A light's power, colour, place and shape."""

    def __init__(self, session: Session, browse) -> None:
        super().__init__(
            session,
            "lights",
            tuple(KINDS.values()),
            {
                "": ("name", "group", "on", "visible"),
                "Power": ("power", "unit", "efficacy"),
                "Colour": ("colour_from", "kelvin", "colour"),
                "Place and shape": tuple(dict.fromkeys(name for kind in KINDS.values() for name in kind.own)),
            },
            "Choose a light in the list, click one in the picture, or add one.",
        )
        self.form.editors["power"].given.connect(self._give)
        self.reading = self.text()
        self.browse = self.button("Choose a picture…", lambda: self._choose(browse))

    def show_item(self, item, document):
        """Show a light with the fields its kind has."""
        self.form.set_choices("group", [(g, g) for g in document.light_groups])
        self.form.set_choices("unit", [(u, UNIT_NAMES[u]) for u in item.units])
        power = self.form.editors["power"]
        power.set_unit(item.unit)
        power.also = tuple(unit for unit in item.units if unit != item.unit)
        self.form.show_model(item)
        names = {"name", "group", "on", "power", "unit", *item.own}
        if item.unit == "W":
            names.add("efficacy")
        if item.can_be_seen:
            names.add("visible")
        if item.has_own_colour:
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

    def change(self, document, id, **values):
        """Return the document with a light changed; a sun and its sky move together."""
        return edit.alter_light(document, id, **values)

    def _give(self, unit: str, power: float) -> None:
        id = self.chosen_id(self.session.document)
        self.session.edit(edit.alter, "lights", id, unit=unit, power=power, label="Change power")

    def _choose(self, browse) -> None:
        path = browse()
        if path:
            self._alter("image", path, None)


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
