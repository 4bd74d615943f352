"""A set of one's own: what bringing in, scattering, choosing and moving cost.

    PYTHONPATH=src .venv/bin/python benchmarks/set.py

Bringing in: a million triangles of each kind, beside what a library takes to load the same file without materials or
mending. Scattering: 100,000 copies of a mesh of 20,000 triangles against one copy, and rays a second on both, in turn.
Moving: one of 10,000 things, against preparing all of them.
"""

import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import trimesh

from nocturne.engine.prepare import Preparer
from nocturne.engine.render import blank_film, render
from nocturne.io.models import glb, read, usdout
from nocturne.io.models.outgoing import Outgoing
from nocturne.jobs import run
from nocturne.scene import edit, placing
from nocturne.scene.assets import Assets
from nocturne.scene.camera import View
from nocturne.scene.document import Document
from nocturne.scene.forms import form_mesh
from nocturne.scene.forms.ball import Ball
from nocturne.scene.lights import make_light
from nocturne.scene.materials import Material
from nocturne.scene.scatter import Scatter, Source
from nocturne.scene.shapes import Mesh, smooth_normals
from nocturne.scene.solids import grid
from nocturne.scene.thing import Thing


def landscape(side: int) -> Mesh:
    """Return a rough square of about 2 * side * side triangles."""
    x, y = np.meshgrid(np.linspace(0, 100, side + 1), np.linspace(0, 100, side + 1))
    z = 3 * np.sin(x / 3) * np.cos(y / 5)
    flat = grid(np.stack([x, y, z], -1), np.zeros((*x.shape, 3)) + (0, 0, 1), np.stack([x, y], -1))
    return Mesh(flat.vertices, flat.triangles, smooth_normals(flat.vertices, flat.triangles), flat.uvs)


def timed(work) -> tuple[float, object]:
    """Return the seconds that something takes, and what it gives."""
    start = time.perf_counter()
    made = work()
    return time.perf_counter() - start, made


def resident() -> float:
    """Return the memory of this process, MB."""
    lines = Path("/proc/self/status").read_text().splitlines()
    return next(int(line.split()[1]) for line in lines if line.startswith("VmRSS")) / 1024


def peak_of(path: Path) -> float:
    """Return the most memory, MB, that a process takes to read a model, its own start left out."""
    script = (
        "import sys\nfrom nocturne.io.models import read\nimport trimesh\n"
        "def now(name):\n"
        "    return next(int(line.split()[1]) for line in open('/proc/self/status') if line.startswith(name))\n"
        "start = now('VmRSS')\n"
        "kept = read.read(sys.argv[1])\n"
        "print((now('VmHWM') - start) / 1024)"
    )
    out = subprocess.run([sys.executable, "-c", script, str(path)], capture_output=True, text=True, check=True)
    return float(out.stdout)


def bring_in(folder: Path) -> None:
    """Time each kind of model."""
    mesh = landscape(707)
    document = Document(
        things=(Thing(id="t", name="Land", mesh="m#land", material="m"),), materials=(Material(id="m", name="Earth"),)
    )
    outgoing = Outgoing.of(document, Assets({"m#land": mesh}), folder)
    glb.write(folder / "a.glb", outgoing)
    usdout.write(folder / "a.usdc", outgoing)
    plain = trimesh.Trimesh(mesh.vertices, mesh.triangles, process=False)
    for name in ("a.obj", "a.ply", "a.stl"):
        plain.export(folder / name)
    print(f"Bringing in {len(mesh.triangles):,} triangles")
    for name in ("a.glb", "a.usdc", "a.obj", "a.ply", "a.stl"):
        ours, _ = timed(lambda name=name: read.read(folder / name))
        words = ""
        if not name.endswith("usdc"):
            theirs, _ = timed(lambda name=name: trimesh.load_scene(folder / name, process=False))
            words = f", {ours / theirs:.2f} of the library's own loading"
        print(f"  {name[2:]:5} {ours:6.2f} s{words}; {peak_of(folder / name):,.0f} MB at most")


def rays_a_second(document: Document) -> tuple[float, float]:
    """Return the seconds that preparing takes, and rays a second of a small picture."""
    preparer = Preparer()
    seconds, prepared = timed(lambda: preparer.prepare(document, Assets(), width=320, height=180))
    best = 0.0
    for _ in range(3):
        film, rays = blank_film(prepared), []
        work = render(prepared, film, samples=8, noise=0.0)
        took, _ = timed(lambda work=work, rays=rays: run(work, lambda u: rays.append(u.preview.rays)))
        best = max(best, rays[-1] / took)
    return seconds, best


def scatter() -> None:
    """Compare a hundred thousand copies with one."""
    form = Ball(sides=142)
    n = len(form_mesh(form).triangles)
    view = View(id="v", eye=(0, -40, 25), target=(0, 0, 0), focal_mm=35, width=320, height=180)
    one = Document(
        things=(Thing(id="s", form=form, size=(20, 20, 20), place=(0, 0, -10)),),
        lights=(make_light(id="l", kind="dome", unit="nit"),),
        views=(view,),
        active_view="v",
    )
    spread = Scatter(sources=(Source(thing="s"),), counts=(317, 317, 1), spacing=(1.2, 1.2, 1), turn_deg=(0, 0, 180))
    many = edit.changed(one, things=(Thing(id="s", form=form, visible=False), Thing(id="c", scatter=spread)))
    before = resident()
    _, alone = rays_a_second(one)
    seconds, together = rays_a_second(many)
    more = resident() - before
    print(f"Scattering {317 * 317:,} copies of {n:,} triangles, {317 * 317 * n / 1e9:.2f} billion in all")
    print(f"  prepared in {seconds:.2f} s, {more:,.0f} MB more; rays a second {together / alone:.2f} of one copy's")


def move() -> None:
    """Choose and move one of ten thousand things."""
    form = Ball(sides=16)
    rng = np.random.default_rng(1)
    things = tuple(
        Thing(id=f"t{i}", name=f"Ball {i}", form=form, place=tuple(rng.uniform(-50, 50, 3))) for i in range(10_000)
    )
    document = Document(things=things, lights=(make_light(id="l", kind="dome", unit="nit"),))
    preparer = Preparer()
    whole, _ = timed(lambda: preparer.prepare(document, Assets()))
    moved, after = timed(lambda: placing.moved(document, "things", ("t500",), np.array([1.0, 0, 0])))
    again, _ = timed(lambda: preparer.prepare(after, Assets()))
    print(
        f"One of {len(things):,} things: moved in {moved / whole:.4f}, prepared in {again / whole:.4f} of all at first"
    )


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as name:
        bring_in(Path(name))
    scatter()
    move()
