"""The sheet of a thing: its numbers, place, size, material, shading."""

from collections.abc import Callable
from functools import partial

import numpy as np
from PySide6.QtWidgets import QCheckBox

from nocturne.scene import edit, faces, placing, texturing
from nocturne.scene.cutaway import Cutaway
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.scatter import Scatter
from nocturne.scene.scattering import copies_of
from nocturne.scene.shapes import Mesh
from nocturne.scene.texturing import FIELDS
from nocturne.scene.thing import FaceMaterial, Thing
from nocturne.ui.choice import Choice
from nocturne.ui.panels.sheets.sheet import Sheet
from nocturne.ui.session import Session
from nocturne.ui.widgets.cutaway import CutawayEditor
from nocturne.ui.widgets.form import Form, change_for_each, value_for_each
from nocturne.ui.widgets.numberfield import NumberField, VectorField
from nocturne.ui.widgets.scatter import ScatterEditor

_SHADING = ("smoothing", "edge_deg", "weld_m", "turned_over", "rounding_mm", "rounding_angle_deg")


class ThingSheet(Sheet):
    """Place, size and material of a thing; of a shape that is made here, its numbers."""

    def __init__(
        self, session: Session, choice: Choice, ask_points: Callable[[], tuple | None], ask_picture: Callable[[], str]
    ) -> None:
        self.choice, self._ask_points, self._ask_picture = choice, ask_points, ask_picture
        super().__init__(
            session,
            "things",
            (Thing,),
            {
                "": ("name", "material", "visible", "locked"),
                "In the set": ("place", "turn_deg", "pivot", "size"),
                "Pictures on it": ("uv_size", "uv_turn_deg", "uv_shift"),
                "Shading": _SHADING,
            },
            "Click a thing in the picture or in the outline.",
        )
        self.measures = VectorField(
            "Length (m)",
            unit="m",
            default=(1.0, 1.0, 1.0),
            help="Exact lengths along its own axes; type 12 mm or 3 ft.",
        )
        self.measures.edited.connect(lambda value, merge: self._measure(self._fixed(value), merge))
        self.measures.committed.connect(lambda value, merge: self._measure(self._fixed(value), merge))
        self.measures.changed.connect(self._measure)
        self.in_proportion = QCheckBox("Keep its proportion")
        self.in_proportion.setToolTip("The other two lengths grow and shrink with the one that is typed")
        self.in_proportion.setChecked(True)
        size = self.form.layout().indexOf(self.form.rows["size"])
        self.form.layout().insertWidget(size + 1, self.measures)
        self.form.layout().insertWidget(size + 2, self.in_proportion)
        self.picture_width = NumberField(
            "Picture's width",
            unit="m",
            low=1e-4,
            high=1e5,
            log=True,
            label_width=104,
            help="How wide one repeat of its picture is on it, as it would be measured on the set; type 20 cm",
        )
        self.picture_width.edited.connect(lambda value, merge: self._widen(lambda _: value, merge))
        self.picture_width.committed.connect(lambda value, merge: self._widen(lambda _: value, merge))
        self.picture_width.changed.connect(self._widen)
        size = self.form.layout().indexOf(self.form.rows["uv_size"])
        self.form.layout().insertWidget(size, self.picture_width)
        self.forms: dict[str, Form] = {}
        self.sets: list[Form] = []
        self.scatter = ScatterEditor()
        self.scatter.altered.connect(self._rescatter)
        self.scatter.real_wanted.connect(lambda: self.choice.make_real())
        self.scatter.file_wanted.connect(self._read_points)
        self.scatter.picture_wanted.connect(self._choose_density)
        self.column.insertWidget(self.column.indexOf(self.form), self.scatter)
        self.cutaway = CutawayEditor()
        self.cutaway.altered.connect(self._recut)
        self.column.insertWidget(self.column.indexOf(self.form), self.cutaway)
        self.facts = self.text()

    def show_item(self, item, document):
        """Show a thing with its size in metres."""
        choices = [("", "No material")] + [(m.id, m.name) for m in document.materials]
        self.form.set_choices("material", choices)
        self.form.show_model(item)
        is_group = not item.has_shape
        self.scatter.setVisible(item.scatter is not None)
        if item.scatter is not None:
            copies = copies_of(document, self.session.assets, item)
            n = sum(len(part.matrices) for part in copies)
            triangles = sum(len(part.matrices) * len(part.mesh.triangles) for part in copies)
            told = f"{n:,} copies, {triangles:,} triangles drawn." if n else "No copies: is anything copied, and where?"
            self.scatter.show_scatter(item.scatter, document, item.id, told)
        self.cutaway.setVisible(item.cutaway is not None)
        if item.cutaway is not None:
            self.cutaway.show_cutaway(item.cutaway, document, item.id)
        names = set(self.form.rows) - ({"material", *_SHADING, *FIELDS} if is_group else set())
        names -= {"rounding_angle_deg"} if item.rounding_mm <= 0 else set()
        names -= {"edge_deg", "weld_m"} if item.smoothing == "own" else set()
        names -= {"edge_deg"} if item.smoothing in ("flat", "smooth") else set()
        self.form.show_only(names)
        mesh = self.session.assets.shape(item)
        width = texturing.picture_width(document, self.session.assets, item.id) if mesh is not None else None
        self.picture_width.setVisible(width is not None)
        if width is not None:
            several = [texturing.picture_width(document, self.session.assets, t.id) for t in self.several(document)]
            _show(self.picture_width, [w for w in reversed(several) if w is not None] or [width])
        self._show_form(item)
        self._show_sets(item, mesh, choices)
        measures = placing.measures(document, self.session.assets, item.id)
        for widget in (self.measures, self.in_proportion):
            widget.setVisible(measures is not None)
        if measures is not None:
            several = [placing.measures(document, self.session.assets, t.id) for t in self.several(document)]
            _show(self.measures, [m for m in reversed(several) if m is not None] or [measures])
        if mesh is not None:
            made = f"\n{item.mesh}" if item.mesh else ""
            self.facts.setText(f"{len(mesh.triangles):,} triangles{made}")
        else:
            n = len(list(document.children(item.id)))
            words = f"A group of {n} thing{'' if n == 1 else 's'}." if item.is_group else ""
            self.facts.setText(words if is_group else "Its model could not be loaded.")

    def _show_form(self, item: Thing) -> None:
        kind = item.form.kind if item.form is not None else ""
        if kind and kind not in self.forms:
            form = self.forms[kind] = Form((FORMS[kind],), {FORMS[kind].title: FORMS[kind].own})
            take = partial(self._reshape, form)
            form.edited.connect(lambda name, value, merge: take(name, value_for_each(form, name, value), merge))
            form.committed.connect(lambda name, value, merge: take(name, value_for_each(form, name, value), merge))
            form.changed.connect(lambda name, change, merge: take(name, change_for_each(form, name, change), merge))
            self.column.insertWidget(self.column.indexOf(self.form), form)
        for name, form in self.forms.items():
            form.setVisible(name == kind)
        if kind:
            self.forms[kind].show_model(item.form)
            several = [t.form for t in self._of_form(item)]
            self.forms[kind].show_several(several)

    def _of_form(self, item: Thing) -> list[Thing]:
        """Return all selected shapes of a thing's kind, itself last."""
        several = self.several(self.session.document) or [item]
        return [t for t in several if t.form is not None and t.form.kind == item.form.kind]

    def change(self, document, id, **values):
        """Return the document with a field changed; a pivot moves nothing but itself."""
        if "pivot" in values:
            return placing.with_pivot(document, id, values["pivot"])
        return super().change(document, id, **values)

    def change_each(self, document, values):
        """Return the document with a field of several things changed."""
        if all("pivot" in each for each in values.values()):
            for id, each in values.items():
                document = placing.with_pivot(document, id, each["pivot"])
            return document
        return super().change_each(document, values)

    def _reshape(self, form: Form, name: str, new: Callable[[object], object], merge: object) -> None:
        """Change a number of the shape, of all selected ones of its kind."""
        several = self.as_begun(self._of_form(self.item(self.session.document)), merge)
        values = {t.id: {"form": edit.changed(t.form, **{name: new(getattr(t.form, name))})} for t in several}
        label = f"Change {form._about[name].label.lower()}"
        self.session.edit(edit.alter_each, "things", values, label=label, merge=merge)

    def _rescatter(self, values: dict, merge: object) -> None:
        self._alter_own("scatter", values, merge)

    def _recut(self, values: dict, merge: object) -> None:
        self._alter_own("cutaway", values, merge)

    def _alter_own(self, field: str, values: dict, merge: object) -> None:
        """Change numbers of the scatters, or cutaways, of all selected things that have one."""
        several = self.several(self.session.document) or [self.item(self.session.document)]
        several = [t for t in several if getattr(t, field) is not None]
        new = {t.id: {field: edit.changed(getattr(t, field), **values)} for t in several}
        kind, title = {"scatter": (Scatter, "Copies"), "cutaway": (Cutaway, "What is cut")}[field]
        words = (kind.model_fields[next(iter(values))].title or title).lower()
        self.session.edit(edit.alter_each, "things", new, label=f"{field.capitalize()}: {words}", merge=merge)

    def _choose_density(self) -> None:
        path = self._ask_picture()
        if path:
            self._rescatter({"density": path}, None)

    def _read_points(self) -> None:
        points = self._ask_points()
        if points:
            self._rescatter({"points": points, "on": ""}, None)

    def _fixed(self, value: tuple) -> Callable[[float], float]:
        length = value[self.measures.axis]
        return lambda _: length

    def _measure(self, change: Callable[[float], float], merge: object) -> None:
        """Change the length along an axis of all that are selected, by a function of each one's."""
        document, assets = self.session.document, self.session.assets
        axis, in_proportion = self.measures.axis, self.in_proportion.isChecked()
        items = self.as_begun(self.several(document) or [self.item(document)], merge)

        def sized(d):
            d = edit.alter_each(d, "things", {t.id: {"size": t.size} for t in items})
            for item in items:
                now = placing.measures(d, assets, item.id)
                if now is not None or len(items) == 1:
                    length = change(float(now[axis])) if now is not None else 0.0
                    d = placing.measured(d, assets, item.id, axis, length, in_proportion=in_proportion)
            return d

        self.session.edit(sized, label="Size it exactly", merge=merge)

    def _widen(self, change: Callable[[float], float], merge: object) -> None:
        """Change how wide pictures lie on all that are selected, by a function of each one's width."""
        document, assets = self.session.document, self.session.assets
        items = self.as_begun(self.several(document) or [self.item(document)], merge)

        def widened(d):
            d = edit.alter_each(d, "things", {t.id: {"uv_size": t.uv_size} for t in items})
            for item in items:
                now = texturing.picture_width(d, assets, item.id)
                if now is not None:
                    d = texturing.with_picture_width(d, assets, (item.id,), change(now))
            return d

        self.session.edit(widened, label="Size pictures", merge=merge)

    def _show_sets(self, item: Thing, mesh: Mesh | None, choices: list[tuple[str, str]]) -> None:
        """Show a material for each set of faces that the mesh names, or that was chosen here."""
        rows = _rows_of(item, mesh)
        while len(self.sets) < len(rows):
            self.sets.append(self._make_set_form(len(self.sets)))
        for form in self.sets[len(rows) :]:
            form.hide()
        for (label, material), form in zip(rows, self.sets):
            form.set_choices("material", choices)
            form.show_model(Thing(id="set", material=material))
            form.rows["material"].layout().itemAt(0).widget().setText(label)
            form.show()

    def _make_set_form(self, k: int) -> Form:
        form = Form((Thing,), {"": ("material",)})
        form.committed.connect(lambda _, value, merge: self._dress(k, value))
        form.layout().setContentsMargins(0, 0, 0, 0)
        self.form.layout().insertWidget(self.form.layout().indexOf(self.form.rows["material"]) + 1 + k, form)
        return form

    def _dress(self, k: int, material: str) -> None:
        item = self.item(self.session.document)
        mesh = self.session.assets.shape(item)
        self.session.edit(
            edit.alter, "things", item.id, faces=_dressed(item, mesh, k, material), label="Give faces a material"
        )

    def show_more(self, visible):
        """Show the facts with the form."""
        self.facts.setVisible(visible)
        if not visible:
            for form in (*self.forms.values(), self.scatter, self.cutaway):
                form.hide()


