"""The pieces that come with Nocturne: stands, cards, backdrops, references and furniture, all with their numbers."""

import itertools
from functools import cache

from nocturne.colour.spaces import from_srgb
from nocturne.pieces.piece import Piece
from nocturne.scene.document import Document
from nocturne.scene.forms import AnyForm
from nocturne.scene.forms.backdrop import Backdrop
from nocturne.scene.forms.ball import Ball
from nocturne.scene.forms.box import Box
from nocturne.scene.forms.cylinder import Cylinder
from nocturne.scene.forms.panel import Panel
from nocturne.scene.forms.turned import Turned
from nocturne.scene.materials import Material
from nocturne.scene.thing import Thing

# Patches of the colour chart by rows from the top: sRGB, 8 bit. Six hues light, full and deep, then greys in equal
# steps of lightness.
PATCHES = (
    ((236, 174, 168), (238, 214, 160), (183, 219, 170), (160, 218, 222), (170, 186, 232), (222, 176, 222)),
    ((190, 62, 54), (222, 166, 42), (84, 150, 62), (38, 148, 158), (58, 84, 176), (160, 64, 148)),
    ((92, 34, 34), (112, 80, 28), (38, 74, 36), (20, 70, 82), (34, 42, 98), (80, 34, 78)),
    ((243, 243, 243), (200, 200, 200), (160, 160, 160), (121, 121, 121), (84, 84, 84), (49, 49, 49)),
)
GREY = 0.18
_MATT = {"specular_weight": 0.0}


class _Made:
    """Gathers the things and materials of one piece."""

    def __init__(self, id: str, name: str, kind: str, words: str) -> None:
        self.id, self.name, self.kind, self.words = id, name, kind, words
        self.things: list[Thing] = [Thing(id="piece", name=name)]
        self.materials: dict[str, Material] = {}

    def add(self, name: str, form: AnyForm, material: Material, **values) -> None:
        self.materials[material.id] = material
        thing = Thing(
            id=f"part-{len(self.things)}", name=name, parent="piece", form=form, material=material.id, **values
        )
        self.things.append(thing)

    def piece(self) -> Piece:
        document = Document(name=self.name, things=tuple(self.things), materials=tuple(self.materials.values()))
        return Piece(f"shipped-{self.id}", self.name, self.kind, self.words, document)


def _paint(name: str, *srgb: int, rough: float = 0.5) -> Material:
    colour = from_srgb(*(v / 255 for v in srgb))
    return Material(id=name.lower().replace(" ", "-"), name=name, base_color=colour, specular_roughness=rough)


_WHITE = _paint("White paint", 225, 222, 216)
_STONE = _paint("Pale stone", 196, 190, 180, rough=0.7)
_OAK = _paint("Pale oak", 190, 152, 108, rough=0.45)
_WALNUT = _paint("Dark walnut", 92, 62, 42, rough=0.4)
_CLOTH = Material(id="grey-cloth", name="Grey cloth", base_color=from_srgb(0.46, 0.45, 0.44), **_MATT)
_LINEN = Material(id="linen", name="Linen", base_color=from_srgb(0.82, 0.79, 0.74), **_MATT)
_PAPER = Material(id="backdrop-paper", name="Backdrop paper", base_color=from_srgb(0.78, 0.78, 0.78), **_MATT)
_BLACK_CLOTH = Material(id="black-cloth", name="Black cloth", base_color=(0.012, 0.012, 0.012), **_MATT)
_STEEL = Material(
    id="stand-steel", name="Stand steel", base_color=(0.5, 0.5, 0.5), base_metalness=1, specular_roughness=0.35
)
_GREY = Material(id="grey-18", name="Grey 18 %", base_color=(GREY,) * 3, **_MATT)
_MIRROR = Material(id="mirror", name="Mirror", base_color=(1, 1, 1), base_metalness=1, specular_roughness=0.0)


@cache
def shipped() -> tuple[Piece, ...]:
    """Return all of them, as they are listed."""
    made = (
        *(_pedestal(), _plinth(), _column(), _white_card(), _black_card(), _sweep(), _wall()),
        *(_ball("grey", "Grey ball", _GREY, "18 % grey, matt: how light falls, and how much"),),
        *(_ball("mirror", "Mirror ball", _MIRROR, "A mirror: where light comes from"), _chart()),
        *(_table(), _chair(), _sofa(), _bed(), _shelf(), _steps()),
    )
    return tuple(one.piece() for one in made)


