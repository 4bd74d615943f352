"""Sets of pictures that are chosen or dropped: they drive a material, or make one for a thing."""

from collections.abc import Callable, Sequence
from pathlib import Path

from nocturne.scene import edit
from nocturne.scene.document import Document, free_id, free_name
from nocturne.scene.materials import Material
from nocturne.scene.picturesets import PictureSet, sets_of, wired
from nocturne.ui.numbers import Numbers
from nocturne.ui.session import Session


class Wiring:
    """Lets pictures of one stuff drive a material, told apart by how their names end."""

    def __init__(
        self, session: Session, ask: Callable[[], list[str]], named: Callable[[Path], str], folder: Callable[[], Path]
    ) -> None:
        self.session, self._ask, self._named = session, ask, named
        self.numbers = Numbers(session, folder)

    def ask(self, material: str) -> None:
        """Ask for pictures, and let them drive a material."""
        names = self._ask()
        if names:
            self.wire(material, [Path(name) for name in names])

    def wire(self, material: str, paths: Sequence[Path]) -> None:
        """Let pictures drive a material."""
        item, found = self.session.document.find("materials", material), self._found(paths)
        if item is None or found is None:
            return
        new, told = wired(item, found, lambda path: self._named(Path(path)))
        self.session.edit(edit.put, "materials", new, label="Wire pictures")
        self._tell(found, told)

    def clothe(self, paths: Sequence[Path], thing: str) -> None:
        """Make a material of pictures, and give it to a thing, if there is one."""
        found = self._found(paths)
        if found is None:
            return
        document = self.session.document
        plain = Material(
            id=free_id(document, "materials", "pictures"), name=free_name(document, "materials", found.name)
        )
        new, told = wired(plain, found, lambda path: self._named(Path(path)))

        def clothed(document: Document) -> Document:
            document = edit.put(document, "materials", new)
            if document.find("things", thing) is None:
                return document
            return edit.alter(document, "things", thing, material=new.id, faces=())

        self.session.edit(clothed, label="Material of pictures")
        self.session.choose("materials", new.id)
        self._tell(found, told)

    def _found(self, paths: Sequence[Path]) -> PictureSet | None:
        """Return the set that pictures are, None if they are none, or more than one: then that is said."""
        sets, unknown = sets_of(dict.fromkeys(self.numbers.as_set(path.as_posix()) for path in paths))
        if len(sets) == 1:
            return sets[0]
        if sets:
            names = ", ".join(f"“{found.name}”" for found in sets[:4])
            self.session.said.emit(f"These are pictures of several stuffs: {names}. Take those of one at a time.", True)
        else:
            name = Path(unknown[0]).name if unknown else "It"
            words = f"{name} does not say what it holds: names end in color, roughness, normal, height, metalness, ao…"
            self.session.said.emit(words, True)
        return None

    def _tell(self, found: PictureSet, told: list[str]) -> None:
        n = len(found.pictures) - len(told)
        words = f"{n} picture{'' if n == 1 else 's'} of “{found.name}” wired."
        if told:
            words += f" {', '.join(told)}: opacity has no equal here yet."
        self.session.said.emit(words, bool(told))
