"""Files that stand beside a model and that it names itself: buffers, materials, pictures."""

import json
import os
import re
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import unquote

from trimesh.resolvers import FilePathResolver

_MATERIALS = re.compile(r"^[ \t]*mtllib[ \t]+(.+?)[ \t]*$", re.MULTILINE)
_PICTURES = re.compile(r"^[ \t]*(?:map_\w+|bump|disp|decal|refl|norm)[ \t]+(.+?)[ \t]*$", re.MULTILINE | re.IGNORECASE)


class Resolver(FilePathResolver):
    """Finds what a model names, also where the name is percent-encoded, as glTF's addresses are (RFC 3986)."""

    def get(self, name: str) -> bytes:
        """Return a file's bytes.

        Raises
        ------
        FileNotFoundError
            If there is none of that name.
        """
        try:
            return super().get(name)
        except FileNotFoundError:
            return super().get(unquote(name))


def beside(model: Path) -> list[Path]:
    """Return the files, in the model's folder or below, that a .gltf or .obj names and that are there.

    model: its path, without any "..".

    References
    ----------
    glTF 2.0, sections 3.6.1 and 3.8.1 (addresses of buffers and images); Wavefront OBJ and MTL: mtllib, map_*.
    """
    found, left = [model], [model]
    while left:
        for name in _named_in(left.pop()):
            path = Path(os.path.normpath(model.parent / name))
            if path not in found and path.is_relative_to(model.parent) and os.path.isfile(path):
                found.append(path)
                left.append(path)
    return found[1:]


def _named_in(path: Path) -> Iterator[str]:
    kind = path.suffix.lower()
    if kind not in (".gltf", ".obj", ".mtl"):
        return
    try:
        text = path.read_text(encoding="utf-8", errors="replace")
    except OSError:
        return  # who wants the file itself will say so
    if kind == ".gltf":
        yield from _addresses(text)
        return
    for line in (_MATERIALS if kind == ".obj" else _PICTURES).findall(text):
        words = line.replace("\\", "/").split()
        # A name may have spaces, and options before it: every end of the line may be the name.
        yield from (" ".join(words[i:]) for i in range(len(words)))


def _addresses(text: str) -> Iterator[str]:
    try:
        tree = json.loads(text)
    except (ValueError, RecursionError):
        return
    for part in ("buffers", "images"):
        entries = tree.get(part) if isinstance(tree, dict) else None
        for entry in entries if isinstance(entries, list) else ():
            address = entry.get("uri") if isinstance(entry, dict) else None
            if isinstance(address, str) and not address.startswith("data:"):
                yield from (address, unquote(address))
