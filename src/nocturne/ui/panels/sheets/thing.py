"""The sheet of a thing: place, size, material."""

from nocturne.scene.thing import Thing
from nocturne.ui.panels.sheets.sheet import Sheet
from nocturne.ui.session import Session


class ThingSheet(Sheet):
    """Place, size and material of a thing."""

    def __init__(self, session: Session) -> None:
        super().__init__(
            session,
            "things",
            (Thing,),
            {"": ("name", "material", "visible"), "In the set": ("place", "turn_deg", "size")},
            "Click a thing in the picture or in the outline.",
        )
        self.facts = self.text()

    def show_item(self, item, document):
        """Show a thing with its size in metres."""
        choices = [("", "No material")] + [(m.id, m.name) for m in document.materials]
        self.form.set_choices("material", choices)
        self.form.show_model(item)
        is_group = not item.has_shape
        self.form.rows["material"].setVisible(not is_group)
        mesh = self.session.assets.shape(item)
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