def _show(field: NumberField | VectorField, values: list) -> None:
    """Show what several things have in a field, the main one's first: one value, or that they differ."""
    values = [np.round(v, 12).tolist() for v in values]
    values = [
        tuple(float(f"{v:.6g}") for v in value) if isinstance(value, list) else float(f"{value:.6g}")
        for value in values
    ]
    if isinstance(field, VectorField):
        field.set_for_several(len(values) > 1)
    else:
        field.is_for_several = len(values) > 1
    if len(set(values)) > 1:
        field.show_differing(tuple(values))
    else:
        field.show_value(values[0])


def _named_sets(mesh: Mesh | None) -> tuple[str, ...]:
    return mesh.set_names if mesh is not None and len(mesh.set_names) > 1 else ()


def _rows_of(item: Thing, mesh: Mesh | None) -> list[tuple[str, str]]:
    """Return (label, material) of each set of faces: those that the mesh names, then those that were chosen here."""
    by_set = {face.set: face.material for face in item.faces if face.set}
    rows = [(name, by_set.get(name, item.material)) for name in _named_sets(mesh)]
    for face in item.faces:
        if not face.set and mesh is not None:
            rows.append((f"{int(faces.mask(face, mesh).sum()):,} faces", face.material))
    return rows


def _dressed(item: Thing, mesh: Mesh, k: int, material: str) -> tuple[FaceMaterial, ...]:
    """Return the faces' materials with that of one row changed."""
    names = _named_sets(mesh)
    own = [face for face in item.faces if not face.set]
    by_set = {face.set: face for face in item.faces if face.set}
    if k < len(names):
        by_set[names[k]] = FaceMaterial(set=names[k], material=material)
    else:
        own[k - len(names)] = edit.changed(own[k - len(names)], material=material)
    return (*(by_set[name] for name in names if name in by_set), *own)
