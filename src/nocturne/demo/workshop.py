"""The Orrery Workshop: the bench of a maker of mechanical planetariums, at dusk."""

import hashlib
import os
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from nocturne import __version__
from nocturne.demo import furnishing, signboard, textures, town
from nocturne.demo.living import lived_in
from nocturne.demo.putup import PutUp
from nocturne.io import image, picture, project
from nocturne.io.models.glb import write_glb
from nocturne.jobs import Update
from nocturne.pieces.shipped import shipped
from nocturne.scene import edit
from nocturne.scene import solids as forms
from nocturne.scene.assets import Assets, Named
from nocturne.scene.document import Document
from nocturne.scene.piecework import placed
from nocturne.scene.shapes import Mesh
from nocturne.scene.solids import ball, lathe, rounded_box, rounded_profile, sweep

BENCH = 0.80  # height of the bench's top, metres
# Pieces on the bench: where, turned by how much, how large.
_REFERENCES = (
    ("chart", (-0.98, 0.02), 28.0, 0.8),
    ("grey-ball", (-0.81, -0.12), 0.0, 0.4),
    ("mirror-ball", (-0.70, -0.17), 0.0, 0.4),
)


def _room(s: PutUp) -> None:
    s.group("Room")
    x0, x1, y0, y1, top = -2.1, 2.3, -3.4, 1.35, 2.75
    # The back wall is laid around the window's opening.
    a, b, low, high = -1.78, -0.72, 0.98, 2.18
    wall = [
        [(x0, y1, 0), (a, y1, 0), (a, y1, top), (x0, y1, top)],
        [(b, y1, 0), (x1, y1, 0), (x1, y1, top), (b, y1, top)],
        [(a, y1, 0), (b, y1, 0), (b, y1, low), (a, y1, low)],
        [(a, y1, high), (b, y1, high), (b, y1, top), (a, y1, top)],
    ]
    # Each piece shares the wall's UVs, so the plaster runs on from one to the next.
    pieces = []
    for corners in wall:
        piece = forms.panel(corners)
        uvs = piece.vertices[:, [0, 2]] - (x0, 0)
        pieces.append(Mesh(piece.vertices, piece.triangles, piece.normals, uvs))
    s.add("Back wall", forms.joined(*pieces), "plaster")
    depth = 0.22
    reveal = [
        [(a, y1 + depth, low), (a, y1, low), (a, y1, high), (a, y1 + depth, high)],
        [(b, y1, low), (b, y1 + depth, low), (b, y1 + depth, high), (b, y1, high)],
        [(a, y1, high), (b, y1, high), (b, y1 + depth, high), (a, y1 + depth, high)],
    ]
    s.add("Window reveal", forms.joined(*(forms.panel(c[::-1]) for c in reveal)), "ceiling")
    s.add(
        "Window sill",
        rounded_box((b - a + 0.12, depth + 0.09, 0.035), 0.008),
        "shelf-wood",
        place=((a + b) / 2, y1 + depth / 2 - 0.045, low - 0.02),
    )
    s.add("Left wall", forms.panel([(x0, y0, 0), (x0, y1, 0), (x0, y1, top), (x0, y0, top)]), "plaster")
    s.add("Right wall", forms.panel([(x1, y1, 0), (x1, y0, 0), (x1, y0, top), (x1, y1, top)]), "plaster")
    s.add("Front wall", forms.panel([(x1, y0, 0), (x0, y0, 0), (x0, y0, top), (x1, y0, top)]), "plaster")
    s.add("Floor", forms.panel([(x0, y0, 0), (x1, y0, 0), (x1, y1, 0), (x0, y1, 0)]), "floor")
    s.add("Ceiling", forms.panel([(x0, y1, top), (x1, y1, top), (x1, y0, top), (x0, y0, top)]), "ceiling")
    middle, at = (a + b) / 2, y1 + 0.11
    stile = rounded_box((0.05, 0.045, high - low), 0.006)
    s.add("Stile", stile, "shelf-wood", place=(a + 0.025, at, low))
    s.add("Stile right", "stile", "shelf-wood", place=(b - 0.025, at, low))
    s.add("Mullion", rounded_box((0.032, 0.04, high - low), 0.006), "shelf-wood", place=(middle, at, low))
    rail = rounded_box((b - a, 0.04, 0.045), 0.006)
    s.add("Rail", rail, "shelf-wood", place=(middle, at, low))
    s.add("Rail top", "rail", "shelf-wood", place=(middle, at, high - 0.045))
    s.add("Bar", rounded_box((b - a, 0.03, 0.026), 0.005), "shelf-wood", place=(middle, at, low + 0.72))


