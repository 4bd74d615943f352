"""Things and their meshes as they are put up."""

from dataclasses import dataclass, field

from nocturne.scene.shapes import Mesh
from nocturne.scene.thing import Thing


@dataclass
class PutUp:
    """Things and meshes; one model file for each group."""

    things: list[Thing] = field(default_factory=list)
    meshes: dict[str, Mesh] = field(default_factory=dict)
    parent: str = ""

    def group(self, name: str, place: tuple = (0, 0, 0), turn: tuple = (0, 0, 0)) -> None:
        """Put up a group; what is added after it is in it."""
        self.parent = name.lower().replace(" ", "-")
        self.things.append(Thing(id=self.parent, name=name, place=place, turn_deg=turn))

    def add(
        self,
        name: str,
        mesh: Mesh | str,
        material: str,
        place: tuple = (0, 0, 0),
        turn: tuple = (0, 0, 0),
        size: tuple = (1, 1, 1),
    ) -> None:
        """Put up a mesh, or another instance of the one that a thing of that name has."""
        id = f"{self.parent}-{name.lower().replace(' ', '-')}"
        if isinstance(mesh, str):
            key = next(t.mesh for t in self.things if t.id == f"{self.parent}-{mesh}")
        else:
            key = f"models/{self.parent}.glb#{name}"
            self.meshes[key] = mesh
        self.things.append(
            Thing(
                id=id,
                name=name,
                parent=self.parent,
                mesh=key,
                material=material,
                place=tuple(map(float, place)),
                turn_deg=tuple(map(float, turn)),
                size=tuple(map(float, size)),
            )
        )
