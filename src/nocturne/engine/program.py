"""From the steps of a material to the program that kernels run at a hit: rows of whole numbers, of floats, and lists.

Steps inside of a step come before it: first a row of its numbers is copied to a slot of the work row, then what drives
them changes that copy, then the step itself reads it (see `kernels.patterns.machine`).
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from functools import cache

import numpy as np

from nocturne.engine.layout import mat
from nocturne.engine.layout import pattern as pat
from nocturne.engine.layout import steps as layout
from nocturne.scene.materials import COVER, DRIVEN, GLOWING, HEIGHT, Material
from nocturne.scene.patterns import every
from nocturne.scene.patterns.signs import Lettering
from nocturne.scene.patterns.step import BLENDS, Step

_ENDLESS = 3e38
_OFFSETS = {
    "base_color": mat.BASE,
    "base_metalness": mat.METALNESS,
    "specular_roughness": mat.ROUGHNESS,
    "specular_color": mat.SPECULAR_COLOR,
    "specular_weight": mat.SPECULAR_WEIGHT,
    "specular_ior": mat.IOR,
    "base_weight": mat.BASE_WEIGHT,
    "base_diffuse_roughness": mat.DIFFUSE_ROUGHNESS,
    "specular_roughness_anisotropy": mat.ANISOTROPY,
    "specular_rotation_deg": mat.ROTATION,
    "specular_tail": mat.TAIL,
    "specular_tail_roughness": mat.TAIL_ROUGHNESS,
    "subsurface_weight": mat.SUBSURFACE,
    "subsurface_color": mat.SUBSURFACE_COLOR,
    "subsurface_radius_mm": mat.RADIUS,
    "subsurface_radius_scale": mat.RADIUS_SCALE,
    "subsurface_scatter_anisotropy": mat.SUBSURFACE_G,
    "coat_roughness_anisotropy": mat.COAT_ANISOTROPY,
    "coat_rotation_deg": mat.COAT_ROTATION,
    "coat_tail": mat.COAT_TAIL,
    "coat_tail_roughness": mat.COAT_TAIL_ROUGHNESS,
    "coat_levelling": mat.COAT_LEVELLING,
    "fuzz_weight": mat.FUZZ,
    "fuzz_color": mat.FUZZ_COLOR,
    "fuzz_roughness": mat.FUZZ_ROUGHNESS,
    "thin_film_weight": mat.FILM,
    "thin_film_thickness_nm": mat.FILM_THICKNESS,
    "thin_film_ior": mat.FILM_IOR,
    "geometry_opacity": mat.OPACITY,
    "layer_cover": mat.COVER,
    "metal_n": mat.N,
    "metal_k": mat.K,
    "transmission_weight": mat.TRANSMISSION,
    "transmission_color": mat.TRANS_COLOR,
    "coat_weight": mat.COAT,
    "coat_color": mat.COAT_COLOR,
    "coat_roughness": mat.COAT_ROUGHNESS,
    "coat_ior": mat.COAT_IOR,
    "coat_darkening": mat.COAT_DARKENING,
    "emission_color": mat.EMISSION_COLOR,
    "emission_luminance": mat.LUMINANCE,
    "geometry_normal": mat.NORMAL,
    "geometry_height": mat.HEIGHT,
}
_DIMMING = ("coat_weight", "coat_color", "coat_ior")
_PLACING = {"amount": pat.SHARE, "offset": pat.OFFSET, "repeat": pat.REPEAT, "turn_deg": pat.TURN}
_BLENDS = {name: getattr(pat, name.upper()) for name, _ in BLENDS}
_WHERE = {
    "uv": pat.BY_UV,
    "solid": pat.SOLID,
    "flat": pat.FLAT,
    "sides": pat.SIDES,
    "cylinder": pat.CYLINDER,
    "ball": pat.BALL,
    "camera": pat.CAMERA,
}


@dataclass
class Program:
    """Rows as they are added, for all materials together."""

    slots: Mapping[tuple[str, ...], int]
    evened: Mapping[tuple[str, ...], np.ndarray]  # lists of pictures that are made ready to hide repeats
    targets: tuple[str, ...] = ()  # ids of things whose distance is asked, in the order of their rows
    whole: list[np.ndarray] = field(default_factory=list)
    floats: list[np.ndarray] = field(default_factory=list)
    entries: list[np.ndarray] = field(default_factory=list)
    n_entries: int = 0

    def add_material(self, material: Material) -> dict[str, int]:
        """Add the steps of a material; return where they are, by the names of its whole row's parts.

        What drives its emission, and the coat that dims it, comes first, what drives how much it covers and its height
        last: each can be worked out apart.
        """
        first = len(self.whole)
        steps = [s for s in material.steps if self._counts(s)]
        counts = []
        glowing = (*GLOWING, *_DIMMING) if material.is_emitter else GLOWING
        for part in (glowing, DRIVEN.keys() - {*glowing, COVER, HEIGHT}, (COVER,), (HEIGHT,)):
            before = len(self.whole)
            for step in steps:
                if step.parameter in part:
                    low, high = limits(Material, step.parameter)
                    self._add(step, _OFFSETS[step.parameter], DRIVEN[step.parameter], low, high, into=-1, depth=0)
            counts.append(len(self.whole) - before)
        glows, _, covers, heights = counts
        return {
            "FIRST_BINDING": first,
            "BINDINGS": sum(counts),
            "GLOWS": glows,
            "COVERS": covers,
            "HEIGHTS": heights,
        }

    def tables(self) -> dict[str, np.ndarray]:
        """Return the arrays that kernels read."""
        return {
            "bind_i": np.stack(self.whole or [pat.BINDING.filled(np.int32)]),
            "bind_f": np.stack(self.floats or [pat.PLACEMENT.filled(np.float32)]),
            "entries": np.concatenate(self.entries or [np.zeros((1, pat.ENTRY))]).astype(np.float32),
        }

    def _counts(self, step: Step) -> bool:
        return step.on and (step.picture is None or step.slot in self.slots)

    def _source(self, step: Step) -> int:
        if step.picture is not None:
            return self.slots[step.slot]
        return self.targets.index(step.asked_thing) if step.asked_thing in self.targets else -1

    def _add(
        self, step: Step, target: int, channels: int, low: float | None, high: float | None, *, into: int, depth: int
    ) -> None:
        inner = [s for s in step.steps if self._counts(s)]
        floats = _floats(step, low, high)
        driven = {s.parameter for s in inner}
        if inner:
            self.whole.append(pat.BINDING.filled(np.int32, KIND=pat.COPY, SLOT=depth))
            self.floats.append(floats)
            widths = step.drivable()
            for child in inner:
                name = child.parameter
                info = type(step).model_fields[name].json_schema_extra
                at = _PLACING.get(name) or layout.OFFSETS[f"{step.kind}_{name}".upper()]
                width = 3 if name == "offset" else widths[name]
                self._add(child, at, width, info["low"], info["high"], into=depth, depth=depth + 1)
        table = self.evened.get(step.slot) if step.picture is not None else step.table
        self.whole.append(
            pat.BINDING.filled(
                np.int32,
                TARGET=target,
                CHANNELS=channels,
                KIND=layout.NUMBERS[step.kind],
                FAMILY=_families()[layout.NUMBERS[step.kind]],
                TEXTURE=self._source(step),
                BLEND=_BLENDS[step.blend],
                WHERE=_where(step),
                IN_SET=step.anchor == "set",
                SLOT=depth if inner else -1,
                INTO=into,
                MOVES=bool(driven & {"repeat", "turn_deg"}),
                IS_NORMAL=step.parameter == "geometry_normal" and step.is_placed,
                FIRST_ENTRY=self.n_entries,
                ENTRIES=0 if table is None else len(table),
            )
        )
        self.floats.append(floats)
        if table is not None:
            self.entries.append(np.asarray(table))
            self.n_entries += len(table)


def letter(materials: Iterable[Material]) -> None:
    """Work out the letters of signs, which takes a moment; they are kept."""
    for material in materials:
        for step in every(material.steps):
            if step.on and isinstance(step, Lettering):
                _ = step.table


@cache
def _families() -> dict[int, int]:
    """Return the family of each kind; kernels are imported only when they are needed."""
    from nocturne.engine.kernels.patterns.steps import FAMILIES

    return FAMILIES


def limits(model: type, name: str) -> tuple[float | None, float | None]:
    """Return the least and the most that a driven field of a model may become, None where there is no limit."""
    info = model.model_fields.get(name)
    if info is None:
        return None, None
    extra = info.json_schema_extra
    low, high = extra["low"], extra["high"]
    if extra["kind"] == "colour":
        low, high = 0.0 if low is None else low, 1.0 if high is None else high
    return low, high


def _where(step: Step) -> int:
    if not step.is_placed:
        return pat.NOWHERE
    return pat.BY_UV_2 if step.where == "uv" and step.uv_set == 2 else _WHERE[step.where]


def _per_metre(step: Step) -> float:
    """Return how much longer a way is in a step's units; of a camera's picture, a metre before it."""
    if step.where == "camera":
        return float((step.size[0] * step.size[1]) ** -0.5)
    return float(np.prod(step.size) ** (-1 / 3))


def _floats(step: Step, low: float | None, high: float | None) -> np.ndarray:
    to_u, to_v = step.affine()
    frame = step.frame()
    row = pat.PLACEMENT.filled(
        np.float32,
        TO_U=to_u[:2],
        TO_V=to_v[:2],
        OFFSET=(*step.offset, 0.0),
        STRETCH=math.sqrt(abs(to_u[0] * to_v[1] - to_u[1] * to_v[0])),
        SHARE=step.share,
        MOST_SHARE=1.0 if step.is_mixed else _ENDLESS,
        LOW=-_ENDLESS if low is None else low,
        HIGH=_ENDLESS if high is None else high,
        IS_INVERTED=step.invert and step.parameter != "geometry_normal",
        SPREAD=step.spread,
        REPEAT=step.repeat,
        TURN=step.turn_deg,
        TO_X=frame[0, :3],
        TO_Y=frame[1, :3],
        TO_Z=frame[2, :3],
        AT_ORIGIN=frame[:, 3],
        PER_METRE=_per_metre(step),
        UNIT=step.size,
    )
    for name in step.own_fields():
        at = layout.OFFSETS[f"{step.kind}_{name}".upper()]
        value = np.atleast_1d(np.asarray(step.number_of(name), float))
        row[at : at + len(value)] = value
    if step.kind == "image" and step.parameter == "geometry_normal":
        row[layout.OFFSETS["IMAGE_PATCH_TURN"]] = 0  # what is turned in the picture would still point as it did
    return row