def _bench(s: PutUp) -> None:
    s.group("Bench")
    for k in range(5):
        s.add(
            f"Board {k + 1}",
            rounded_box((2.9, 0.168, 0.05), 0.0045),
            f"bench-board-{k + 1}",
            place=(0.05, -0.245 + 0.170 * k, BENCH - 0.05),
        )
    s.add("Apron", rounded_box((2.7, 0.03, 0.12), 0.006), "dark-walnut", place=(0.05, -0.28, BENCH - 0.17))
    leg = rounded_box((0.09, 0.09, BENCH - 0.05), 0.008)
    for k, x in enumerate((-1.28, 1.38)):
        s.add("Leg" if k == 0 else "Leg right", leg if k == 0 else "leg", "dark-walnut", place=(x, -0.22, 0))


def _arm(length: float, drop: float, rise: float) -> Mesh:
    t = np.linspace(0, 1, 24)[:, None]
    points = np.concatenate([t * length, 0 * t, -drop * np.sin(np.pi * t) * 0.6], axis=1)
    up = np.concatenate([np.full((8, 1), length), np.zeros((8, 1)), np.linspace(0.004, rise, 8)[:, None]], axis=1)
    return sweep(np.concatenate([points, up]), 0.0032, segments=12)


def _orrery(s: PutUp) -> None:
    s.group("Orrery", place=(0.05, 0.20, BENCH))
    base = rounded_profile(
        [
            (0, 0),
            (0.165, 0),
            (0.165, 0.018),
            (0.148, 0.022),
            (0.148, 0.038),
            (0.118, 0.046),
            (0.045, 0.052),
            (0.04, 0.056),
            (0, 0.056),
        ],
        0.006,
    )
    s.add("Base", lathe(base, segments=128), "dark-walnut")
    foot = ball(0.014)
    for k in range(3):
        a = np.radians(90 + 120 * k)
        s.add(
            "Foot" if k == 0 else f"Foot {k + 1}",
            foot if k == 0 else "foot",
            "brass",
            place=(0.135 * np.cos(a), 0.135 * np.sin(a), 0.006),
        )
    column = rounded_profile(
        [
            (0, 0.052),
            (0.042, 0.052),
            (0.042, 0.060),
            (0.026, 0.066),
            (0.016, 0.085),
            (0.013, 0.13),
            (0.018, 0.16),
            (0.026, 0.168),
            (0.026, 0.176),
            (0.015, 0.183),
            (0.0115, 0.21),
            (0.0115, 0.262),
            (0.017, 0.266),
            (0.017, 0.272),
            (0.009, 0.276),
            (0.007, 0.335),
            (0, 0.337),
        ],
        0.004,
    )
    s.add("Column", lathe(column, segments=96), "polished-brass")
    for k, (radius, teeth, z, x, material) in enumerate(
        (
            (0.062, 60, 0.196, 0.0, "brass"),
            (0.034, 32, 0.196, 0.0955, "steel"),
            (0.050, 48, 0.214, 0.0, "copper"),
            (0.040, 38, 0.231, 0.0, "brass"),
            (0.024, 22, 0.231, -0.0635, "steel"),
        )
    ):
        s.add(f"Gear {k + 1}", forms.gear(radius, teeth, 0.0055), material, place=(x, 0, z), turn=(0, 0, 4.0 * k))
    for k, x in enumerate((0.0955, -0.0635)):
        s.add(
            "Pin" if k == 0 else "Pin 2",
            sweep([(0, 0, 0.18), (0, 0, 0.2), (0, 0, 0.245)], 0.004) if k == 0 else "pin",
            "steel",
            place=(x, 0, 0),
        )
    s.add("Gear plate", rounded_box((0.24, 0.03, 0.005), 0.002), "brass", place=(0.016, 0, 0.176))
    s.add("Sun", ball(0.050, segments=96), "gold", place=(0, 0, 0.384))
    planets = (  # arm, rise, direction in degrees, radius, material
        (0.085, 0.115, 205, 0.0120, "stone"),
        (0.125, 0.130, 328, 0.0190, "cream-enamel"),
        (0.180, 0.140, 246, 0.0235, "blue-enamel"),
        (0.235, 0.135, 22, 0.0165, "red-stone"),
        (0.290, 0.175, 292, 0.0480, "banded-stone"),
        (0.350, 0.180, 165, 0.0360, "cream-enamel"),
    )
    for k, (length, rise, turn, radius, material) in enumerate(planets):
        z = 0.245 + 0.0045 * k
        s.add(
            f"Arm {k + 1}",
            _arm(length, 0.01 + 0.02 * (k % 2), rise - radius),
            "brass",
            place=(0, 0, z),
            turn=(0, 0, turn),
        )
        a = np.radians(turn)
        at = (length * np.cos(a), length * np.sin(a), z + rise)
        s.add(f"Planet {k + 1}", ball(radius, segments=72), material, place=at, turn=(12 * k, 8, 30 * k))
        cup = rounded_profile([(0, -0.004), (0.0045, -0.004), (0.0075, 0.004), (0.006, 0.0045), (0, 0.002)], 0.001)
        s.add(f"Cup {k + 1}", lathe(cup, segments=32), "polished-brass", place=(at[0], at[1], at[2] - radius - 0.001))
    a = np.radians(165)
    at = (0.350 * np.cos(a), 0.350 * np.sin(a), 0.245 + 0.0225 + 0.180)
    band = [(0.047, -0.0007), (0.070, -0.0007), (0.070, 0.0007), (0.047, 0.0007), (0.047, -0.0007)]
    s.add("Saturn ring", lathe(band, segments=128), "polished-brass", place=at, turn=(18, -14, 0))
    a = np.radians(246)
    moon = (0.180 * np.cos(a) + 0.040, 0.180 * np.sin(a) - 0.012, 0.245 + 0.009 + 0.160)
    s.add("Moon", ball(0.0065), "stone", place=moon)
    for k, (radius, tilt) in enumerate(((0.37, (0, 0, 0)),)):
        s.add(f"Great ring {k + 1}", forms.ring(radius, 0.0036, segments=192), "brass", place=(0, 0, 0.30), turn=tilt)
    for k in range(4):
        a = np.radians(45 + 90 * k)
        foot = (0.128 * np.cos(a), 0.128 * np.sin(a), 0.044)
        top = (0.37 * np.cos(a), 0.37 * np.sin(a), 0.30)
        bend = (0.35 * np.cos(a), 0.35 * np.sin(a), 0.08)
        t = np.linspace(0, 1, 28)[:, None]
        curve = (1 - t) ** 2 * np.array(foot) + 2 * t * (1 - t) * np.array(bend) + t**2 * np.array(top)
        s.add(f"Strut {k + 1}", sweep(curve, np.linspace(0.0052, 0.0036, 28), segments=14), "brass")


