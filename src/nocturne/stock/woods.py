"""Woods, cut from the solid, so that their grain runs through."""

from nocturne.scene.patterns import Fractal, Levels, Plank, Wood
from nocturne.stock.ready import Ready, below, ranged, ready, rgb, tinted

KIND = "Wood"
# The heart of the trunk lies beside the piece and a little aslant, so that rings are cut as a board is.
_CUT = {"origin": (0.11, 0.05, 0.0), "tilt": (82.0, 3.0, 14.0)}


def _wood(name: str, tags: str, dark: str, middle: str, light: str, **values) -> Ready:
    """Return an oiled wood of three tones, from late wood to early wood."""
    ring, wobble, grain = (values.pop(k, v) for k, v in (("ring", 0.004), ("wobble", 0.5), ("grain", 0.45)))
    wood = Wood(ring=0.7 * ring, wobble=wobble, grain=grain, **_CUT)
    over = {"parameter": "base_color", "blend": "overlay"}
    # Pores and rays run along the trunk; the tone wanders along a board.
    pores = Fractal(scale=0.0009, octaves=3, size=(1.0, 1.0, 30.0), amount=0.45, **over, **_CUT)
    stain = Fractal(scale=0.03, octaves=3, size=(1.0, 1.0, 6.0), amount=0.3, **over, **_CUT)
    steps = (*tinted(wood, (0.0, light), (0.5, middle), (1.0, dark)), pores, stain)
    low, high = values.pop("gloss", (0.32, 0.5))
    steps += ranged(wood, "specular_roughness", high, low)
    steps += ranged(wood, "geometry_height", 0.6, 0.4)
    return ready(KIND, name, tags, base_color=rgb(middle), relief_depth=0.0003, steps=steps, **values)


_BOARD = Plank(length=1.2, height=0.12, gap=0.0015, edge=0.002)
_TRUNK = Wood(ring=0.004, wobble=0.8, grain=0.4, **_CUT)
_WEATHERED = below(
    "Grey wood",
    base_color=rgb("857a6c"),
    specular_roughness=0.75,
    specular_weight=0.4,
    steps=tinted(_TRUNK, (0.0, "a39a8c"), (0.6, "827668"), (1.0, "5b5147")),
)

WOODS = (
    _wood("Oiled oak", "furniture floor brown", "7d5932", "9c7445", "b48c58", ring=0.003),
    _wood("Walnut", "furniture dark brown", "452b1a", "5c3d26", "765233", ring=0.004, wobble=0.7),
    _wood("Pine", "softwood yellow", "b98a52", "d3ae78", "dfc292", ring=0.006, grain=0.3, gloss=(0.4, 0.55)),
    _wood("Maple", "pale furniture", "c09a6c", "d6b88d", "e0c7a2", ring=0.0025, grain=0.25),
    _wood("Cherry wood", "red furniture", "7c3f24", "955433", "a96a45", ring=0.003),
    _wood("Ebony", "black instrument", "0c0a09", "1a1512", "2b231d", ring=0.0018, gloss=(0.2, 0.35)),
    _wood("Teak", "ship garden golden", "714a27", "8f6338", "a5794a", ring=0.004),
    _wood(
        "Varnished mahogany",
        "red gloss lacquer furniture",
        "3c1209",
        "6b2814",
        "8b4326",
        ring=0.003,
        coat_weight=1.0,
        coat_roughness=0.04,
        coat_ior=1.52,
        coat_levelling=1.0,
    ),
    ready(
        KIND,
        "Oak floor boards",
        "planks parquet room",
        stand="slab",
        size=2.0,
        base_color=rgb("9c7243"),
        relief_depth=0.002,
        steps=(
            *tinted(_BOARD.model_copy(update={"output": "grain"}), (0.1, "6b4a2a"), (0.5, "93693d"), (0.9, "b08a57")),
            _BOARD.model_copy(update={"output": "id", "parameter": "base_color", "blend": "overlay", "amount": 0.45}),
            _BOARD.model_copy(
                update={"output": "face", "parameter": "base_color", "blend": "multiply", "amount": 0.85}
            ),
            *ranged(_BOARD.model_copy(update={"output": "grain"}), "specular_roughness", 0.34, 0.5),
            _BOARD.model_copy(update={"output": "height", "parameter": "geometry_height"}),
        ),
    ),
    ready(
        KIND,
        "Flaking painted wood",
        "worn old blue peeling layer",
        below=(_WEATHERED,),
        size=0.5,
        base_color=rgb("5f8791"),
        specular_roughness=0.45,
        layer_thickness_mm=0.4,
        steps=(
            Fractal(parameter="layer_cover", scale=0.09, octaves=6, warp=0.8),
            Levels(parameter="layer_cover", inlow=0.44, inhigh=0.47),
            *ranged(Fractal(scale=0.03, octaves=4), "specular_roughness", 0.35, 0.6),
        ),
    ),
)
