"""Speed of the engine as ratios within one run, on the demo project; prints a table for docs/performance.md.

PYTHONPATH=src .venv/bin/python benchmarks/engine.py
"""

import time

import numpy as np

from nocturne.demo import workshop
from nocturne.engine import embree, objects
from nocturne.engine.pick import pixel_ray
from nocturne.engine.prepare import Preparer
from nocturne.engine.render import blank_film, render
from nocturne.finish import kernels as finish
from nocturne.finish.denoise import denoise_groups
from nocturne.finish.develop import Light, Mixer, develop, grade
from nocturne.io import project
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.scene.desk import Strip
from nocturne.scene.finish import Finish
from nocturne.scene.lights import make_light
from nocturne.warm import warm

SIZE = (640, 360)


class _Table(list):
    """Rows that are printed as they come."""

    def append(self, row: tuple) -> None:
        """Add and print a row."""
        if not self:
            print("| what | measured | goal |\n|---|---|---|")
        print("| " + " | ".join(row) + " |", flush=True)
        super().append(row)


def best(work, times: int = 3) -> float:
    """Return the shortest of some runs, seconds."""
    found = []
    for _ in range(times):
        started = time.perf_counter()
        work()
        found.append(time.perf_counter() - started)
    return min(found)


def raw_rays(prepared) -> float:
    """Return camera rays a second that Embree alone answers from one thread, called from a compiled loop."""
    from numba import njit, types

    from nocturne.engine.kernels import units

    rays = np.zeros((4096 + 1, 24), np.float32)
    start = (-rays.ctypes.data % 64) // 4
    rays = rays.reshape(-1)[start : start + 4096 * 24].reshape(4096, 24)
    rng = np.random.default_rng(1)
    for ray in rays:
        ray[0:3], ray[4:7] = pixel_ray(prepared, rng.uniform(0, SIZE[0]), rng.uniform(0, SIZE[1]))[:2]

    objects.name_rays()

    @njit(types.void(types.intp, types.intp, types.intp), nogil=True)
    def shoot(top, address, n):
        for i in range(n):
            units.intersect(top, address + i * 96, 0)

    def again() -> None:
        ids = rays.view(np.uint32)
        rays[:, 8] = np.inf
        ids[:, 9], ids[:, 18], ids[:, 19] = 1, 0xFFFFFFFF, 0xFFFFFFFF
        shoot(prepared.stage.address, rays.ctypes.data, len(rays))

    again()
    return len(rays) / best(again, 12)


def engine_rate(prepared, threads: int, samples: int = 3) -> tuple[float, float]:
    """Return (samples, rays) a second of the whole engine."""
    film, last = blank_film(prepared), []
    started = time.perf_counter()
    run(render(prepared, film, samples=samples, noise=0.0, threads=threads), lambda u: last.append(u.preview.rays))
    seconds = time.perf_counter() - started
    return float(film.samples.sum()) / seconds, last[-1] / seconds


