"""Pictures whose files are numbered: read as a set of tiles, as a sequence of frames, or each by itself."""

from collections.abc import Callable
from pathlib import Path

from nocturne.io.paths import numbered_files
from nocturne.scene import edit
from nocturne.scene.numbered import ACROSS, as_sequence, as_tiles, at_frame, is_tiles
from nocturne.scene.patterns import Picture
from nocturne.ui.session import Session


class Numbers:
    """Looks beside a picture for others of its numbers. `folder` tells from where paths of the document lead."""

    def __init__(self, session: Session, folder: Callable[[], Path]) -> None:
        self.session, self._folder = session, folder

    def as_set(self, path: str) -> str:
        """Return the set of tiles that a picture is one of, if others lie beside it; else the path as it is."""
        whole = as_tiles(path)
        found = list(numbered_files(self._folder() / whole)) if whole else []
        # Frames are numbered from 1001 on, too; but more than a row of squares is seldom used without a gap.
        is_run = len(found) > ACROSS and found[-1] - found[0] == len(found) - 1
        return whole if len(found) > 1 and not is_run else path

    def read_as(self, path: str) -> dict[str, object]:
        """Return the values of a picture step for a file that was chosen: of a tile, the whole set that it is of."""
        whole = self.as_set(path)
        if whole != path:
            n = len(numbered_files(self._folder() / whole))
            self.session.said.emit(f"{Path(path).name} is one of {n} tiles; all of them are taken.", False)
        return {"path": whole}

    def read(self, step: Picture, what: str) -> Picture:
        """Return a picture step read as "tiles", "frames" or "one"; itself, with a word, if there is none."""
        if what == "frames":
            whole, number = as_sequence(step.path)
            n = len(numbered_files(self._folder() / whole))
            self.session.said.emit(f"{Path(whole).name}: {n} frame{'' if n == 1 else 's'} found.", n == 0)
            return edit.changed(step, path=whole, frame_number=number)
        if what == "tiles":
            whole = as_tiles(step.path)
            n = len(numbered_files(self._folder() / whole))
            self.session.said.emit(f"{Path(whole).name}: {n} tile{'' if n == 1 else 's'} found.", n == 0)
            return edit.changed(step, path=whole)
        if is_tiles(step.path):
            found = list(numbered_files(self._folder() / step.path).values())
            if not found:
                self.session.said.emit(f"There is no tile of {Path(step.path).name}.", True)
                return step
            return edit.changed(step, path=Path(step.path).with_name(found[0].name).as_posix())
        return edit.changed(step, path=at_frame(step.path, step.frame_number))
