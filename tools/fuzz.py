"""Seeded fuzz of every reader: damaged copies of good files; what is raised must be an error for users.

    PYTHONPATH=src .venv/bin/python tools/fuzz.py [--seconds 300] [--seed 1] [--only glb,usdc] [--rounds 10000]

Good files of every kind are made first. Each round damages one (bits flipped, cut short, pieces doubled, numbers made
huge, words swapped) and reads it as the application would; --forked: what is read in a process of its own, in a copy of
this one, which is twenty times as quick, and what nobody foresaw there counts, although users would be told of it. Ends
with 1 at the first thing raised that is no `NocturneError`, and leaves the file that did it.
"""

import argparse
import os
import pickle
import random
import signal
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
import trimesh

from nocturne.errors import NocturneError
from nocturne.film.film import Film
from nocturne.io import exr, image, lut, picture, project, proofs, registry
from nocturne.io.models import apart, glb, usd, usdlibrary, usdout
from nocturne.io.models import read as models
from nocturne.io.models.border import Border
from nocturne.io.models.outgoing import Outgoing
from nocturne.jobs import run
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.forms.box import Box
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.patterns import MeshColours, Picture
from nocturne.scene.thing import Thing

NUMBERS = (b"1e400", b"-1", b"4294967296", b"NaN", b"null", b"1e-320", b"[]", b'"\\ud800"', b"99999999999999999999")


MOST_SECONDS = 300  # for one small file, on a busy machine


class Unforeseen(Exception):
    """A copy of this process ended otherwise than by telling what is wrong."""


def read_forked(module: str, border: Border) -> object:
    """Return what `apart.read_apart` would."""
    with tempfile.TemporaryDirectory(prefix="nocturne-fuzz-") as folder:
        target = Path(folder) / "result"
        child = os.fork()
        if not child:
            code = 70
            try:
                signal.alarm(MOST_SECONDS)
                nothing = os.open(os.devnull, os.O_WRONLY)
                os.dup2(nothing, 1)
                os.dup2(nothing, 2)
                code = apart._main(module, str(border.path), "", str(target))
            finally:
                os._exit(code)
        ended = os.waitstatus_to_exitcode(os.waitpid(child, 0)[1])
        if ended < 0 and ended != -signal.SIGALRM:
            raise ValueError(f"its library gave up (code {ended})")  # its own fault, which the copy is there for
        if ended not in (0, apart._REFUSED):
            raise Unforeseen(f"{module} ended with {ended}")
        result = pickle.loads(target.read_bytes())
        if ended == apart._REFUSED:
            raise ValueError(result)
        return result


def read_project(path: Path) -> None:
    """Read a project with all it names."""
    run(project.load(path))


def read_proof(path: Path) -> None:
    """Read a contact sheet and one of its proofs."""
    proofs.listed(path.parent.parent)
    run(proofs.read(path.parent.parent, path.parent.name))


def good_files(folder: Path) -> dict[Path, Callable[[Path], object]]:
    """Write a good file of every kind and return how each is read."""
    rng = np.random.default_rng(1)
    pixels = rng.random((24, 32, 3))
    found: dict[Path, Callable[[Path], object]] = {}
    for name in ("a.png", "a.jpg", "a.tif"):
        picture.write(folder / name, pixels)
        found[folder / name] = image.read
    picture.write_float(folder / "f.tif", pixels, space="ACEScg")
    found[folder / "f.tif"] = image.read
    exr.write_layers(folder / "a.exr", {"": pixels.astype(np.float32)}, primaries=((0.7, 0.3),) * 4)
    found[folder / "a.exr"] = image.read
    film = Film.blank(24, 16, ("light",))
    film.samples[:] = 1
    document = Document(
        things=(Thing(id="t", name="Box", mesh="a.glb#box", material="m"),),
        materials=(Material(id="m", name="Wood", steps=(Picture(path="a.png"),)),),
        lights=(make_light(id="l", kind="dome", unit="nit"),),
    )
    exr.write_film(folder / "film.exr", film, document)
    found[folder / "film.exr"] = exr.read_film
    box = trimesh.creation.box()
    box.visual.vertex_colors = np.arange(len(box.vertices) * 4, dtype=np.uint8).reshape(-1, 4)
    for kind in ("glb", "obj", "ply", "stl"):
        box.export(folder / f"a.{kind}")
        found[folder / f"a.{kind}"] = models.read
    whole = Document(
        things=(
            Thing(id="g", name="Group"),
            Thing(id="a", name="A", parent="g", form=Box(), material="m"),
            Thing(id="b", name="B", parent="g", form=Box(), material="m", place=(1, 2, 3), visible=False),
            Thing(id="c", name="C", mesh="tinted", material="t"),
        ),
        materials=(
            Material(id="m", name="Wood", coat_weight=1.0, steps=(Picture(path="a.png", uv_set=2),)),
            Material(id="t", name="Tinted", base_color=(1, 1, 1), steps=(MeshColours(blend="multiply"),)),
        ),
        views=(View(id="v", name="Flat", projection="orthographic"), View(id="w", name="Deep")),
        lights=(make_light(id="l", kind="spot", parent="g"), make_light(id="r", kind="rect")),
    )
    plain = Box().build()
    tinted = replace(plain, colours=np.abs(plain.vertices), more_uvs=plain.uvs[:, ::-1])
    outgoing = Outgoing.of(whole, Assets({"tinted": tinted}), folder)
    glb.write(folder / "whole.glb", outgoing)
    for kind in ("usda", "usdc", "usdz"):
        usdout.write(folder / f"whole.{kind}", outgoing)
    (folder / "whole.mtl").write_text("newmtl m\nKd 1 0.5 0\nPr 0.5\nmap_Kd -s 2 2 2 a.png\n")
    (folder / "whole.obj").write_text(
        "mtllib whole.mtl\ng one\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0.5 0.2 0\nv 0 1 0\nvt 0 0\nvt 1 1\nvn 0 0 1\n"
        "usemtl m\nf 1/1/1 2/2/1 3/1/1 4/1/1 5/2/1\nusemtl n\nf -1//1 -2//1 -3//1\n"
    )
    for name in ("whole.glb", "whole.usda", "whole.usdc", "whole.usdz", "whole.obj"):
        found[folder / name] = models.read
    for name, data in trimesh.exchange.gltf.export_gltf(trimesh.Scene(box), merge_buffers=True).items():
        (folder / name).write_bytes(data)
    found[folder / "model.gltf"] = models.read
    rows = "\n".join(f"{r} {g} {b}" for b in (0, 1) for g in (0, 1) for r in (0, 1))
    (folder / "a.cube").write_text(f'TITLE "a"\nLUT_3D_SIZE 2\n{rows}\n')
    found[folder / "a.cube"] = lut.read
    project.save_document(folder / "a.nocturne", document)
    found[folder / "a.nocturne"] = read_project
    proof = proofs.new(document, film, name="One", noise=0.1, denoised=False)
    run(proofs.keep(folder / "p.proofs", proof, film, document, clean=None, thumb=pixels.astype(np.float32)))
    for name in (proofs.LIGHT, proofs.SETTINGS, proofs.ABOUT):
        found[folder / "p.proofs" / proof.id / name] = read_proof
    return found