def _bell_jar(s: PutUp) -> None:
    s.group("Bell jar", place=(-0.72, 0.22, BENCH))
    base = rounded_profile([(0, 0), (0.150, 0), (0.150, 0.020), (0.138, 0.026), (0.138, 0.032), (0, 0.032)], 0.005)
    s.add("Base", lathe(base, segments=128), "dark-walnut")
    t = np.linspace(0, np.pi / 2, 24)
    dome = [(0.128, 0.0325), (0.128, 0.25), *((0.128 * np.cos(a), 0.25 + 0.128 * np.sin(a)) for a in t[1:])]
    s.add("Jar", lathe(dome, segments=128), "bell-glass")
    knob = rounded_profile(
        [(0, 0.376), (0.009, 0.377), (0.009, 0.386), (0.018, 0.397), (0.011, 0.412), (0, 0.414)], 0.005
    )
    s.add("Knob", lathe(knob, segments=48), "polished-brass")
    pillar = rounded_profile(
        [
            (0, 0.03),
            (0.045, 0.03),
            (0.045, 0.037),
            (0.014, 0.046),
            (0.008, 0.075),
            (0.010, 0.10),
            (0.006, 0.118),
            (0, 0.119),
        ],
        0.004,
    )
    s.add("Pillar", lathe(pillar, segments=64), "brass")
    for k, (radius, tilt) in enumerate(
        ((0.088, (90, 0, 20)), (0.086, (90, 0, 110)), (0.084, (23, 0, 0)), (0.080, (0, 0, 0)), (0.076, (64, 0, 50)))
    ):
        s.add(
            f"Armilla {k + 1}",
            forms.ring(radius, 0.0021, segments=120),
            "brass" if k % 2 else "polished-brass",
            place=(0, 0, 0.205),
            turn=tilt,
        )
    s.add(
        "Axis", sweep([(0, 0, -0.095), (0, 0, 0), (0, 0, 0.095)], 0.0018), "steel", place=(0, 0, 0.205), turn=(23, 0, 0)
    )
    s.add("Little world", ball(0.026, segments=72), "blue-enamel", place=(0, 0, 0.205))