def main() -> None:
    """Measure and print."""
    run(warm())
    loaded = run(
        project.load(workshop.user_path())
        if workshop.user_path().is_file()
        else workshop.save(workshop.user_path().parent)
    )
    if not isinstance(loaded, project.Project):
        loaded = run(project.load(loaded))
    document, assets = loaded.document, loaded.assets
    preparer = Preparer()
    prepared = preparer.prepare(document, assets, width=SIZE[0], height=SIZE[1])
    rows = _Table()

    singles, doubles, raws = [], [], []
    for _ in range(3):
        raws.append(raw_rays(prepared))
        singles.append(engine_rate(prepared, 1))
        doubles.append(engine_rate(prepared, 2))
    raw, one, two = np.median(raws), np.median(singles, axis=0), np.median(doubles, axis=0)
    rows.append(("rays a second, whole engine / Embree alone (camera rays), one thread", f"{one[1] / raw:.2f}", "0.4"))
    rows.append(("two threads / one thread", f"{two[0] / one[0]:.2f}", "1.9"))

    frame = one[0] / (SIZE[0] * SIZE[1])  # whole samples of the picture a second, one thread

    def coarse(change) -> float:
        """Return seconds from an edited document to its first coarse picture."""
        started = time.perf_counter()
        ready = preparer.prepare(change, assets, width=SIZE[0], height=SIZE[1])
        work = render(ready, blank_film(ready), coarse=True)
        next(work)
        seconds = time.perf_counter() - started
        work.close()
        return seconds

    view = document.view
    for name, changes in (
        ("camera", [edit.alter(document, "views", view.id, focal_mm=29.0 + k) for k in range(4)]),
        ("lamp's power", [edit.alter(document, "lights", "bulb", power=500.0 + k) for k in range(4)]),
        ("roughness", [edit.alter(document, "materials", "brass", specular_roughness=0.1 + 0.1 * k) for k in range(4)]),
        ("moved thing", [edit.alter(document, "things", "mug", place=(-0.3 - 0.02 * k, -0.1, 0.8)) for k in range(4)]),
    ):
        seconds = float(np.median([coarse(change) for change in changes]))
        rows.append(
            (
                f"edit of a {name} to first coarse picture, ms (in samples of the whole picture on one thread)",
                f"{seconds * 1000:.0f} ({seconds * frame:.2f})",
                "100 ms",
            )
        )

    rng = np.random.default_rng(0)
    groups = rng.random((12, 1080, 1920, 3)).astype(np.float32)
    smooth = np.linspace(0.1, 4, 1920, dtype=np.float32)[None, :, None]
    light = Light(groups * smooth, np.ones((1080, 1920), np.int32), tuple(f"g{k}" for k in range(12)))
    mixer = Mixer(light)
    mixer.mixed(())
    stops = iter(np.linspace(0, 3, 1000))

    def fader() -> None:
        mixed = mixer.mixed((Strip(group="g3", stops=float(next(stops))),))
        finish.to_bytes(grade(mixed, view=view, finish=Finish()))

    reference = best(lambda: np.multiply(light.groups, 0.5), 3)
    moved = best(fader, 8)
    rows.append(
        (
            "desk fader to new picture, 12 groups, 1920x1080, ms (against one NumPy pass over the groups)",
            f"{moved * 1000:.0f} ({moved / reference:.2f})",
            "40 ms",
        )
    )

    few, many = lamps(document, assets, 10), lamps(document, assets, 1000)
    rows.append(("1,000 lamps against 10, time to equal noise", f"{many / few:.2f}", "2"))

    small = preparer.prepare(document, assets, width=240, height=135)
    film32, film = blank_film(small), blank_film(small)
    run(render(small, film32, samples=32, noise=0.0))
    run(render(small, film, samples=512, noise=0.0, seed=1))
    clean = run(denoise_groups(film32, quality="careful"))
    options = {"view": small.view, "desk": (), "finish": Finish()}
    error = np.mean((develop(Light.of(film32, clean), **options) - develop(Light.of(film), **options)) ** 2)
    rows.append(
        ("denoised 32 samples against 512 (240x135), wide view, PSNR in dB", f"{-10 * np.log10(error):.1f}", "34")
    )

    print(
        f"\nEmbree {embree.version()}, "
        f"raw {raw / 1e6:.2f} M rays/s, engine {one[0] / 1e6:.3f} and {two[0] / 1e6:.3f} M samples/s"
    )


def lamps(document, assets, n: int) -> float:
    """Return the time to a fixed noise with n lamps of the same light in all, by time x variance."""
    rng = np.random.default_rng(3)
    lights = tuple(
        make_light(
            id=f"l{k}",
            kind="sphere",
            unit="lm",
            power=3000.0 / n,
            radius=0.01,
            place=tuple(float(v) for v in rng.uniform((-1.8, -3, 1.0), (2.0, 1.0, 2.6))),
        )
        for k in range(n)
    )
    dark = edit.changed(
        document, lights=lights, materials=tuple(edit.changed(m, emission_luminance=0.0) for m in document.materials)
    )
    prepared = Preparer().prepare(dark, assets, width=160, height=90)
    film = blank_film(prepared)
    started = time.perf_counter()
    run(render(prepared, film, samples=32, noise=0.0))
    seconds = time.perf_counter() - started
    mean = film.variance[..., 0] / 32
    variance = np.maximum(film.variance[..., 1] / 32 - mean**2, 0) / (mean + 0.05 * mean.mean()) ** 2
    return seconds * float(np.median(variance))


if __name__ == "__main__":
    main()