def _pedestal() -> _Made:
    made = _Made("pedestal", "Round pedestal", "Stands", "0.4 m wide, 0.3 m high")
    made.add("Pedestal", Cylinder(diameter=0.4, height=0.3, edge=0.006), _WHITE)
    return made


def _plinth() -> _Made:
    made = _Made("plinth", "Square plinth", "Stands", "0.4 m wide, 1 m high, as in a gallery")
    made.add("Plinth", Box(width=0.4, depth=0.4, height=1.0, edge=0.003), _WHITE)
    return made


def _column() -> _Made:
    made = _Made("column", "Turned column", "Stands", "A stone foot for a vase or a bust, 0.9 m high")
    profile = (
        (0, 0),
        (0.2, 0),
        (0.2, 0.08),
        (0.15, 0.11),
        (0.13, 0.4),
        (0.15, 0.78),
        (0.2, 0.82),
        (0.2, 0.9),
        (0, 0.9),
    )
    made.add("Column", Turned(profile=profile, round=0.012), _STONE)
    return made


def _card(id: str, name: str, words: str, material: Material) -> _Made:
    made = _Made(id, name, "Cards", words)
    made.add("Card", Panel(width=1.0, height=1.5, thickness=0.005), material, place=(0.0, 0.0, 0.5))
    for side in (-0.35, 0.35):
        foot = Cylinder(diameter=0.025, height=0.9, edge=0.002, sides=32)
        made.add("Pole", foot, _STEEL, place=(side, 0.03, 0.0))
        made.add("Foot", Box(width=0.04, depth=0.5, height=0.02, edge=0.004), _STEEL, place=(side, 0.03, 0.0))
    return made


def _white_card() -> _Made:
    return _card("white-card", "White card", "Gives light back: 1 by 1.5 m on feet", _WHITE)


def _black_card() -> _Made:
    return _card("black-card", "Black card", "Keeps light away: 1 by 1.5 m on feet", _BLACK_CLOTH)


def _sweep() -> _Made:
    made = _Made("sweep", "Paper sweep", "Backdrops", "2.7 m of paper from the wall to the floor without an edge")
    made.add("Paper", Backdrop(width=2.7, depth=3.0, height=2.5, bend=0.8), _PAPER)
    return made


def _wall() -> _Made:
    made = _Made("wall", "Plain wall", "Backdrops", "4 m of painted wall with a skirting board")
    made.add("Wall", Box(width=4.0, depth=0.1, height=2.6, edge=0.0), _STONE)
    made.add("Skirting", Box(width=4.0, depth=0.015, height=0.09, edge=0.003), _WHITE, place=(0.0, -0.0575, 0.0))
    return made


def _ball(id: str, name: str, material: Material, words: str) -> _Made:
    made = _Made(f"{id}-ball", name, "References", words)
    made.add("Ball", Ball(diameter=0.2), material)
    return made


def _chart() -> _Made:
    made = _Made("chart", "Colour chart", "References", "24 matt patches of stated sRGB values, 0.3 m high")
    side, gap = 0.042, 0.006
    width, height = 4 * (side + gap) + gap, 6 * (side + gap) + gap
    made.add("Board", Panel(width=width, height=height, thickness=0.004), _BLACK_CLOTH, place=(0.0, 0.0, 0.0))
    for row, column in itertools.product(range(4), range(6)):
        rgb = PATCHES[row][column]
        name = "Patch " + " ".join(map(str, rgb))
        patch = Material(id=name.lower().replace(" ", "-"), name=name, base_color=patch_colour(*rgb), **_MATT)
        x = (row - 1.5) * (side + gap)
        z = (5 - column) * (side + gap) + gap
        form = Panel(width=side, height=side, thickness=0.001)
        made.add(name, form, patch, place=(round(x, 6), -0.0025, round(z, 6)))
    return made


def patch_colour(red: int, green: int, blue: int) -> tuple[float, float, float]:
    """Return the base colour, in the working space, of a patch whose sRGB value is stated in 8 bit (IEC 61966-2-1)."""
    return from_srgb(red / 255, green / 255, blue / 255)