def _flask(s: PutUp) -> None:
    s.group("Flask", place=(0.585, 0.05, BENCH))

    def bulb(r: float, neck: float, low: float, top: float) -> list[tuple[float, float]]:
        t = np.linspace(-np.pi / 2 + 0.42, np.arccos(neck / r) * 1.0, 40)
        return [(0, low), *((r * np.cos(a), 0.068 + r * np.sin(a)) for a in t), (neck, top)]

    outer = bulb(0.066, 0.0165, 0.0078, 0.195)
    inner = bulb(0.0636, 0.0142, 0.0102, 0.195)
    lip = [(0.0205, 0.200), (0.0205, 0.203), (0.0185, 0.2045), (0.0150, 0.203)]
    glass = rounded_profile([*outer, *lip, *reversed(inner)], 0.0016, steps=3)
    s.add("Glass", lathe(glass, segments=128), "flask-glass")
    # The liquid reaches into the glass wall; precedence says that there the glass exists.
    t = np.linspace(-np.pi / 2 + 0.40, np.radians(16), 40)
    r, surface = 0.0648, 0.068 + 0.0648 * np.sin(np.radians(16))
    edge = r * np.cos(np.radians(16))
    fill = [
        (0, 0.0090),
        *((r * np.cos(a), 0.068 + r * np.sin(a)) for a in t),
        (edge - 0.0022, surface - 0.0006),
        (edge - 0.005, surface - 0.0016),
        (0, surface - 0.0018),
    ]
    s.add("Liquid", lathe(np.array(fill), segments=128), "liquid")
    for k, (x, y, z, radius) in enumerate(
        ((0.020, -0.030, 0.066, 0.0058), (-0.014, -0.038, 0.050, 0.0036), (-0.028, -0.020, 0.074, 0.0044))
    ):
        s.add(f"Bubble {k + 1}", ball(radius, segments=40), "air", place=(x, y, z))
    s.add(
        "Stir rod",
        sweep([(-0.030, 0.006, 0.022), (0.0, 0.0, 0.13), (0.030, -0.006, 0.262)], 0.0032, segments=24),
        "rod-glass",
    )
    s.add(
        "Cork ring",
        forms.moved(forms.ring(0.043, 0.0085, segments=96), np.diag([1, 1, 0.9, 1.0])),
        "leather",
        place=(0, 0, 0.0078),
    )


def _desk_lamp(s: PutUp) -> np.ndarray:
    s.group("Desk lamp", place=(0.98, 0.38, BENCH))
    base = rounded_profile(
        [(0, 0), (0.098, 0), (0.098, 0.010), (0.088, 0.020), (0.03, 0.030), (0.014, 0.034), (0.014, 0.05), (0, 0.05)],
        0.006,
    )
    s.add("Base", lathe(base, segments=96), "green-enamel")
    elbow, head = np.array([0.10, 0.06, 0.34]), np.array([-0.30, -0.10, 0.53])
    s.add("Lower arm", sweep([(0, 0, 0.045), elbow * 0.5 + (0, 0, 0.02), elbow], 0.0068), "brass")
    s.add("Upper arm", sweep([elbow, (elbow + head) / 2, head], 0.0058), "brass")
    s.add("Joint", ball(0.0155), "polished-brass", place=elbow)
    turn = (14, 12, 0)
    shade = rounded_profile(
        [
            (0.100, -0.088),
            (0.098, -0.088),
            (0.060, -0.020),
            (0.026, 0.016),
            (0.026, 0.040),
            (0, 0.041),
            (0, 0.043),
            (0.028, 0.043),
            (0.028, 0.016),
            (0.062, -0.019),
            (0.101, -0.086),
            (0.100, -0.088),
        ],
        0.004,
    )
    s.add("Shade", lathe(shade[::-1], segments=112), "green-enamel", place=head, turn=turn)
    s.add(
        "Shade lining",
        lathe(
            rounded_profile([(0.0970, -0.0872), (0.0588, -0.0200), (0.0245, 0.0150), (0.0, 0.0155)], 0.004), segments=96
        ),
        "ceramic",
        place=head,
        turn=turn,
    )
    return np.array([0.98, 0.38, BENCH]) + head + np.array([-0.010, 0.010, -0.040])


