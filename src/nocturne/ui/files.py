"""What the window does with files: open, save, bring in models, export; all in the background."""

import os
from pathlib import Path

import numpy as np
from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget
from scipy.spatial.transform import Rotation

from nocturne.io import exr, image, lut, model, picture, project
from nocturne.jobs import Update
from nocturne.scene import edit
from nocturne.scene.document import Document, free_id, free_name
from nocturne.scene.shapes import Thing
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session


def ask_open_file(parent: QWidget, title: str, pattern: str, start: str) -> str:
    """Ask for a file to read; "" if none was chosen. Tests replace this."""
    return QFileDialog.getOpenFileName(parent, title, start, pattern)[0]


def ask_save_file(parent: QWidget, title: str, pattern: str, start: str) -> str:
    """Ask for a file to write; "" if none was chosen. Tests replace this."""
    return QFileDialog.getSaveFileName(parent, title, start, pattern)[0]


def ask_unsaved(parent: QWidget, name: str) -> str:
    """Ask what to do with changes that are not saved: "save", "drop" or "stay". Tests replace this."""
    box = QMessageBox(parent)
    box.setText(f"“{name}” has changes that are not saved.")
    save = box.addButton("Save", QMessageBox.ButtonRole.AcceptRole)
    drop = box.addButton("Drop the changes", QMessageBox.ButtonRole.DestructiveRole)
    box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
    box.exec()
    return {save: "save", drop: "drop"}.get(box.clickedButton(), "stay")


def endings(names: tuple[str, ...]) -> str:
    """Return the pattern of a file dialog."""
    return " ".join(f"*{name}" for name in names)


class Files:
    """The file commands of a window."""

    def __init__(self, parent: QWidget, session: Session, runner: Runner) -> None:
        self.parent, self.session, self.runner = parent, session, runner

    def start_folder(self) -> str:
        """Return the folder that file dialogs start in."""
        return str(self.session.path.parent) if self.session.path else str(Path.home())

    def open(self, path: Path) -> None:
        """Open a project."""
        self.session.said.emit(f"Opening {path.name}…", False)
        self.runner.submit("Open", project.load(path), self._opened)

    def _opened(self, loaded: project.Project) -> None:
        self.session.open(loaded.document, loaded.assets, loaded.path)
        if not loaded.assets.problems:
            self.session.said.emit(f"Opened {loaded.document.name}.", False)

    def save(self, path: Path, *, then=None) -> None:
        """Save the document; files it refers to are made reachable from its new place."""
        document, old = self.session.document, self.session.path

        def work():
            yield Update(0, 1, "Saving")
            moved = document
            if old is not None and project.document_path(path).parent.resolve() != old.parent.resolve():
                moved = with_paths_from(document, old.parent, _folder_of(path))
            yield Update(1, 1, "Saved", result=(moved, project.save_document(path, moved)))

        def done(result) -> None:
            moved, written = result
            if moved is not document:
                self.session.open(moved, self.session.assets, written)
                self.load_assets()
            else:
                self.session.mark_saved(document, written)
            self.session.said.emit(f"Saved as {written}.", False)
            if then:
                then()

        self.runner.submit("Save", work(), done)

    def load_assets(self) -> None:
        """Load what the document refers to and is not loaded yet."""
        folder = self.session.path.parent if self.session.path else Path.cwd()
        self.runner.submit(
            "Load", project.load_assets(self.session.document, folder, known=self.session.assets), self._loaded
        )

    def _loaded(self, assets) -> None:
        self.session.assets = assets
        self.session.assets_changed.emit()
        for problem in assets.problems:
            self.session.said.emit(problem, True)

    def relative(self, path: Path) -> str:
        """Return a path as the document refers to it."""
        folder = (self.session.path.parent if self.session.path else Path.cwd()).resolve()
        return _relative(path.resolve(), folder)

    def bring_in(self, path: Path) -> None:
        """Add a model's parts to the set, in a group of the model's name."""

        def work():
            yield Update(0, 1, f"Reading {path.name}")
            yield Update(1, 1, "Read", result=model.read(path))

        def done(parts) -> None:
            document, base = self.session.document, self.relative(path)
            group = free_id(document, "things", "thing")
            name = free_name(document, "things", path.stem)
            document = edit.put(document, "things", Thing(id=group, name=name))
            for part in parts:
                place, turn, size = placed(part.matrix)
                document = edit.put(
                    document,
                    "things",
                    Thing(
                        id=free_id(document, "things", "thing"),
                        name=part.name,
                        parent=group,
                        mesh=f"{base}#{part.name}",
                        place=place,
                        turn_deg=turn,
                        size=size,
                    ),
                )
            self.session.push(document, f"Bring in {path.name}")
            self.session.choose("things", group)
            self.load_assets()
            n = sum(len(part.mesh.triangles) for part in parts)
            self.session.said.emit(f"Brought in {path.name}: {len(parts)} parts, {n:,} triangles.", False)

        self.runner.submit("Bring in", work(), done)

    def export(self, path: Path, film, document: Document, denoised) -> None:
        """Write the film as EXR with all passes, or the graded view as a picture."""
        from nocturne.finish.develop import Light, develop

        luts = self.session.assets.luts

        def work():
            yield Update(0, 1, f"Writing {path.name}")
            if path.suffix.lower() == ".exr":
                exr.write_film(path, film, document, denoised=denoised)
            else:
                shown = develop(
                    Light.of(film, denoised), view=document.view, desk=document.desk, finish=document.finish, luts=luts
                )
                picture.write(path, shown)
            yield Update(1, 1, "Written", result=path)

        self.runner.submit("Export", work(), lambda written: self.session.said.emit(f"Exported {written}.", False))


