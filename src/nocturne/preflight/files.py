"""Files that are missing, and pictures that are read in the wrong way."""

import os
from collections.abc import Iterator
from pathlib import Path

from nocturne.io.paths import files_of, is_file
from nocturne.lettering import faces
from nocturne.preflight.findings import Finding, Mend
from nocturne.scene import edit, grading
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document
from nocturne.scene.files import references, split
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Lettering, Picture, Step, every, replaced

_MOST_FILES = 20_000  # looked at when a missing file is searched for


def _found_by_name(folder: Path) -> dict[str, str]:
    """Return files under a folder by their name in lower case, as paths relative to it; only so many are looked at."""
    found: dict[str, str] = {}
    n = 0
    for base, folders, names in os.walk(folder):
        folders[:] = sorted(f for f in folders if not f.startswith(".") and not f.endswith(".proofs"))
        for name in names:
            n += 1
            if n > _MOST_FILES:
                return found
            found.setdefault(name.lower(), os.path.relpath(os.path.join(base, name), folder))
    return found


def _pictures_of(material: Material) -> list[Picture]:
    return [step for step in every(material.steps) if isinstance(step, Picture)]


def with_step(document: Document, material: Material, old: Step, new: Step | None) -> Document:
    """Return the document with a step of a material exchanged, or left out."""
    item = document.find("materials", material.id)
    if item is None:
        return document
    return edit.alter(document, "materials", material.id, steps=replaced(item.steps, old, new))


def missing_files(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield models, pictures and tables that are not there."""
    by_name: dict[str, str] | None = None

    def elsewhere(path: str) -> str:
        nonlocal by_name
        by_name = _found_by_name(folder) if by_name is None else by_name
        return Path(by_name.get(Path(path).name.lower(), "")).as_posix() if Path(path).name.lower() in by_name else ""

    gone = {t.mesh.partition("#")[0] for t in document.things if t.mesh}
    for file in sorted(f for f in gone if not is_file(folder / f)):
        things = [t for t in document.things if t.mesh.partition("#")[0] == file]
        mends = []
        other = elsewhere(file)
        if other:
            mends.append(Mend(f"Take {other}", lambda d, f=file, o=other: _remeshed(d, f, o), loads_files=True))
        mends.append(Mend("Hide what needs it", lambda d, ids=tuple(t.id for t in things): _hidden(d, ids)))
        n = len(things)
        words = f"The model {file} is missing; {n} thing{' needs' if n == 1 else 's need'} it."
        yield Finding("missing files", words, "things", things[0].id, tuple(mends))
    for material in document.materials:
        for texture in _pictures_of(material):
            named = texture.picture[0]
            if not named or files_of(folder / split(named, "picture")[0]):
                continue
            mends = []
            other = elsewhere(texture.path)
            if other:
                new = edit.changed(texture, path=other)
                mends.append(
                    Mend(
                        f"Take {other}",
                        lambda d, m=material, t=texture, n=new: with_step(d, m, t, n),
                        loads_files=True,
                    )
                )
            mends.append(Mend("Leave the picture out", lambda d, m=material, t=texture: with_step(d, m, t, None)))
            words = f"“{material.name}” needs the picture {named}, which is missing."
            yield Finding("missing files", words, "materials", material.id, tuple(mends))
    for r in references(document):
        if r.part == "lights" and not is_file(folder / r.path):
            other = elsewhere(r.path)
            mends = []
            if other:
                taken = {r.field: other}
                mends.append(
                    Mend(f"Take {other}", lambda d, i=r.id, v=taken: edit.alter(d, "lights", i, **v), loads_files=True)
                )
            mends.append(Mend("Switch it off", lambda d, i=r.id: edit.alter(d, "lights", i, on=False)))
            words = f"“{r.item.name}” needs the {r.holds} {r.path}, which is missing."
            yield Finding("missing files", words, "lights", r.id, tuple(mends))
    for step in document.finish.steps:
        if step.kind == "lut" and step.path and step.on and not is_file(folder / step.path):
            other = elsewhere(step.path)
            mends = (
                [Mend(f"Take {other}", lambda d, i=step.id, o=other: grading.alter_step(d, i, path=o), True)]
                if other
                else []
            )
            mends.append(Mend("Leave the step out", lambda d, i=step.id: grading.alter_step(d, i, on=False)))
            words = f"The finish needs the look-up table {step.path}, which is missing."
            yield Finding("missing files", words, "steps", step.id, tuple(mends))


def missing_faces(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield lettering whose face is not installed here, and is set in the sans instead."""
    for material in document.materials:
        for step in every(material.steps):
            if not isinstance(step, Lettering) or faces.is_known(step.face):
                continue
            new = edit.changed(step, face="sans")
            words = f"“{step.known_as}” on “{material.name}” is lettered in {step.face}, which is not installed here."
            mend = Mend(
                "Letter it in the sans",
                lambda d, m=material, s=step, n=new: with_step(d, m, s, n),
            )
            yield Finding("missing faces", words, "materials", material.id, (mend,))


def _remeshed(document: Document, old: str, new: str) -> Document:
    for thing in document.things:
        file, mark, part = thing.mesh.partition("#")
        if file == old:
            document = edit.alter(document, "things", thing.id, mesh=new + mark + part)
    return document


def _hidden(document: Document, ids: tuple[str, ...]) -> Document:
    for id in ids:
        document = edit.alter(document, "things", id, visible=False)
    return document


def misread_pictures(document: Document, assets: Assets, folder: Path) -> Iterator[Finding]:
    """Yield data pictures read as colour, and colour pictures read as data."""
    for material in document.materials:
        for texture in _pictures_of(material):
            if texture not in material.steps:
                continue  # what drives a step inside may be either
            wanted = "colour" if texture.parameter.endswith("_color") else "data"
            if (texture.space == "colour") == (wanted == "colour"):
                continue
            new = edit.changed(texture, space=wanted)
            is_data = wanted == "data"
            what = "roughness, metalness, masks and normals are numbers" if is_data else "it holds colours"
            words = f"“{material.name}” reads {Path(texture.path).name} as {texture.space}, but {what}."
            mend = Mend(
                f"Read it as {wanted}",
                lambda d, m=material, t=texture, n=new: with_step(d, m, t, n),
                loads_files=True,
            )
            yield Finding("pictures read wrongly", words, "materials", material.id, (mend,))
