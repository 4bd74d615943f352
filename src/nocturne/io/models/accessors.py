"""Numbers out of glTF buffers: accessors, sparse ones, compressed ones.

References
----------
glTF 2.0, sections 3.6 (binary data), 3.11 (sparse); KHR_mesh_quantization; EXT_meshopt_compression;
KHR_draco_mesh_compression.
"""

import base64
import binascii
from pathlib import Path
from typing import Any

import numpy as np

from nocturne.io.models.border import Border

_TYPES = {5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16, 5125: np.uint32, 5126: np.float32}
_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}
_MOST_EMPTY = 1_000_000  # numbers of an accessor that has no data: they are all zero
_MOST_BYTES = 4 << 30


def entry(tree: dict, part: str, index: Any) -> dict:
    """Return one entry of a part of the file's tree.

    Raises
    ------
    ValueError
        If it is not there.
    """
    entries = tree.get(part)
    if not isinstance(entries, list) or not isinstance(index, int) or not 0 <= index < len(entries):
        raise ValueError(f"it names number {index} of its {part}, which is not there")
    if not isinstance(entries[index], dict):
        raise ValueError(f"number {index} of its {part} is none")
    return entries[index]


class FilePart:
    """A part of a file that is read piece by piece, when it is asked for: of a large one, often little is wanted."""

    def __init__(self, path: Path, first: int, n: int) -> None:
        self._path, self._first, self._n = path, first, n

    def __len__(self) -> int:
        """Return how many bytes it has."""
        return self._n

    def __getitem__(self, which: slice) -> bytes:
        """Return some of its bytes."""
        start, stop, _ = which.indices(self._n)
        with self._path.open("rb") as file:
            file.seek(self._first + start)
            return file.read(max(stop - start, 0))