def _glow(s: PutUp) -> None:
    s.group("Gas tube", place=(0.42, 1.30, 1.72), turn=(90, 0, 0))
    phi = np.linspace(np.radians(100), np.radians(440), 160)
    loop = np.stack([0.235 * np.cos(phi), 0.235 * np.sin(phi), 0 * phi], axis=1)
    s.add("Tube", sweep(loop, 0.0085, segments=24), "neon")
    clip = rounded_box((0.02, 0.012, 0.05), 0.003)
    for k, a in enumerate(np.radians((20, 140, 260))):
        s.add(
            "Clip" if k == 0 else f"Clip {k + 1}",
            clip if k == 0 else "clip",
            "iron",
            place=(0.235 * np.cos(a), 0.235 * np.sin(a), -0.05),
        )
    cap = sweep([(0, 0, 0), (0.012, 0, 0), (0.024, 0, 0)], 0.0098, segments=24)
    for k in (0, -1):
        s.add("Cap" if k == 0 else "Cap 2", cap if k == 0 else "cap", "iron", place=loop[k] - (0.012, 0, 0))

    s.group("Paper globe", place=(-0.26, 0.95, 1.93))
    t = np.linspace(-np.pi / 2 + 0.16, np.pi / 2 - 0.16, 240)
    r = 0.205 * (1 - 0.012 * np.abs(np.sin(t * 17)) ** 0.7)
    s.add("Globe", lathe(np.stack([r * np.cos(t), r * np.sin(t)], axis=1), segments=96), "paper")
    s.add("Cord", sweep([(0, 0, 0.2), (0.001, 0, 0.4), (0, 0, 0.78)], 0.0022), "iron")
    s.add("Crown", forms.ring(0.034, 0.003, segments=48), "iron", place=(0, 0, 0.202))

    s.group("Pilot strip", place=(0.36, 1.20, 1.24))
    s.add("Board", rounded_box((0.62, 0.05, 0.085), 0.006), "iron", place=(0, 0.04, -0.042))
    bead = ball(0.0085, segments=24)
    collar = lathe(
        rounded_profile([(0.0088, 0), (0.0125, 0), (0.0125, 0.006), (0.0095, 0.009), (0.0088, 0.009)], 0.002),
        segments=32,
    )
    for k in range(12):
        x = -0.264 + 0.048 * k
        s.add(
            "Pilot" if k == 0 else f"Pilot {k + 1}",
            bead if k == 0 else "pilot",
            "pilot-green" if k in (3, 4, 9) else "pilot-amber",
            place=(x, 0.009, 0),
        )
        s.add(
            "Collar" if k == 0 else f"Collar {k + 1}",
            collar if k == 0 else "collar",
            "steel",
            place=(x, 0.016, 0),
            turn=(90, 0, 0),
        )


