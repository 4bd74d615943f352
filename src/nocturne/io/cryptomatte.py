"""Ids and manifests of the Cryptomatte specification, version 1.2 (Friedman and Jones 2015)."""

import json

import numpy as np

_C1, _C2 = 0xCC9E2D51, 0x1B873593
_MASK = 0xFFFFFFFF


def murmur3(text: str, seed: int = 0) -> int:
    """Return MurmurHash3_x86_32 of the text's UTF-8 bytes (Appleby)."""
    data, h = text.encode("utf-8"), seed
    for at in range(0, len(data) & ~3, 4):
        k = int.from_bytes(data[at : at + 4], "little") * _C1 & _MASK
        k = (k << 15 | k >> 17) & _MASK
        h ^= k * _C2 & _MASK
        h = (h << 13 | h >> 19) & _MASK
        h = (h * 5 + 0xE6546B64) & _MASK
    tail = data[len(data) & ~3 :]
    if tail:
        k = int.from_bytes(tail, "little") * _C1 & _MASK
        k = (k << 15 | k >> 17) & _MASK
        h ^= k * _C2 & _MASK
    h ^= len(data)
    h = (h ^ h >> 16) * 0x85EBCA6B & _MASK
    h = (h ^ h >> 13) * 0xC2B2AE35 & _MASK
    return h ^ h >> 16


def id_bits(name: str) -> int:
    """Return the hash of a name with the exponent moved off the values that are not finite floats."""
    bits = murmur3(name)
    if bits >> 23 & 255 in (0, 255):
        bits ^= 1 << 23
    return bits


def id_float(name: str) -> np.float32:
    """Return the id of a name as it stands in the channels."""
    return np.uint32(id_bits(name)).view(np.float32)


def layers(
    layer: str, ids: np.ndarray, coverage: np.ndarray, samples: np.ndarray, names: tuple[str, ...]
) -> tuple[dict[str, np.ndarray], dict[str, str]]:
    """Return channels and metadata of one matte layer.

    Parameters
    ----------
    layer : str
        For example "matte.object": readers find layers by the metadata, not by this name.
    ids, coverage : (h, w, 6) arrays
        Indices into names, and samples of each.
    samples : (h, w) array
        Samples of the pixel.
    names : tuple of str
    """
    table = np.array([id_float(name) for name in names] or [0], np.float32)
    share = coverage / np.maximum(samples, 1)[..., None]
    order = np.argsort(-share, axis=-1, kind="stable")
    share = np.take_along_axis(share, order, -1).astype(np.float32)
    index = np.take_along_axis(ids, order, -1)
    known = (share > 0) & (index < len(names))
    value = np.where(known, table[np.minimum(index, len(table) - 1)], np.float32(0)).astype(np.float32)
    share = np.where(known, share, np.float32(0))
    channels = {}
    for k in range(3):
        for letter, array in (
            ("R", value[..., 2 * k]),
            ("G", share[..., 2 * k]),
            ("B", value[..., 2 * k + 1]),
            ("A", share[..., 2 * k + 1]),
        ):
            channels[f"{layer}{k:02d}.{letter}"] = np.ascontiguousarray(array)
    key = f"{murmur3(layer):08x}"[:7]
    manifest = {name: f"{id_bits(name):08x}" for name in names}
    metadata = {
        f"cryptomatte/{key}/name": layer,
        f"cryptomatte/{key}/hash": "MurmurHash3_32",
        f"cryptomatte/{key}/conversion": "uint32_to_float32",
        f"cryptomatte/{key}/manifest": json.dumps(manifest),
    }
    return channels, metadata