def _legs(made: _Made, width: float, depth: float, height: float, thick: float, material: Material) -> None:
    for x, y in itertools.product((-1, 1), (-1, 1)):
        place = (x * (width - thick) / 2, y * (depth - thick) / 2, 0.0)
        made.add("Leg", Box(width=thick, depth=thick, height=height, edge=0.003), material, place=place)


def _table() -> _Made:
    made = _Made("table", "Table", "Furniture", "1.6 by 0.8 m, 0.74 m high")
    made.add("Top", Box(width=1.6, depth=0.8, height=0.03, edge=0.003), _OAK, place=(0.0, 0.0, 0.71))
    _legs(made, 1.5, 0.7, 0.71, 0.06, _OAK)
    return made


def _chair() -> _Made:
    made = _Made("chair", "Chair", "Furniture", "A plain chair, its seat 0.45 m high")
    made.add("Seat", Box(width=0.44, depth=0.44, height=0.03, edge=0.008), _WALNUT, place=(0.0, 0.0, 0.42))
    _legs(made, 0.42, 0.42, 0.42, 0.035, _WALNUT)
    for x in (-0.1925, 0.1925):
        post = Box(width=0.035, depth=0.035, height=0.4, edge=0.003)
        made.add("Post", post, _WALNUT, place=(x, 0.1925, 0.45))
    for z in (0.58, 0.74):
        made.add("Rail", Box(width=0.36, depth=0.02, height=0.09, edge=0.006), _WALNUT, place=(0.0, 0.1925, z))
    return made


def _sofa() -> _Made:
    made = _Made("sofa", "Sofa", "Furniture", "For two, 1.8 m wide")
    made.add("Base", Box(width=1.8, depth=0.85, height=0.2, edge=0.03), _CLOTH, place=(0.0, 0.0, 0.12))
    made.add("Back", Box(width=1.8, depth=0.2, height=0.5, edge=0.06), _CLOTH, place=(0.0, 0.325, 0.3))
    for x in (-0.8, 0.8):
        made.add("Arm", Box(width=0.2, depth=0.85, height=0.32, edge=0.05), _CLOTH, place=(x, 0.0, 0.3))
    for x in (-0.35, 0.35):
        made.add("Cushion", Box(width=0.68, depth=0.62, height=0.16, edge=0.05), _CLOTH, place=(x, -0.1, 0.31))
    _legs(made, 1.7, 0.75, 0.12, 0.05, _WALNUT)
    return made


def _bed() -> _Made:
    made = _Made("bed", "Bed", "Furniture", "1.6 by 2 m")
    made.add("Frame", Box(width=1.66, depth=2.06, height=0.14, edge=0.008), _OAK, place=(0.0, 0.0, 0.14))
    made.add("Head", Box(width=1.66, depth=0.05, height=0.75, edge=0.008), _OAK, place=(0.0, 1.05, 0.14))
    made.add("Mattress", Box(width=1.6, depth=2.0, height=0.2, edge=0.06), _LINEN, place=(0.0, 0.0, 0.26))
    for x in (-0.4, 0.4):
        made.add("Pillow", Box(width=0.65, depth=0.4, height=0.13, edge=0.06), _LINEN, place=(x, 0.75, 0.45))
    _legs(made, 1.6, 2.0, 0.14, 0.08, _OAK)
    return made


def _shelf() -> _Made:
    made = _Made("shelf", "Bookshelf", "Furniture", "Five boards, 0.9 by 1.8 m")
    for x in (-0.44, 0.44):
        made.add("Side", Box(width=0.02, depth=0.3, height=1.8, edge=0.001), _OAK, place=(x, 0.0, 0.0))
    for k in range(6):
        board = Box(width=0.86, depth=0.29, height=0.02, edge=0.001)
        made.add("Board", board, _OAK, place=(0.0, 0.0, round(0.06 + k * 0.344, 4)))
    made.add("Back", Box(width=0.86, depth=0.006, height=1.78, edge=0.0), _OAK, place=(0.0, 0.147, 0.01))
    return made


def _steps() -> _Made:
    made = _Made("steps", "Steps", "Stands", "Three blocks like stairs, 0.2 m each")
    for k in range(3):
        step = Box(width=0.6, depth=0.3, height=round(0.2 * (3 - k), 2), edge=0.004)
        made.add("Step", step, _WHITE, place=(0.0, round(0.3 - 0.3 * k, 2), 0.0))
    return made
