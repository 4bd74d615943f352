"""What glowing materials give in luminance: power shared out over the things that wear them, kelvin as a colour."""

import math
import weakref
from collections.abc import Callable, Iterable, Iterator
from functools import lru_cache
from typing import Any

import numpy as np

from nocturne.colour.spaces import luminance
from nocturne.scene import edit
from nocturne.scene.assets import Assets
from nocturne.scene.document import Document, free_group
from nocturne.scene.faces import mask, materials_of
from nocturne.scene.fields import within
from nocturne.scene.layering import by_id, chain
from nocturne.scene.materials import GLOWING, Material
from nocturne.scene.patterns import Facing, Ramp, Spot, Step, driven_by, every
from nocturne.scene.shapes import Mesh

_PLACES, _ANGLES = 24, 32  # across a patch of a metre, and from the rim to facing
_LARGE = 200_000  # triangles whose area is longer in the adding up than the interface may wait
_means: dict[tuple, tuple[float, list[Callable[[], np.ndarray | None]]]] = {}  # and the pictures that it is of
_areas: weakref.WeakKeyDictionary[Mesh, dict] = weakref.WeakKeyDictionary()


def settled(document: Document, assets: Assets) -> Document:
    """Return the document with every glow as `emission_luminance` and `emission_color` alone; itself if all are so."""
    if not any(m.is_emitter and _needs(m) for m in document.materials):
        return document
    return document.model_copy(update={"materials": settled_materials(document, assets)})


def settled_materials(document: Document, assets: Assets) -> tuple[Material, ...]:
    """Return the materials with every glow as a luminance of a colour."""
    if not any(m.is_emitter and _needs(m) for m in document.materials):
        return document.materials
    areas = {m.id: mean_area(document, assets, m.id) for m in document.materials if m.emission_unit != "nit"}
    return tuple(
        _settled(m, luminance_of(m, assets, areas.get(m.id, 0.0))) if m.is_emitter and _needs(m) else m
        for m in document.materials
    )


def _needs(material: Material) -> bool:
    return material.emission_unit != "nit" or material.emission_color_from == "kelvin"


@lru_cache(256)
def _settled(material: Material, value: float) -> Material:
    return material.model_copy(
        update={
            "emission_luminance": value,
            "emission_color": material.glow_color,
            "emission_unit": "nit",
            "emission_color_from": "colour",
        }
    )


def flux_of(material: Material) -> float:
    """Return the lumens that each thing gives, of a glow that is given in lumens or watts."""
    return material.emission_power * (material.emission_efficacy if material.emission_unit == "W" else 1.0)


def luminance_of(material: Material, assets: Assets, area: float) -> float:
    """Return the nits that a glow's colour is multiplied with.

    area: m2, of a thing that wears it. A surface that looks alike from everywhere gives pi * area * luminance; what
    patterns make of it, over the angle and over places, counts by its mean.
    """
    if material.emission_unit == "nit":
        return material.emission_luminance
    share = mean_luminance(material, assets)
    if area <= 0 or share <= 0:
        return 0.0
    return min(flux_of(material) / (math.pi * area * share), 1e12)


def mean_luminance(material: Material, assets: Assets) -> float:
    """Return by how much a glow's luminance is multiplied on average, weighed by the cosine as a surface's flux is.

    That is its colour's luminance, and what patterns make of colour, luminance and opacity. One that drives luminance
    in another way than by factors is reckoned at what `emission_luminance` is, at 1 where power is given.
    """
    return _mean_of_glow(material, assets) * _through_coat(material)


def _through_coat(material: Material) -> float:
    """Return what share of a glow's flux its coat lets through, its steps left out (`kernels.lobes.undercoat`)."""
    coat = material.coat_weight
    if coat <= 0:
        return 1.0
    nodes, weights = np.polynomial.legendre.leggauss(16)
    mu = (nodes + 1) / 2
    inside = np.sqrt(np.maximum(1 - (1 - mu**2) / material.coat_ior**2, 1e-6))
    s = (mu - material.coat_ior * inside) / (mu + material.coat_ior * inside)
    p = (material.coat_ior * mu - inside) / (material.coat_ior * mu + inside)
    passed = 1 - (s**2 + p**2) / 2
    colour = np.maximum(np.array(material.coat_color), 0)[None] ** (1 / inside[:, None])
    share = (1 - coat * (1 - passed))[:, None] * (1 - coat + coat * colour)
    mean = (weights[:, None] * mu[:, None] * share).sum(0)
    base = np.maximum(np.array(material.glow_color), 0)
    whole = float(luminance(base))
    return float(luminance(base * mean)) / whole if whole > 0 else 1.0


