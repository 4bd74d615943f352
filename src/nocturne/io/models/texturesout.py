"""Textures that glTF reads two parameters from, where only one of them is driven by a picture.

References
----------
glTF 2.0, 3.9.2: roughness is the green and metalness the blue of one texture, each times its factor; opacity is the
alpha of the base colour's.
"""

import io

import numpy as np
from PIL import Image, UnidentifiedImageError

from nocturne.errors import FileError
from nocturne.scene.materials import Material
from nocturne.scene.patterns import Picture

_PARTNERS = {
    "base_metalness": "specular_roughness",
    "specular_roughness": "base_metalness",
    "geometry_opacity": "base_color",
    "base_color": "geometry_opacity",
}
_PLACES = {"specular_roughness": "green", "base_metalness": "blue", "geometry_opacity": "alpha"}
_CHANNELS = ("red", "green", "blue", "alpha")


def apart(material: Material, step: Picture) -> str:
    """Return how a picture is to be written so that it says nothing of the parameter beside its own.

    "": as it is. "red to green": one channel, in the place that is read, all others white. "opaque": its alpha is 1.
    """
    partner = _PARTNERS.get(step.parameter)
    if partner is None:
        return ""
    drawn = [s for s in material.steps if s.parameter == partner and s.on and s.amount > 0 and isinstance(s, Picture)]
    if any(s.path == step.path for s in drawn):
        return ""
    if step.parameter == "base_color":
        return "opaque" if material.geometry_opacity < 1 and not drawn else ""
    place = _PLACES[step.parameter]
    source = "red" if step.space == "data" else step.space
    if source not in _CHANNELS:
        return ""
    counts = partner == "base_color" or getattr(material, partner) > 0
    return f"{source} to {place}" if counts or source != place else ""


def alone(data: bytes, only: str) -> bytes:
    """Return a picture's file written anew as `apart` says, a PNG.

    Raises
    ------
    FileError
        If it is not one of 8 bits that can be read.
    """
    try:
        with Image.open(io.BytesIO(data)) as opened:
            if opened.mode not in ("1", "L", "LA", "P", "RGB", "RGBA"):
                raise FileError("picture", f"its pixels ({opened.mode}) are not of 8 bits.")
            pixels = np.array(opened.convert("RGBA"))
    except (UnidentifiedImageError, OSError, Image.DecompressionBombError) as error:
        raise FileError("picture", f"it cannot be read: {error}.") from error
    if only == "opaque":
        pixels[..., 3] = 255
    else:
        source, _, place = only.partition(" to ")
        channel = pixels[..., _CHANNELS.index(source)].copy()
        pixels[:] = 255
        pixels[..., _CHANNELS.index(place)] = channel
    out = io.BytesIO()
    Image.fromarray(pixels if only == "opaque" or only.endswith("alpha") else pixels[..., :3]).save(out, "PNG")
    return out.getvalue()