def damaged(data: bytes, rng: random.Random) -> bytes:
    """Return data with one to four things wrong."""
    out = bytearray(data)
    for _ in range(rng.randint(1, 4)):
        if not out:
            break
        at = rng.randrange(len(out))
        how = rng.randrange(6)
        if how == 0:
            out[at] ^= 1 << rng.randrange(8)
        elif how == 1:
            del out[at:]
        elif how == 2:
            piece = bytes(out[at : at + rng.randint(1, 64)])
            out[at:at] = piece * rng.randint(1, 3)
        elif how == 3:
            out[at : at + rng.randint(1, 8)] = rng.choice(NUMBERS)
        elif how == 4:
            del out[at : at + rng.randint(1, 32)]
        else:
            out[at : at + 4] = rng.choice((b"\xff\xff\xff\xff", b"\0\0\0\0", b"\x7f\xff\xff\xff", b"\xff\xff\xff\x7f"))
    return bytes(out)


def one_round(good: dict[Path, Callable], rng: random.Random) -> Path | None:
    """Damage a file and read it; return the file if it raised what it should not, with the fault told."""
    path = rng.choice(list(good))
    before = path.read_bytes()
    path.write_bytes(damaged(before, rng))
    try:
        good[path](path)
        if path.suffix in (".png", ".glb", ".exr", ".nocturne"):
            registry.describe(path)
    except NocturneError:
        pass
    except Exception as error:  # noqa: BLE001 - any other kind is what is looked for
        kept = Path(tempfile.gettempdir()) / f"nocturne-fuzz-{path.name}"
        kept.write_bytes(path.read_bytes())
        print(f"{kept}: {type(error).__name__}: {error}")
        return kept
    finally:
        path.write_bytes(before)
    return None


def main() -> int:
    """Run rounds for a time and return the exit code."""
    words = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    words.add_argument("--seconds", type=float, default=300)
    words.add_argument("--seed", type=int, default=1)
    words.add_argument("--only", default="", help="endings of the kinds to damage, with commas between")
    words.add_argument("--rounds", type=int, default=0, help="instead of a time")
    words.add_argument("--forked", action="store_true")
    given = words.parse_args()
    if given.forked:
        usdlibrary.ready()
        import pxr.UsdLux
        import pxr.UsdShade  # noqa: F401 - once for all copies

        usd.read_apart = read_forked
    rng, n = random.Random(given.seed), 0
    with tempfile.TemporaryDirectory() as folder:
        good = good_files(Path(folder))
        if given.only:
            good = {path: read for path, read in good.items() if path.suffix[1:] in given.only.split(",")}
        end = time.monotonic() + given.seconds
        while n < given.rounds if given.rounds else time.monotonic() < end:
            n += 1
            if one_round(good, rng) is not None:
                return 1
    print(f"{n} damaged files, none raised anything but errors for users.")
    return 0


if __name__ == "__main__":
    sys.exit(main())