def _mean_of_glow(material: Material, assets: Assets) -> float:
    base = np.array(material.glow_color)
    steps = tuple(s for s in material.steps if s.parameter in GLOWING and s.on)
    if not steps:
        return float(luminance(np.maximum(base, 0))) * material.geometry_opacity
    # What is not driven is left out of what the mean is kept by: it is often dragged.
    driven = {step.parameter for step in steps}
    is_given = material.emission_unit == "nit" and material.emission_luminance > 0
    nits = material.emission_luminance if is_given and "emission_luminance" in driven else 1.0
    opacity, apart = material.geometry_opacity, 1.0
    if "geometry_opacity" not in driven:
        opacity, apart = 1.0, opacity
    # Asked for at every edit: patterns are only gone over again when they, or their pictures, are others.
    images = [assets.images.get(step.picture) for step in every(steps)]
    key = (steps, tuple(base), nits, opacity)
    kept = _means.get(key)
    if kept is None or any(before() is not image for before, image in zip(kept[1], images)):
        while len(_means) >= 64:
            _means.pop(next(iter(_means)), None)
        refs = [weakref.ref(image) if image is not None else _no_picture for image in images]
        kept = _means[key] = _mean_of_steps(steps, base, nits, opacity, assets), refs
    return kept[0] * apart


def _no_picture() -> None:
    return None


def _mean_of_steps(steps: tuple[Step, ...], base: np.ndarray, nits: float, opacity: float, assets: Assets) -> float:
    patch = Spot.of_patch(_PLACES, 1.0)
    apart = {name: tuple(s for s in steps if s.parameter == name) for name in GLOWING}

    def mean(cosine: float) -> float:
        viewer = np.broadcast_to([math.sqrt(1 - cosine * cosine), 0.0, cosine], patch.place.shape)
        spot = Spot(**{**patch.__dict__, "viewer": viewer})

        def driven(name: str, start: np.ndarray, high: float) -> np.ndarray:
            return driven_by(apart[name], start, spot, assets.images, low=0.0, high=high)

        value = luminance(np.maximum(driven("emission_color", base, 100.0), 0))
        if apart["emission_luminance"]:
            value = value * driven("emission_luminance", np.full(3, nits), 1e9)[..., 0] / nits
        return float((value * driven("geometry_opacity", np.full(3, opacity), 1.0)[..., 0]).mean())

    # Middles of equal shares of the cosine's square: each stands for as much flux.
    cosines = np.sqrt((np.arange(_ANGLES) + 0.5) / _ANGLES)
    return float(np.mean([mean(c) for c in cosines]))


def mean_area(document: Document, assets: Assets, id: str) -> float:
    """Return the mean area, m2, that a thing wearing a material shows of it; 0 if nothing wears it."""
    found = [_area(mesh, matrix, worn) for mesh, matrix, worn in _wearing(document, assets, id)]
    found = [area for area in found if area > 0]
    return float(np.mean(found)) if found else 0.0


def is_at_hand(document: Document, assets: Assets, id: str) -> bool:
    """Return True if the area that wears a material is known or quickly found; of large meshes it takes a while."""
    return all(
        len(mesh.triangles) <= _LARGE or _area_key(matrix, worn)[0] in _areas.get(mesh, {})
        for mesh, matrix, worn in _wearing(document, assets, id)
    )


def _wearing(document: Document, assets: Assets, id: str) -> Iterator[tuple[Mesh, np.ndarray, np.ndarray | None]]:
    """Yield mesh, (3, 3) matrix, and which triangles wear a material, None for all, of each thing that wears it."""
    known = by_id(document.materials)
    ids = frozenset(m.id for m in document.materials if any(layer.id == id for layer in chain(known, m.id)))
    for thing in document.things:
        mesh = assets.shape(thing) if ids & set(materials_of(thing)) else None
        if mesh is None:
            continue
        worn = None
        if thing.faces:
            worn = np.full(len(mesh.triangles), thing.material in ids)
            for face in thing.faces:
                worn = np.where(mask(face, mesh), face.material in ids, worn)
        yield mesh, document.placement(thing.id)[:3, :3], worn


