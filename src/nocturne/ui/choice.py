"""What is done with the chosen things and lights, and how they are chosen in the picture."""

from collections.abc import Callable, Mapping
from typing import Any

import numpy as np

from nocturne.engine.pick import Hit
from nocturne.errors import NocturneError
from nocturne.scene import arrange, edit, grading, looking, navigate, placing, texturing
from nocturne.scene.bringing import first_set
from nocturne.scene.document import Document, free_group, free_id, free_name
from nocturne.scene.faces import materials_of, wearing, wearing_instead
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.forms import form_mesh
from nocturne.scene.forms.room import Room
from nocturne.scene.lights import KINDS, Placed, Sunlike, Turned, make_light
from nocturne.scene.materials import Material
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.thing import Thing
from nocturne.ui.session import Session

_APART = 0.6  # metres between lights that are added one after another
_TO_FACES = "Give to faces"


class Choice:
    """Edits of what is chosen; each is one undo step."""

    def __init__(self, session: Session, parts: Mapping[str, str]) -> None:
        """Work on a session; `parts` says which part of the document each stage is about."""
        self.session, self._parts = session, parts
        self.held = ""  # the material that was picked up
        self.held_from = ""  # the thing it was picked up from
        self.middle: Callable[[], np.ndarray | None] = lambda: None  # what lies under the middle of the picture
        self._hidden_by_only: tuple[str, ...] = ()
        # The document with a material on chosen faces of one of some things, None if none of theirs are chosen.
        self.on_faces: Callable[[Document, str, tuple[str, ...]], Document | None] = lambda document, material, ids: (
            None
        )

    @property
    def document(self) -> Document:
        """Return the document as it is."""
        return self.session.document

    def part(self) -> str:
        """Return what the choice is of in this stage."""
        return self._parts[self.session.stage]

    # ---- choosing --------------------------------------------------------------------------------------------------

    def pick(self, hit: Hit | None, how: str) -> None:
        """Choose what was clicked: one, one more, or all of its material."""
        s = self.session
        if hit is None:
            if how == "one":
                s.choose("things", "")
        elif not hit.is_lamp and arrange.locked(self.document, (hit.id,)):
            s.said.emit(f"“{hit.name}” is locked.", False)
        elif hit.is_lamp:
            s.choose("lights", hit.id)
            s.go_to("light")
        elif how == "more":
            chosen = s.all_chosen("things")
            s.choose_many("things", tuple(i for i in chosen if i != hit.id) if hit.id in chosen else (*chosen, hit.id))
        else:
            s.choose("things", hit.id)
            if how == "material":
                self.same_material()

    def box(self, ids: tuple[str, ...]) -> None:
        """Choose the things of a box."""
        held = arrange.locked(self.document, ids)
        ids = tuple(id for id in ids if id not in held)
        self.session.choose_many("things", ids)
        n = len(ids)
        self.session.said.emit(f"{n} thing{'' if n == 1 else 's'} chosen." if n else "Nothing lies in that box.", False)

    def same_material(self) -> None:
        """Choose everything that has the material of the chosen thing."""
        thing = self.document.find("things", self.session.chosen.get("things", ""))
        worn = materials_of(thing) if thing is not None else ()
        if not worn:
            self.session.said.emit("The chosen thing has no material.", True)
            return
        same = [t.id for t in wearing(self.document, worn[0]) if t.id != thing.id]
        self.session.choose_many("things", (*same, thing.id))
        name = self.document.find("materials", worn[0]).name
        self.session.said.emit(f"{len(same) + 1} things of “{name}” chosen.", False)

    # ---- editing ---------------------------------------------------------------------------------------------------

    def copy(self) -> None:
        """Copy what is chosen and choose the copies."""
        part = self.part()
        if part == "steps":
            self._with_step(grading.copy_step)
            return
        document, new = edit.copied(self.document, part, self._ids(part))
        if new:
            self.session.push(document, "Copy")
            self.session.choose_many(part, new)

    def remove(self) -> None:
        """Remove what is chosen."""
        part = self.part()
        if part == "steps":
            self._with_step(grading.remove_step)
            return
        ids = self._free_ids() if part == "things" else self._ids(part)
        if ids:
            self.session.edit(edit.remove, part, *ids, label="Remove")

    def _with_step(self, change) -> None:
        id = self.session.chosen.get("steps", "")
        if self.document.finish.step(id) is None:
            return
        made = change(self.document, id)
        document, new = made if isinstance(made, tuple) else (made, "")
        self.session.push(document, "Copy a step" if new else "Remove a step")
        if new:
            self.session.choose("steps", new)

    def _ids(self, part: str) -> tuple[str, ...]:
        if part == "views":
            return (self.document.view.id,)
        if part == "qualities":
            return (self.document.quality.id,)
        return self.session.all_chosen(part)

    def group(self) -> None:
        """Put the chosen things into a new group."""
        ids = self._free_ids()
        if ids:
            self._arranged(arrange.grouped(self.document, ids), "Group")

    def ungroup(self) -> None:
        """Take what is in the chosen groups out of them."""
        groups = tuple(id for id in self._free_ids() if self.document.find("things", id).is_group)
        if not groups:
            self.session.said.emit("Choose a group first.", True)
            return
        self._arranged(arrange.ungrouped(self.document, groups), "Ungroup")

    def _arranged(self, made: tuple[Document, object], label: str) -> None:
        document, new = made
        self.session.push(document, label)
        self.session.choose_many("things", new if isinstance(new, tuple) else (new,))

    def _free_ids(self) -> tuple[str, ...]:
        """Return the chosen things that are not locked; say so if some are."""
        ids = self.session.all_chosen("things")
        held = arrange.locked(self.document, ids)
        if held:
            names = ", ".join(f"“{self.document.find('things', id).name}”" for id in sorted(held)[:3])
            self.session.said.emit(f"{names} {'is' if len(held) == 1 else 'are'} locked.", True)
        return tuple(id for id in ids if id not in held)

    def lock(self) -> None:
        """Lock the chosen things, or free them if the last one is locked."""
        ids = self.session.all_chosen("things")
        if ids:
            locked = not self.document.find("things", ids[-1]).locked
            label = "Lock" if locked else "Unlock"
            self.session.edit(edit.alter_many, "things", ids, label=label, locked=locked)

    def only(self) -> None:
        """Hide all but the chosen things; again: show what that has hidden."""
        back = tuple(id for id in self._hidden_by_only if self.document.find("things", id) is not None)
        if back:
            self._hidden_by_only = ()
            self.session.edit(edit.alter_many, "things", back, label="Show all again", visible=True)
            return
        ids = self.session.all_chosen("things")
        hidden = arrange.hidden_for(self.document, ids) if ids else ()
        if not hidden:
            self.session.said.emit("Choose what is to be seen alone.", True)
            return
        self._hidden_by_only = hidden
        self.session.edit(edit.alter_many, "things", hidden, label="Only this", visible=False)
        self.session.said.emit(f"{len(hidden)} hidden. The same command shows them again.", False)

    def add_form(self, kind: str) -> None:
        """Add a shape that is made here, on what is under the middle of the picture."""
        document, made = self.document, FORMS[kind]()
        at = self.middle()
        low, high = form_mesh(made).bounds
        place = (0.0, 0.0, 0.0)
        if at is not None and document.things:
            place = tuple(round(float(v), 4) + 0.0 for v in (at[0], at[1], at[2] - low[2]))
        thing = Thing(
            id=free_id(document, "things", "thing"),
            name=free_name(document, "things", made.title),
            form=made,
            place=place,
        )
        is_first = not document.things and not document.lights
        document = edit.put(document, "things", thing)
        if is_first:
            room = made if isinstance(made, Room) else None
            document = first_set(document, low, high, with_ground=kind not in ("ground", "backdrop", "room"), room=room)
        self.session.push(document, f"Add a {made.title.lower()}")
        self.session.choose("things", thing.id)

    def scatter(self, *, on_last: bool = False) -> None:
        """Scatter the chosen things over a grid; on_last: all but the last over the surface of that one."""
        document, ids = self.document, self.session.all_chosen("things")
        if len(ids) < (2 if on_last else 1):
            words = (
                "Choose what is copied, and last the thing to copy it onto." if on_last else "Choose what is copied."
            )
            self.session.said.emit(words, True)
            return
        sources = tuple(Source(thing=id) for id in (ids[:-1] if on_last else ids))
        values: dict = {"over": "surface", "on": ids[-1]}
        if not on_last:
            boxes = [navigate.bounds_of(document, self.session.assets, id) for id in ids]
            widths = [float(np.ptp(np.stack(box)[:, :2], axis=0).max()) for box in boxes if box is not None]
            values = {"spacing": (round(1.5 * max(widths, default=1.0), 4) or 1.0,) * 3}
        first = document.find("things", sources[0].thing)
        thing = Thing(
            id=free_id(document, "things", "thing"),
            name=free_name(document, "things", f"{first.name} scattered"),
            scatter=edit.changed(Scatter(sources=sources), **values),
        )
        self.session.push(edit.put(document, "things", thing), "Scatter")
        self.session.choose("things", thing.id)

    def cut_away(self, kind: str) -> None:
        """Open the chosen things with a box, a ball or a plane on the side that is seen, and choose what cuts them."""
        ids = tuple(id for id in self.session.all_chosen("things") if self.document.find("things", id).cutaway is None)
        try:
            document, id = looking.cut_away(self.document, self.session.assets, ids, kind)
        except NocturneError as error:
            self.session.said.emit(str(error), True)
            return
        self.session.push(document, "Cut away")
        self.session.choose("things", id)

    def make_real(self) -> None:
        """Make a thing of each copy of the chosen scatter."""
        document, id = self.document, self.session.chosen.get("things", "")
        thing = document.find("things", id)
        if thing is None or thing.scatter is None:
            self.session.said.emit("Choose a scatter first.", True)
            return
        try:
            made, n = arrange.scatter_made_real(document, self.session.assets, id)
        except NocturneError as error:
            self.session.said.emit(str(error), True)
            return
        self.session.push(made, "Make the copies real")
        self.session.said.emit(f"{n:,} things made.", False)

    def hide(self) -> None:
        """Hide the chosen things, or show them if they are hidden."""
        ids = self.session.all_chosen("things")
        if not ids:
            return
        visible = not self.document.find("things", ids[-1]).visible

        label = "Show" if visible else "Hide"
        self.session.edit(edit.alter_many, "things", ids, label=label, visible=visible)

    def drop(self) -> None:
        """Put the chosen things on the floor."""

        def dropped(document: Document) -> Document:
            for id in placing.tops(document, self.session.all_chosen("things")):
                document = placing.on_floor(document, self.session.assets, id)
            return document

        self.session.edit(dropped, label="Put on the floor")

    def align(self, axis: int, side: int) -> None:
        """Line the chosen things up with the last one."""
        ids = self._free_ids()
        if len(ids) < 2:
            self.session.said.emit("Choose two things or more; they line up with the last one.", True)
            return
        self.session.edit(placing.aligned, self.session.assets, ids, axis=axis, side=side, label="Align")

    def distribute(self, axis: int) -> None:
        """Give the chosen things equal gaps."""
        ids = self._free_ids()
        if len(ids) < 3:
            self.session.said.emit("Choose three things or more.", True)
            return
        self.session.edit(placing.distributed, self.session.assets, ids, axis=axis, label="Distribute")

    def mirror(self, axis: int) -> None:
        """Mirror the chosen things about their own middle."""
        self.session.edit(placing.mirrored, self.session.assets, self._free_ids(), axis=axis, label="Mirror")

    def pivot(self, where: str) -> None:
        """Put the pivots of the chosen things to their "middle", their "floor" or back to their "origin"."""
        self.session.edit(placing.pivoted_to, self.session.assets, self._free_ids(), where=where, label="Set the pivot")

    def turn_over(self) -> None:
        """Turn the faces of the chosen things to the other side."""
        ids = self._shaped(self.session.all_chosen("things"))
        values = {id: {"turned_over": not self.document.find("things", id).turned_over} for id in ids}
        self.session.edit(edit.alter_each, "things", values, label="Turn faces over")

    def array(self, how: Callable[..., tuple[Document, tuple[str, ...]]], *, makes_unique: bool = False) -> None:
        """Add copies of the chosen things; how: makes them of a document and what is copied."""
        ids = self._free_ids()
        if not ids:
            self.session.said.emit("Choose things that are not locked first.", True)
            return
        try:
            document, new = how(self.document, ids)
        except NocturneError as error:
            self.session.said.emit(str(error), True)
            return
        if makes_unique:
            document, _ = _with_own_materials(document, new)
        self.session.push(document, "Array")
        self.session.choose_many("things", (*self.session.all_chosen("things"), *new))

    def make_unique(self) -> None:
        """Give each chosen thing materials of its own, so that changing them changes no other thing."""
        document, made = _with_own_materials(self.document, self.session.all_chosen("things"))
        self.session.push(document, "Make materials unique")
        self.session.said.emit(f"{made} material{'' if made == 1 else 's'} copied.", False)

    def replace_material(self) -> None:
        """Give the material that was picked up to all that wear the chosen thing's, wherever they wear it."""
        old = self.worn_by(self.session.chosen.get("things", ""))
        if self.document.find("materials", self.held) is None or not old:
            self.session.said.emit(
                "Pick up a material first, with Ctrl+Alt+C, then choose a thing that has another.", True
            )
            return
        self.give_instead(self.held, old)

    def worn_by(self, id: str) -> str:
        """Return the id of the material that a thing wears first of all, "" if none."""
        thing = self.document.find("things", id)
        worn = materials_of(thing) if thing is not None else ()
        return worn[0] if worn else ""

    def give_instead(self, material: str, old: str) -> None:
        """Give a material to all that wear another one, wherever they wear it."""
        document, label = self.with_instead(self.document, material, old)
        n = len(wearing(self.document, old))
        self.session.push(document, label)
        self.session.said.emit(f"{n} thing{'' if n == 1 else 's'} changed.", False)

    def with_instead(self, document: Document, material: str, old: str) -> tuple[Document, str]:
        """Return a document in which all that wear one material wear another, and what is done with it."""
        return wearing_instead(document, old, material), "Replace a material by"

    def bring_into_view(self) -> None:
        """Move the view so that what is chosen fills it."""
        document, boxes = self.document, []
        for id in self.session.all_chosen("things"):
            box = navigate.bounds_of(document, self.session.assets, id)
            if box is not None:
                boxes.append(box)
        if not boxes and self.session.all_chosen("lights"):
            at = placing.centre(document, "lights", self.session.chosen["lights"])
            if at is not None:
                boxes.append((at - 0.4, at + 0.4))
        if boxes:
            low, high = np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)
            view = navigate.bring_into_view(document.view, low, high)
            self.session.edit(edit.put, "views", view, label="Bring into view")

    # ---- materials -------------------------------------------------------------------------------------------------

    def add_material(self) -> None:
        """Add a material, and give it to the chosen thing if that has none."""
        document = self.document
        material = Material(
            id=free_id(document, "materials", "material"), name=free_name(document, "materials", "New material")
        )
        document = edit.put(document, "materials", material)
        thing = document.find("things", self.session.chosen.get("things", ""))
        if thing is not None and thing.has_shape and not materials_of(thing):
            document = edit.alter(document, "things", thing.id, material=material.id)
        self.session.push(document, "Add a material")
        self.session.choose("materials", material.id)

    def pick_up(self) -> None:
        """Pick up the material of the chosen thing."""
        thing = self.document.find("things", self.session.chosen.get("things", ""))
        worn = materials_of(thing) if thing is not None else ()
        material = self.document.find("materials", worn[0]) if worn else None
        if material is None:
            self.session.said.emit("The chosen thing has no material to pick up.", True)
            return
        self.held, self.held_from = material.id, thing.id
        self.session.said.emit(f"Picked up “{material.name}”. Choose a thing and give it, with Ctrl+Alt+V.", False)

    def give(self) -> None:
        """Give the material that was picked up to what is chosen."""
        self.give_to(self.held, self.session.all_chosen("things"))

    def give_placing(self) -> None:
        """Let pictures lie on the chosen things as on the one that a material was picked up from."""
        ids = self.session.all_chosen("things")
        if self.document.find("things", self.held_from) is None or not ids:
            self.session.said.emit("Pick up a material first, with Ctrl+Alt+C; its placing comes with it.", True)
            return
        self.session.edit(texturing.given, self.held_from, self._shaped(ids), label="Give a picture's placing")

    def turn_pictures(self) -> None:
        """Turn the pictures on the chosen things by a quarter."""
        ids = self._shaped(self.session.all_chosen("things"))
        self.session.edit(texturing.turned, ids, 90.0, label="Turn pictures")

    def fit_pictures(self) -> None:
        """Make pictures as large as the chosen things."""
        ids = self._shaped(self.session.all_chosen("things"))
        self.session.edit(texturing.fitted, self.session.assets, ids, label="Fit pictures")

    def _shaped(self, ids: tuple[str, ...]) -> tuple[str, ...]:
        """Return things with a shape, those in groups too."""
        wanted = self.document.with_members(ids)
        return tuple(thing.id for thing in self.document.things if thing.id in wanted and thing.has_shape)

    def give_to(self, material: str, ids: tuple[str, ...]) -> None:
        """Give a material to things, and to everything in groups among them; to chosen faces of one of them instead."""
        document = self.document
        found = document.find("materials", material)
        if found is None:
            self.session.said.emit("Pick up a material first, with Ctrl+Alt+C.", True)
            return
        document, label = self.with_given(document, material, ids)
        self.session.push(document, f"{label} “{found.name}”")
        n = len(self._shaped(ids))
        to = "the chosen faces" if label == _TO_FACES else f"{n} thing{'' if n == 1 else 's'}"
        self.session.said.emit(f"“{found.name}” given to {to}.", False)

    def with_given(self, document: Document, material: str, ids: tuple[str, ...]) -> tuple[Document, str]:
        """Return a document in which things wear a material, or their chosen faces, and what is done with it."""
        on_faces = self.on_faces(document, material, ids)
        if on_faces is not None:
            return on_faces, _TO_FACES
        return edit.alter_many(document, "things", self._shaped(ids), material=material, faces=()), "Give"

    # ---- lights and views ------------------------------------------------------------------------------------------

    def light_by_picture(self, image: str) -> None:
        """Have the chosen environment, or the only one, shine as a picture does; without one, add it."""
        there = [light for light in self.document.lights if light.kind == "environment"]
        chosen = [light for light in there if light.id == self.session.chosen.get("lights", "")]
        light = (chosen or there)[0] if chosen or len(there) == 1 else None
        if light is None:
            self.add_light("environment", image=image)
            return
        self.session.edit(edit.alter_light, light.id, label="Environment", image=image)
        self.session.choose("lights", light.id)

    def add_light(self, kind: str, **values: Any) -> None:
        """Add a light of a kind in front of the camera; values: of its own fields."""
        document = self.document
        view = document.view
        at = self._free_place()
        title = KINDS[kind].title
        power, unit = KINDS[kind].usual
        light = make_light(
            kind=kind,
            id=free_id(document, "lights", "light"),
            name=free_name(document, "lights", title),
            group=free_group(document, free_name(document, "lights", title).lower())
            if KINDS[kind].gives_light
            else document.light_groups[0],
            power=power,
            unit=unit,
            **values,
            **({"place": at} if issubclass(KINDS[kind], Placed) else {}),
        )
        twin = next((li for li in document.lights if isinstance(li, Sunlike) and li.kind != kind), None)
        if twin is not None and isinstance(light, Sunlike):
            # They stand where the other one does; `edit.alter_light` keeps it so.
            same = ("azimuth_deg", "elevation_deg", "turbidity")
            light = edit.changed(light, **{name: getattr(twin, name) for name in same})
        if isinstance(light, Turned):
            # What comes in through a portal goes to the camera, what a lamp gives to what the camera sees.
            light = placing.aimed(light, np.array(view.target if light.gives_light else view.eye))
        self.session.push(edit.put(document, "lights", light), f"Add {title.lower()}")
        self.session.choose("lights", light.id)
        self.session.go_to("light")

    def _free_place(self) -> tuple[float, ...]:
        """Return where a light may stand before the camera, beside those that stand there."""
        view = self.document.view
        right, up, ahead = navigate.axes(view)
        at = np.array(view.eye, float) + 1.5 * ahead + 0.5 * up
        taken = [np.array(light.place, float) for light in self.document.lights if isinstance(light, Placed)]
        while any(np.linalg.norm(place - at) < _APART / 2 for place in taken):
            at = at + _APART * right
        return tuple(round(float(v), 3) for v in at)

    def keep_view(self) -> None:
        """Keep a copy of the view as it is."""
        document, id = edit.duplicate(self.document, "views", self.document.view.id)
        self.session.push(edit.changed(document, active_view=id), "Keep this view")


def _with_own_materials(document: Document, ids: tuple[str, ...]) -> tuple[Document, int]:
    """Return the document with materials of their own for things that share them, and how many were made."""
    made = 0
    for id in ids:
        for material in materials_of(document.find("things", id)):
            if len(wearing(document, material)) > 1:
                document, new = edit.duplicate(document, "materials", material)
                thing = document.find("things", id)
                values = {
                    "material": new if thing.material == material else thing.material,
                    "faces": tuple(edit.changed(f, material=new) if f.material == material else f for f in thing.faces),
                }
                document, made = edit.alter(document, "things", id, **values), made + 1
    return document, made
