"""What is seen through the window: a town on its hill, a plain of houses behind it, mountains far off."""

import numpy as np

from nocturne.demo import textures
from nocturne.demo.putup import PutUp
from nocturne.scene import solids as forms
from nocturne.scene.forms.turned import Turned
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.shapes import Mesh, smooth_normals
from nocturne.scene.solids import rounded_box
from nocturne.scene.thing import Thing

_HILL_ROWS, _HILL_M = 96, 200
_HOUSES = 46
_LIT = 0.45  # of them
_PLAIN_ENDS_M = 6000


def put_up(s: PutUp) -> None:
    """Put up all of it."""
    s.group("Town", place=(-62, 190, -30))
    hill = _hill(s)
    _houses(s, hill)
    _trees(s, "town-hill", number=420, apart=2.2)
    s.group("Plain", place=(-62, 190, -30.5))
    s.add(
        "Fields",
        forms.panel([(-2500, 60, 0), (2500, 60, 0), (2500, _PLAIN_ENDS_M, 0), (-2500, _PLAIN_ENDS_M, 0)]),
        "hill",
    )
    s.add("Mountains", _mountains(), "mountains", place=(-900, 5000, -40))
    s.add("Quarter", forms.panel([(-900, 60, 0.1), (900, 60, 0.1), (900, 1500, 0.1), (-900, 1500, 0.1)]), "hill")
    _plain_houses(s)
    _trees(s, "plain-quarter", number=9000, apart=4.0)


def _hill(s: PutUp) -> np.ndarray:
    n = _HILL_ROWS
    x, y = np.meshgrid(np.linspace(-1, 1, n), np.linspace(-1, 1, n))
    rough = 0.7 * textures.noise((n, n), seed=71, slope=3)
    hill = 26 * np.exp(-(((x + 0.1) / 0.55) ** 2) - ((y - 0.25) / 0.5) ** 2) + rough
    s.add("Hill", forms.terrain(_HILL_M, hill), "hill")
    return hill


def _house() -> Mesh:
    """Return walls under a roof with a chimney."""
    corners = [[-3.2, -2.7, 4], [3.2, -2.7, 4], [3.2, 0, 6.4], [-3.2, 0, 6.4], [-3.2, 2.7, 4], [3.2, 2.7, 4]]
    faces = [[0, 1, 2], [0, 2, 3], [3, 2, 5], [3, 5, 4], [0, 3, 4], [1, 5, 2]]
    roof = Mesh(np.array(corners), np.array(faces), np.tile((0, 0, 1), (6, 1)), np.zeros((6, 2)))
    chimney = _moved(rounded_box((0.7, 0.6, 2.4), 0.03, steps=1), (1.7, 0.9, 4.9))
    return forms.faceted(forms.joined(rounded_box((6, 5, 4), 0.02, steps=1), roof, chimney))


def _panes() -> Mesh:
    """Return two windows in front and two behind, a narrow bar across each."""
    halves = []
    for low, high in ((1.3, 1.98), (2.04, 2.7)):
        front = forms.panel([(-0.5, -2.53, low), (0.5, -2.53, low), (0.5, -2.53, high), (-0.5, -2.53, high)])
        back = forms.panel([(0.5, 2.53, low), (-0.5, 2.53, low), (-0.5, 2.53, high), (0.5, 2.53, high)])
        halves += [_moved(half, (x, 0, 0)) for half in (front, back) for x in (-1.5, 1.0)]
    return forms.joined(*halves)


def _moved(mesh: Mesh, by: tuple[float, float, float]) -> Mesh:
    matrix = np.eye(4)
    matrix[:3, 3] = by
    return forms.moved(mesh, matrix)