def _clutter(s: PutUp) -> None:
    s.group("Books", place=(-1.10, 0.34, BENCH), turn=(0, 0, 8))
    z = 0.0
    for k, (w, d, h, turn, cover) in enumerate(
        ((0.25, 0.18, 0.034, 0, "leather"), (0.23, 0.165, 0.028, -7, "cloth"), (0.20, 0.145, 0.022, 11, "green-enamel"))
    ):
        s.add(
            f"Pages {k + 1}",
            rounded_box((w - 0.012, d - 0.012, h - 0.008), 0.001),
            "pages",
            place=(0, 0, z + 0.004),
            turn=(0, 0, turn),
        )
        board = rounded_box((w, d, 0.004), 0.0016)
        s.add(f"Lower board {k + 1}", board, cover, place=(0, 0, z), turn=(0, 0, turn))
        s.add(f"Upper board {k + 1}", board, cover, place=(0, 0, z + h - 0.004), turn=(0, 0, turn))
        a = np.radians(turn)
        s.add(
            f"Spine {k + 1}",
            rounded_box((0.006, d, h), 0.0025),
            cover,
            place=(-(w / 2 - 0.001) * np.cos(a), -(w / 2 - 0.001) * np.sin(a), z),
            turn=(0, 0, turn),
        )
        z += h
    s.group("Mug", place=(-0.36, -0.10, BENCH), turn=(0, 0, -35))
    body = rounded_profile(
        [
            (0, 0.001),
            (0.036, 0.001),
            (0.040, 0.006),
            (0.042, 0.088),
            (0.0405, 0.091),
            (0.038, 0.088),
            (0.036, 0.012),
            (0.030, 0.007),
            (0, 0.007),
        ],
        0.004,
    )
    s.add("Body", lathe(body, segments=96), "ceramic")
    t = np.linspace(-0.5, 0.5, 24) * np.pi
    s.add(
        "Handle",
        sweep(np.stack([0.0405 + 0.026 * np.cos(t), 0 * t, 0.047 + 0.030 * np.sin(t)], axis=1), 0.0052, segments=18),
        "ceramic",
    )
    s.add("Tea", lathe([(0.0382, 0.070), (0.0, 0.0702)], segments=64), "tea")
    s.group("Drawing", place=(0.10, -0.13, BENCH + 0.0012), turn=(0, 0, 7))
    s.add("Sheet", forms.sheet(0.40, 0.27, curl=0.022), "drawing")
    s.add(
        "Pencil",
        sweep([(0, 0, 0), (0.05, 0, 0), (0.15, 0, 0)], 0.0036, segments=6),
        "cream-enamel",
        place=(0.02, -0.065, 0.0042),
        turn=(0, 0, 24),
    )
    s.add(
        "Weight",
        lathe(
            rounded_profile(
                [(0, 0), (0.022, 0), (0.022, 0.012), (0.012, 0.018), (0.008, 0.028), (0.011, 0.036), (0, 0.041)], 0.004
            ),
            segments=64,
        ),
        "polished-brass",
        place=(-0.15, -0.09, 0.0004),
    )
    s.group("Shelf", place=(0.98, 1.20, 1.50))
    s.add("Plank", rounded_box((0.92, 0.20, 0.026), 0.005), "shelf-wood", place=(0.06, 0.04, 0))
    jar = rounded_profile(
        [(0, 0.002), (0.036, 0.002), (0.040, 0.008), (0.040, 0.100), (0.030, 0.112), (0.030, 0.126)], 0.008
    )
    lid = rounded_profile([(0, 0.122), (0.033, 0.122), (0.033, 0.138), (0.012, 0.143), (0, 0.143)], 0.003)
    for k, (x, grow, inside) in enumerate(
        (
            (-0.30, 1.0, "red-stone"),
            (-0.18, 1.2, "stone"),
            (-0.05, 0.9, "liquid"),
            (0.30, 1.1, "blue-enamel"),
            (0.42, 0.95, "copper"),
        )
    ):
        s.add(
            "Jar" if k == 0 else f"Jar {k + 1}",
            lathe(jar, segments=64) if k == 0 else "jar",
            "bell-glass",
            place=(x, 0.04, 0.027),
            size=(grow,) * 3,
        )
        s.add(
            "Lid" if k == 0 else f"Lid {k + 1}",
            lathe(lid, segments=64) if k == 0 else "lid",
            "brass",
            place=(x, 0.04, 0.027),
            size=(grow,) * 3,
        )
        if inside != "liquid":
            heap = rounded_profile(
                [(0, 0.004), (0.034, 0.004), (0.037, 0.010), (0.037, 0.055 + 0.008 * k), (0.02, 0.068), (0, 0.072)],
                0.006,
            )
            s.add(f"Pigment {k + 1}", lathe(heap, segments=48), inside, place=(x, 0.04, 0.028), size=(grow,) * 3)
    s.group("Shop sign", place=(0.94, 1.345 - signboard.SIZE[1] / 2, 0.775))
    s.add("Board", rounded_box(signboard.SIZE, 0.003), "signboard")
    for k, x in enumerate((-0.335, 0.335)):
        s.add(
            f"Screw {k + 1}", "screw-1" if k else ball(0.005, segments=24), "polished-brass", place=(x, -0.011, 0.135)
        )
    s.group("Tool pot", place=(0.36, 0.42, BENCH))
    s.add(
        "Pot",
        lathe(
            rounded_profile(
                [(0, 0.001), (0.040, 0.001), (0.044, 0.105), (0.041, 0.105), (0.037, 0.006), (0, 0.006)], 0.003
            ),
            segments=72,
        ),
        "copper",
    )
    rng = np.random.default_rng(8)
    for k in range(7):
        lean = np.array([*rng.normal(0, 0.035, 2), 0.17 + 0.07 * rng.random()])
        foot = np.array([*rng.normal(0, 0.012, 2), 0.012])
        s.add(
            f"Tool {k + 1}",
            sweep([foot, (foot + lean) / 2, lean], np.array([0.0026, 0.0032, 0.0042]), segments=12),
            ("steel", "dark-walnut", "brass", "dark-walnut", "steel", "leather", "dark-walnut")[k],
        )


