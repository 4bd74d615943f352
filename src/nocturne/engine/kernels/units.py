"""The kernel's units as the path loop sees them: names of compiled functions, bound to addresses by `link`."""

from numba import types

_UNIT = types.void(types.intp, types.intp)
_RAY = types.void(types.intp, types.intp, types.intp)
NAMES = (
    "read_material",
    "read_sheet",
    "derive_material",
    "evaluate_material",
    "sample_material",
    "sample_lamp",
    "lamp_hit",
    "infinite_hit",
)

intersect = types.ExternalFunction("nocturne_intersect", _RAY)
occluded = types.ExternalFunction("nocturne_occluded", _RAY)
read_material = types.ExternalFunction("nocturne_read_material", _UNIT)
read_sheet = types.ExternalFunction("nocturne_read_sheet", _UNIT)
derive_material = types.ExternalFunction("nocturne_derive_material", _UNIT)
evaluate_material = types.ExternalFunction("nocturne_evaluate_material", _UNIT)
sample_material = types.ExternalFunction("nocturne_sample_material", _UNIT)
sample_lamp = types.ExternalFunction("nocturne_sample_lamp", _UNIT)
lamp_hit = types.ExternalFunction("nocturne_lamp_hit", _UNIT)
infinite_hit = types.ExternalFunction("nocturne_infinite_hit", _UNIT)
