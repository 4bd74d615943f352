"""What reading one model may draw in: files of its own folder, and no more than its size gives reason for.

A model is often somebody else's. What it names outside its folder, links followed, is not read unless the user has
allowed it: a buffer could be any file of the machine, which a set written afterwards would carry away.
"""

import errno
import os
from pathlib import Path
from urllib.parse import unquote

from nocturne.errors import FileError
from nocturne.io.paths import files_of

_LARGEST_BYTES = 4 << 30  # of all files that one model draws in


class OutsideFolder(FileError):
    """A model needs files outside its folder; `names` are what it calls them."""

    def __init__(self, path: Path, names: tuple[str, ...]) -> None:
        told = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        super().__init__(
            path,
            f"it names files outside its own folder, which are not read: {told}.",
            hint="Put those files beside it, or allow it on the sheet that imports it (convert: --allow-outside).",
        )
        self.names = names


class Border:
    """The border around one model while it is read; readers ask it for whatever the model names.

    outside: the names of what was refused, because it lies outside and is not allowed.
    """

    def __init__(self, path: Path, *, allowed: bool = False) -> None:
        """path: of the model. allowed: the user lets it name files outside its folder."""
        self.path, self.is_allowed = path, allowed
        self.folder = path.parent
        self.outside: dict[str, None] = {}
        self._left = _LARGEST_BYTES

    def find(self, name: str) -> str | None:
        """Return the path from the folder by which a file that the model names is there; None if it is not, or refused.

        Also where the name is percent-encoded, as in glTF (RFC 3986), or only its last part is there.
        """
        plain, is_outside = name.replace("\\", "/"), False
        for wanted in dict.fromkeys((plain, unquote(plain), Path(plain).name, unquote(Path(plain).name))):
            # Several, if it names a set of tiles; regular files only: a pipe would be waited for forever.
            there = files_of(self.folder / wanted) if wanted else []
            if there and all(map(self.lets_in, there)):
                return wanted
            is_outside |= bool(there)
        if is_outside:
            self.outside[name] = None
        return None

    def lets_in(self, file: Path) -> bool:
        """Return True for a file in the model's folder or below it, links followed, or if it may be anywhere."""
        if self.is_allowed:
            return True
        try:
            return file.resolve().is_relative_to(self.folder.resolve())
        except (OSError, RuntimeError, ValueError):
            return False

    def __call__(self, name: str) -> bytes:
        """Return the bytes of a file that the model names.

        Raises
        ------
        FileNotFoundError
            If it is not there.
        OutsideFolder
            If it lies outside the folder.
        ValueError
            If all of them together are too large.
        """
        found = self.find(name)
        if found is None:
            if name in self.outside:
                raise OutsideFolder(self.path, (unquote(name),))
            raise FileNotFoundError(errno.ENOENT, os.strerror(errno.ENOENT), unquote(name))
        # One byte more than there may be tells that there is more: files can grow while they are read.
        with (self.folder / found).open("rb") as file:
            data = file.read(self._left + 1)
        self.take(len(data), f"the files that it names are larger than {_LARGEST_BYTES >> 30} GiB")
        return data

    def take(self, n: int, trouble: str) -> None:
        """Take bytes off what is left.

        Raises
        ------
        ValueError
            With the trouble, if there are not as many.
        """
        self._left -= n
        if self._left < 0:
            raise ValueError(trouble)
