"""Small pictures of each light group alone, and of the picture under each cue."""

from collections.abc import Callable, Mapping

import numpy as np
from PySide6.QtGui import QImage

from nocturne.colour.lookup import LookUpTable
from nocturne.film.film import Film
from nocturne.scene.desk import Strip, gains
from nocturne.scene.document import Document
from nocturne.ui.darkroom.prints import to_image

_SIZE = (96, 54)
_BRIGHTER = 0.6  # stops, of a group that is alone


class SmallPrints:
    """Develops them from the newest film's groups, averaged to their size once."""

    def __init__(self, show_group: Callable[[str, QImage], None], show_cue: Callable[[str, QImage], None]) -> None:
        self._show_group, self._show_cue = show_group, show_cue
        self._small: tuple[tuple[str, ...], np.ndarray] | None = None
        self._cues_shown: tuple | None = None

    def take(self, film: Film, clean: np.ndarray | None) -> None:
        """Take a film's groups, the denoised ones if they are there."""
        width, height = film.size
        k = max(1, width // (2 * _SIZE[0]))
        rows, columns = height // k, width // k
        small = np.empty((len(film.group_names), rows, columns, 3), np.float32)
        for i in range(len(film.group_names)):
            source = clean[i] if clean is not None else film.group(i)
            small[i] = source[: rows * k, : columns * k].reshape(rows, k, columns, k, 3).mean((1, 3))
        self._small, self._cues_shown = (film.group_names, small), None

    def show_groups(self, document: Document, luts: Mapping[str, LookUpTable]) -> None:
        """Show every group."""
        names, small = self._small
        for i, name in enumerate(names):
            desk = (Strip(group=name, stops=_BRIGHTER),)
            self._show_group(name, self._print(small[i : i + 1], (name,), document, luts, desk))

    def show_cues(self, document: Document, luts: Mapping[str, LookUpTable]) -> None:
        """Show every cue, if any of it is not as it is shown."""
        view = document.view
        key = (document.cues, document.finish, view.white_k, view.white_luminance)
        if self._small is None or key == self._cues_shown:
            return
        self._cues_shown = key
        names, small = self._small
        for cue in document.cues:
            self._show_cue(cue.id, self._print(small, names, document, luts, cue.strips))

    def _print(self, small: np.ndarray, names: tuple[str, ...], document: Document, luts, desk: tuple) -> QImage:
        from nocturne.finish import kernels
        from nocturne.finish.develop import grade

        radiance = np.einsum("gyxc,gc->yxc", small, gains(names, desk), dtype=np.float32)
        return to_image(kernels.to_bytes(grade(radiance, view=document.view, finish=document.finish, luts=luts)))