class Accessors:
    """Reads accessors of one glTF file; buffers and unpacked views are read once."""

    def __init__(self, tree: dict, blob: FilePart, border: Border) -> None:
        """tree: the file's JSON. blob: the binary chunk of a GLB. border: gives a file that it names."""
        self.tree, self._blob, self._border = tree, blob, border
        self._buffers: dict[int, bytes | FilePart] = {}
        self._views: dict[int, bytes] = {}

    def buffer(self, index: Any) -> bytes | FilePart:
        """Return the bytes of a buffer."""
        about = entry(self.tree, "buffers", index)
        if index not in self._buffers:
            uri = about.get("uri")
            self._buffers[index] = self._blob if uri is None else self.bytes_at(uri)
        return self._buffers[index]

    def bytes_at(self, uri: Any) -> bytes:
        """Return what an address leads to: data in itself, or a file beside the model.

        Raises
        ------
        FileNotFoundError
            If there is no such file.
        ValueError
            If it is no address.
        """
        if not isinstance(uri, str):
            raise ValueError("an address is no text")
        if uri.startswith("data:"):
            _, comma, data = uri.partition(",")
            if not comma:
                raise ValueError("a data address has no data")
            try:
                return base64.b64decode(data, validate=False)
            except binascii.Error as error:
                raise ValueError("a data address is not base64") from error
        return self._border(uri)

    def view(self, index: Any) -> bytes:
        """Return the bytes of a buffer view, unpacked if it is compressed."""
        about = entry(self.tree, "bufferViews", index)
        if index not in self._views:
            packed = _extension(about, "EXT_meshopt_compression") or _extension(about, "KHR_meshopt_compression")
            self._views[index] = self._unpacked(packed) if packed else self._part(about)
        return self._views[index]

    def _part(self, about: dict) -> bytes:
        first, n = _whole(about.get("byteOffset", 0)), _whole(about.get("byteLength"))
        data = self.buffer(about.get("buffer"))
        if first + n > len(data):
            raise ValueError(f"a view reaches {first + n - len(data):,} bytes beyond its buffer")
        return data[first : first + n]

    def _unpacked(self, packed: dict) -> bytes:
        import meshopt

        count, size = _whole(packed.get("count")), _whole(packed.get("byteStride"))
        if count * size > _MOST_BYTES:
            raise ValueError("a compressed view is larger than 4 GiB")
        mode, how = packed.get("mode"), packed.get("filter", "NONE")
        return np.asarray(meshopt.decode_gltf_buffer(self._part(packed), count, size, mode, how)).tobytes()

    def array(self, index: Any) -> np.ndarray:
        """Return (n, width) values: float32, normalised ones already divided; or the integers they are.

        Raises
        ------
        ValueError
            If it does not fit its buffer, or announces far more than it brings.
        """
        about = entry(self.tree, "accessors", index)
        dtype, width = _TYPES.get(about.get("componentType")), _WIDTHS.get(about.get("type"))
        count = _whole(about.get("count"))
        if dtype is None or width is None:
            raise ValueError("an accessor is of a type that glTF does not have")
        if "bufferView" in about:
            values = self._strided(about, dtype, width, count)
        elif count * width > _MOST_EMPTY:
            raise ValueError(f"an accessor announces {count:,} values and has no data")
        else:
            values = np.zeros((count, width), dtype)
        sparse = about.get("sparse")
        if isinstance(sparse, dict):
            values = self._with_sparse(values.copy(), sparse)
        if about.get("normalized") and dtype is not np.float32:
            values = np.maximum(values.astype(np.float32) / np.iinfo(dtype).max, -1.0)
        return values

    def _strided(self, about: dict, dtype: type, width: int, count: int) -> np.ndarray:
        view = entry(self.tree, "bufferViews", about["bufferView"])
        data = self.view(about["bufferView"])
        size = np.dtype(dtype).itemsize * width
        first, stride = _whole(about.get("byteOffset", 0)), _whole(view.get("byteStride", size)) or size
        if count and first + (count - 1) * stride + size > len(data):
            raise ValueError("an accessor reaches beyond its view")
        if not count:
            return np.zeros((0, width), dtype)
        flat = np.frombuffer(data, np.uint8)
        rows = np.lib.stride_tricks.as_strided(flat[first:], (count, size), (stride, 1), writeable=False)
        return np.ascontiguousarray(rows).view(np.dtype(dtype).newbyteorder("<")).astype(dtype).reshape(count, width)

    def _with_sparse(self, values: np.ndarray, sparse: dict) -> np.ndarray:
        n = _whole(sparse.get("count"))
        where, what = sparse.get("indices"), sparse.get("values")
        if not isinstance(where, dict) or not isinstance(what, dict):
            raise ValueError("a sparse accessor lacks its indices or values")
        kind = _TYPES.get(where.get("componentType"))
        if kind not in (np.uint8, np.uint16, np.uint32):
            raise ValueError("a sparse accessor's indices are of a wrong type")
        at = self._strided(where, kind, 1, n).ravel()
        if n and int(at.max()) >= len(values):
            raise ValueError("a sparse accessor names a value that is not there")
        values[at] = self._strided(what, values.dtype.type, values.shape[1], n)
        return values

    def draco(self, packed: dict) -> tuple[np.ndarray, dict[str, np.ndarray]]:
        """Return (m, 3) triangles and (n, k) attributes of a Draco-compressed primitive by glTF's names for them."""
        import DracoPy

        try:
            mesh = DracoPy.decode(self.view(packed.get("bufferView")))
        except DracoPy.FileTypeException as error:
            raise ValueError(f"a Draco mesh is damaged ({error})") from error
        wanted = packed.get("attributes")
        if not isinstance(wanted, dict):
            raise ValueError("a Draco primitive names no attributes")
        by_id = {a["unique_id"]: np.asarray(a["data"]) for a in mesh.attributes}
        found = {name: by_id[id] for name, id in wanted.items() if id in by_id}
        return np.asarray(mesh.faces, np.int64).reshape(-1, 3), found


def _whole(value: Any) -> int:
    if not isinstance(value, int) or isinstance(value, bool) or value < 0:
        raise ValueError(f"{value!r} is no count")
    return value


def _extension(about: dict, name: str) -> dict | None:
    found = about.get("extensions")
    found = found.get(name) if isinstance(found, dict) else None
    return found if isinstance(found, dict) else None