def build() -> tuple[Document, dict[str, Mesh]]:
    """Return the document, with paths relative to its folder, and the meshes by the names it uses."""
    s = PutUp()
    _room(s)
    town.put_up(s)
    _bench(s)
    _orrery(s)
    _bell_jar(s)
    _flask(s)
    lamp_at = _desk_lamp(s)
    _glow(s)
    _clutter(s)
    document = Document(
        name="The Orrery Workshop",
        things=tuple(s.things),
        materials=(*map(lived_in, furnishing.materials()), signboard.material()),
        lights=furnishing.lights(lamp_at),
        groups=furnishing.GROUPS,
        views=furnishing.views(),
        active_view="wide",
        cues=furnishing.cues(),
        finish=furnishing.finish(),
    )
    return _with_references(document), s.meshes


def _with_references(document: Document) -> Document:
    """Return the document with pieces off the shelf on the bench: they show how much light there is, and where from."""
    pieces = {piece.id: piece.document for piece in shipped()}
    for id, place, turn, size in _REFERENCES:
        at = np.array((*place, BENCH))
        document, group = placed(document, pieces[f"shipped-{id}"], at, moved=lambda name: name)
        document = edit.alter(document, "things", group, turn_deg=(0.0, 0.0, turn), size=(size,) * 3)
    return document


def user_path() -> Path:
    """Return where a user's copy of the demo project lies, as this version of Nocturne builds it."""
    base = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    sources = b"".join(path.read_bytes() for path in sorted(Path(__file__).parent.glob("*.py")))
    key = hashlib.sha256(__version__.encode() + sources).hexdigest()[:10]
    return base / "nocturne" / f"orrery-workshop-{key}" / project.INSIDE_FOLDER


@dataclass(frozen=True, repr=False)
class Made:
    """The demo in memory: the project as if it had been read, and the pictures that are to be written for it."""

    project: project.Project
    pictures: dict[str, np.ndarray]


def build_project(path: Path) -> Iterator[Update]:
    """Make the demo in memory, to lie at a path; the last update's `result` is a `Made`."""
    yield Update(0, 2, "Building the demo")
    document, meshes = build()
    yield Update(1, 2, "Painting the demo's textures")
    pictures = textures.all_pictures()
    images = {
        key: image.as_read(pictures[Path(key[0]).stem], space=key[1]) for key in sorted(Named.of(document).images)
    }
    made = project.Project(document, path, Assets(meshes, images))
    yield Update(2, 2, "Built", result=Made(made, pictures))


def save(folder: Path | str) -> Iterator[Update]:
    """Write the demo as an ordinary project; the last update's `result` is its document file."""
    for update in build_project(Path(folder) / project.INSIDE_FOLDER):
        if update.result is None:
            yield update
    yield from write(update.result)


def write(made: Made) -> Iterator[Update]:
    """Write the files of a demo that was made in memory; the last update's `result` is its document file."""
    folder, document, pictures = made.project.folder, made.project.document, made.pictures
    files: dict[str, dict[str, Mesh]] = {}
    for key, mesh in made.project.assets.meshes.items():
        file, _, part = key.partition("#")
        files.setdefault(file, {})[part] = mesh
    total, done = len(files) + len(pictures) + 1, 0
    for file, parts in files.items():
        yield Update(done, total, f"Writing {file}")
        write_glb(folder / file, parts)
        done += 1
    for stem, values in pictures.items():
        yield Update(done, total, f"Writing textures/{stem}.png")
        picture.write(folder / "textures" / f"{stem}.png", values)
        done += 1
    path = project.save_document(folder, document)
    yield Update(total, total, "Written", result=path)