def _folder_of(path: Path) -> Path:
    return path.parent if path.suffix == project.SUFFIX else path


def _relative(path: Path, folder: Path) -> str:
    return Path(os.path.relpath(path, folder)).as_posix()


def with_paths_from(document: Document, old: Path, new: Path) -> Document:
    """Return the document with its relative paths leading from another folder to the same files."""

    def moved(name: str) -> str:
        file, mark, part = name.partition("#")
        return _relative((old / file).resolve(), new.resolve()) + mark + part if file else name

    things = tuple(edit.changed(thing, mesh=moved(thing.mesh)) for thing in document.things)
    materials = tuple(
        edit.changed(m, textures=tuple(edit.changed(x, path=moved(x.path)) for x in m.textures))
        for m in document.materials
    )
    lights = tuple(edit.changed(light, image=moved(light.image)) for light in document.lights)
    steps = tuple(
        edit.changed(step, path=moved(step.path)) if step.kind == "lut" else step for step in document.finish.steps
    )
    finish = edit.changed(document.finish, steps=steps)
    return edit.changed(document, things=things, materials=materials, lights=lights, finish=finish)


def placed(matrix) -> tuple[tuple, tuple, tuple]:
    """Return (place, turn in degrees, size) of a (4, 4) matrix; shear, which things do not have, is left out."""
    size = np.linalg.norm(matrix[:3, :3], axis=0)
    turn = matrix[:3, :3] / np.maximum(size, 1e-12)
    if np.linalg.det(turn) < 0:
        size[0], turn[:, 0] = -size[0], -turn[:, 0]
    angles = Rotation.from_matrix(turn).as_euler("xyz", degrees=True)
    return tuple(map(float, matrix[:3, 3])), tuple(float(round(a, 9)) for a in angles), tuple(map(float, size))


PICTURES = f"Pictures ({endings(image.READS)})"
MODELS = f"Models ({endings(model.READS)})"
TABLES = f"Look-up tables ({endings(lut.READS)})"
PROJECTS = f"Nocturne projects (*{project.SUFFIX})"
EXPORTS = "OpenEXR with all passes (*.exr);;PNG (*.png);;TIFF (*.tif);;JPEG (*.jpg)"
