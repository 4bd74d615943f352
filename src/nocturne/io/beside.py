"""Files that stand beside a model and that it names itself: buffers, materials, pictures."""

import json
import os
import re
from collections.abc import Iterator
from html import unescape
from pathlib import Path
from urllib.parse import unquote

from nocturne.io.image import is_picture
from nocturne.io.models import usdlibrary
from nocturne.io.paths import is_file

_PICTURE_KINDS = (".png", ".jpg", ".jpeg", ".webp", ".tga", ".tif", ".tiff", ".bmp", ".exr", ".hdr")
_KINDS = (".bin", ".mtl", ".usd", ".usda", ".usdc", *_PICTURE_KINDS)
_MATERIALS = re.compile(r"^[ \t]*mtllib[ \t]+(.+?)[ \t]*$", re.MULTILINE)
_PICTURES = re.compile(r"^[ \t]*(?:map_\w+|bump|disp|decal|refl|norm)[ \t]+(.+?)[ \t]*$", re.MULTILINE | re.IGNORECASE)
# Elements of MaterialX whose value is a file.
_FILES = re.compile(r"<[^<>]*type=\"filename\"[^<>]*>")
_VALUE = re.compile(r"\bvalue=\"([^\"]+)\"")


def beside(model: Path) -> list[Path]:
    """Return the files, in the model's folder or below, that a .gltf, .obj or .mtlx names and that are there.

    model: its path, without any "..".

    References
    ----------
    glTF 2.0, sections 3.6.1 and 3.8.1 (addresses of buffers and images); Wavefront OBJ and MTL: mtllib, map_*;
    MaterialX 1.39: values of the type filename.
    """
    found, left = [model], [model]
    while left:
        for name in _named_in(left.pop()):
            path = Path(os.path.normpath(model.parent / name))
            if path not in found and path.is_relative_to(model.parent) and _may_come_along(path, model.parent):
                found.append(path)
                left.append(path)
    return found[1:]


def _may_come_along(path: Path, folder: Path) -> bool:
    """Return True for a file of a kind that models name: no hidden one, and none that only a link brings there."""
    if path.suffix.lower() not in _KINDS or not is_file(path):
        return False
    if path.suffix.lower() in _PICTURE_KINDS and not is_picture(path):
        return False
    hidden = any(part.startswith(".") for part in path.relative_to(folder).parts)
    return not hidden and path.resolve().is_relative_to(folder.resolve())


def _named_in(path: Path) -> Iterator[str]:
    kind = path.suffix.lower()
    if kind in (".usd", ".usda", ".usdc"):
        yield from _depended_on(path)
        return
    if kind not in (".gltf", ".obj", ".mtl", ".mtlx"):
        return
    if not is_file(path):
        return  # who wants the file itself will say so
    try:
        text = path.read_text(encoding="utf-8", errors="replace")
    except OSError:
        return
    if kind == ".gltf":
        yield from _addresses(path)
        return
    if kind == ".mtlx":
        yield from (unescape(name) for element in _FILES.findall(text) for name in _VALUE.findall(element))
        return
    for line in (_MATERIALS if kind == ".obj" else _PICTURES).findall(text):
        words = line.replace("\\", "/").split()
        # A name may have spaces, and options before it: every end of the line may be the name.
        yield from (" ".join(words[i:]) for i in range(len(words)))


def _depended_on(path: Path) -> Iterator[str]:
    """Yield the layers and pictures that a USD layer leads to, by their paths from its folder."""
    usdlibrary.ready()
    from pxr import Tf, UsdUtils

    told = UsdUtils.CoalescingDiagnosticDelegate()
    try:
        layers, pictures, _ = UsdUtils.ComputeAllDependencies(str(path))
        names = [layer.realPath for layer in layers] + [str(name) for name in pictures]
    except Tf.ErrorException:
        return  # who wants the file itself will say so
    finally:
        told.TakeUncoalescedDiagnostics()
    for name in names:
        if name and name != str(path):
            yield os.path.relpath(name, path.parent)


def tree_of(path: Path) -> dict:
    """Return what the JSON of a .gltf or .glb says, {} if it is another kind of file or cannot be read.

    References
    ----------
    glTF 2.0, section 4.4: the header of 12 bytes, then the length of the JSON, its kind, and the JSON.
    """
    try:
        if path.suffix.lower() == ".gltf":
            tree = json.loads(path.read_text(encoding="utf-8", errors="replace"))
        elif path.suffix.lower() == ".glb":
            with open(path, "rb") as file:
                head = file.read(20)
                length = int.from_bytes(head[12:16], "little")
                tree = json.loads(file.read(min(length, path.stat().st_size)))
        else:
            return {}
    except (OSError, ValueError, RecursionError):
        return {}
    return tree if isinstance(tree, dict) else {}


def _addresses(path: Path) -> Iterator[str]:
    tree = tree_of(path)
    for part in ("buffers", "images"):
        entries = tree.get(part)
        for entry in entries if isinstance(entries, list) else ():
            address = entry.get("uri") if isinstance(entry, dict) else None
            if isinstance(address, str) and not address.startswith("data:"):
                yield from (address, unquote(address))