def _area_key(matrix: np.ndarray, worn: np.ndarray | None) -> tuple[tuple, float]:
    """Return by what an area is kept, and what it is multiplied with: what is turned or sized evenly is alike."""
    gram = matrix.T @ matrix
    scale = float(np.trace(gram)) / 3
    is_even = scale > 0 and np.allclose(gram, scale * np.eye(3), rtol=0, atol=1e-9 * scale)
    which = worn.tobytes() if worn is not None else b""
    return (b"" if is_even else matrix.tobytes(), which), scale if is_even else 1.0


def _area(mesh: Mesh, matrix: np.ndarray, worn: np.ndarray | None) -> float:
    kept = _areas.setdefault(mesh, {})
    key, scale = _area_key(matrix, worn)
    area = kept.get(key)
    if area is None:
        if len(kept) > 64:
            kept.clear()
        triangles = mesh.triangles if worn is None else mesh.triangles[worn]
        places = (mesh.vertices @ matrix.T / math.sqrt(scale)).T
        # Axis by axis: along one of three, NumPy takes several times as long.
        i, j, k = np.ascontiguousarray(triangles.T)
        (x, u), (y, v), (z, w) = ((at[j] - at[i], at[k] - at[i]) for at in np.ascontiguousarray(places))
        twice = np.sqrt((y * w - z * v) ** 2 + (z * u - x * w) ** 2 + (x * v - y * u) ** 2)
        area = kept[key] = float(twice.sum() / 2)
    return area * scale


def brightest(materials: Iterable[Material]) -> float:
    """Return the largest luminance, nit, that settled materials glow with; 0 if none does."""
    return max((m.emission_luminance * max(m.emission_color) for m in materials if m.is_emitter), default=0.0)


# ---- edits ---------------------------------------------------------------------------------------------------------


def altered(document: Document, id: str, **values: Any) -> Document:
    """Return the document with fields of a material changed; one that begins to glow gets a light group of its own.

    Raises
    ------
    SceneError
        If the material is not there or a value does not fit.
    """
    before = document.find("materials", id)
    document = edit.alter(document, "materials", id, **values)
    after = document.find("materials", id)
    if before.is_emitter or not after.is_emitter or after.emission_group:
        return document
    return edit.alter(document, "materials", id, emission_group=free_group(document, after.name))


def with_unit(document: Document, assets: Assets, id: str, unit: str) -> Document:
    """Return the document with a glow given in another unit, as bright as it was; if nothing wears it, of one m2."""
    material = document.find("materials", id)
    area = mean_area(document, assets, id) or 1.0
    share = math.pi * area * mean_luminance(material, assets)
    nits = luminance_of(material, assets, area)
    values: dict[str, Any] = {"emission_unit": unit}
    if unit == "nit":
        values["emission_luminance"] = within(Material, "emission_luminance", nits)
    else:
        lumens = nits * share if material.emission_unit == "nit" else flux_of(material)
        power = lumens / (material.emission_efficacy if unit == "W" else 1.0)
        values["emission_power"] = within(Material, "emission_power", power)
    return altered(document, id, **values)


def has_hot_core(material: Material) -> bool:
    """Return True if what drives its glow's colour ends in a ramp over how it faces."""
    steps = [s for s in material.steps if s.parameter == "emission_color"]
    return len(steps) > 1 and isinstance(steps[-1], Ramp) and isinstance(steps[-2], Facing)


def with_hot_core(document: Document, id: str) -> Document:
    """Return the document with a glow that is nearly white where it faces, and its own full colour at the rim."""
    material = document.find("materials", id)
    colour = np.array(material.glow_color)
    colour = colour / max(float(colour.max()), 1e-6)
    core, rim = 0.2 * colour + 0.8, colour**1.6
    stops = tuple((at, *map(float, rgb)) for at, rgb in ((0.0, rim * 0.55), (0.55, rim), (0.85, colour), (1.0, core)))
    steps = (
        Facing(parameter="emission_color", power=1.0),
        Ramp(parameter="emission_color", style="smooth", stops=stops),
    )
    return edit.alter(document, "materials", id, steps=(*material.steps, *steps))


def reading(document: Document, assets: Assets, id: str) -> str:
    """Return in words what a glow amounts to, "" if it gives nothing."""
    material = document.find("materials", id)
    area = mean_area(document, assets, id)
    if material is None or not material.is_emitter or area <= 0:
        return ""
    nits = luminance_of(material, assets, area)
    share = mean_luminance(material, assets)
    if share <= 0:
        return ""
    lumens = math.pi * area * nits * share
    size = f"{area:.3g} m²" if area >= 0.1 else f"{area * 1e4:.3g} cm²"
    return f"Each thing that wears it: {lumens:,.4g} lm from {size}, {nits * share:,.4g} nit on average."