def _houses(s: PutUp, hill: np.ndarray) -> None:
    rng, n = np.random.default_rng(5), _HILL_ROWS
    house, panes = _house(), _panes()
    for k in range(_HOUSES):
        px, py = rng.normal(-6, 24), rng.normal(2, 15)
        i, j = int(np.clip((py / 100 + 1) / 2 * n, 0, n - 1)), int(np.clip((px / 100 + 1) / 2 * n, 0, n - 1))
        place, turn, grow = (px, py, hill[i, j] - 0.8), (0, 0, rng.normal(0, 22)), rng.uniform(0.7, 1.15)
        number = "" if k == 0 else f" {k + 1}"
        s.add(f"House{number}", "house" if k else house, "houses", place, turn, (grow,) * 3)
        lit = "windows" if k == 0 or rng.random() < _LIT else "dark-windows"
        s.add(f"Panes{number}", "panes" if k else panes, lit, place, turn, (grow,) * 3)


def _crown() -> Mesh:
    """Return a tree as it is seen from afar: a lumpy crown that hides its trunk."""
    ball = forms.ball(1.0, segments=36)
    p, rng = ball.vertices.astype(float), np.random.default_rng(3)
    lumps = np.zeros(len(p))
    for size, depth in ((2.5, 0.13), (6.0, 0.07), (13.0, 0.05)):
        for _ in range(4):
            way = rng.normal(size=3)
            lumps += 0.5 * depth * np.sin(p @ (size * way / np.linalg.norm(way)) + rng.uniform(0, 2 * np.pi))
    crown = p * (1 + lumps)[:, None] * (1.0, 1.0, 1.3) + (0, 0, 1.15)
    return Mesh(crown, ball.triangles, smooth_normals(crown, ball.triangles), ball.uvs)


def _trees(s: PutUp, over: str, *, number: int, apart: float) -> None:
    """Scatter trees over a ground, clear of the houses of the town."""
    s.add("Tree", _crown(), "trees", size=(2.0,) * 3)
    s.things[-1] = tree = s.things[-1].model_copy(update={"visible": False})
    houses = tuple(t.id for t in s.things if t.parent == "town" and t.name.startswith("House"))
    spread = Scatter(
        sources=(Source(thing=tree.id),),
        over="surface",
        on=over,
        number=number,
        apart=apart,
        turn_deg=(0.0, 0.0, 180.0),
        smallest=0.5,
        largest=1.5,
        keep_out=houses if s.parent == "town" else (),
        margin=1.5,
        seed=6,
    )
    s.things.append(Thing(id=f"{s.parent}-trees", name=f"Trees of the {s.parent}", parent=s.parent, scatter=spread))


def _plain_houses(s: PutUp) -> None:
    """Scatter some thousand houses over the near part of the plain."""
    roof = Turned(profile=((0.0, 0.0), (0.5, 0.0), (0.5, 0.55), (0.62, 0.5), (0.0, 1.05)), round=0.0, sides=4)
    values = {"parent": "plain", "material": "houses", "size": (11.0, 9.0, 6.0), "visible": False}
    s.things.append(Thing(id="plain-house", name="Plain house", form=roof, **values))
    spread = Scatter(
        sources=(Source(thing="plain-house"),),
        over="surface",
        on="plain-quarter",
        number=14_000,
        apart=13.0,
        turn_deg=(0.0, 0.0, 180.0),
        step_deg=15.0,
        smallest=0.7,
        largest=1.3,
        seed=4,
    )
    s.things.append(Thing(id="plain-houses", name="Houses of the plain", parent="plain", scatter=spread))


def _mountains() -> Mesh:
    """Return ridges that stand before the end of the plain, a sky's width across."""
    n = 200
    x, y = np.meshgrid(np.linspace(-1, 1, n), np.linspace(-1, 1, n))
    ridges = np.abs(textures.noise((n, n), seed=23, slope=3.4)) + 0.12 * textures.noise((n, n), seed=24, slope=2.4)
    return forms.terrain(7000, (100 + 190 * ridges) * np.clip(1.3 * (y + 0.75), 0, 1) * (0.75 + 0.25 * x))
