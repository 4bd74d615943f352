"""Where noise comes from on the demo project, and what learning takes off it, for each light group and path pass.

    PYTHONPATH=src .venv/bin/python benchmarks/noise.py [--pictures 40] [--views wide orrery flask]

Many independent pictures of two samples a pixel are rendered in turn: lights chosen as they are built, by what was
learned of them, and with bright things too. Variance is over the pictures, relative to the pixel's brightness in a
picture of its own with many samples (pixels below a twentieth of the mean count as that bright), untrimmed and without
the hundredth of the pixels where it is largest; the clamp is off. A brightness from the pictures themselves would hide
their brightest speckles. Means are told with their standard errors: they have to agree.
"""

import argparse
import time

import numpy as np

from nocturne.colour.spaces import luminance
from nocturne.demo import workshop
from nocturne.engine.learning import learn
from nocturne.engine.prepare import Prepared, Preparer
from nocturne.engine.render import blank_film, render
from nocturne.io import project
from nocturne.jobs import run
from nocturne.scene import edit
from nocturne.warm import warm

SIZE = (160, 90)
LEARNED = (640, 360)  # of the picture that is learned for, as in the window: less would be learned of a smaller one
PASSES = ("direct_diffuse", "indirect_diffuse", "direct_reflection", "indirect_reflection")
REFERENCE = 192  # samples of the picture that brightness is taken from
DARK = 0.05  # of the mean: a pixel that is darker counts as this bright


def pictures(prepared: Prepared, seed: int) -> tuple[dict[str, np.ndarray], float]:
    """Return the luminance of each group, of some passes and of all, and the processor's time it took, s."""
    began, film = time.process_time(), blank_film(prepared)
    run(render(prepared, film, samples=2, noise=0.0, seed=seed))
    took = time.process_time() - began
    found = {f"group {name}": luminance(film.group(i)) for i, name in enumerate(film.group_names)}
    found |= {name: luminance(film.light_pass(name)) for name in PASSES}
    return {**found, "all": luminance(film.beauty())}, took


def main() -> None:
    """Measure and print."""
    reader = argparse.ArgumentParser()
    reader.add_argument("--pictures", type=int, default=40)
    reader.add_argument("--views", nargs="*", default=["wide", "orrery", "flask"], help="by id")
    wanted = reader.parse_args()
    run(warm())
    if not workshop.user_path().is_file():
        run(workshop.save(workshop.user_path().parent))
    loaded = run(project.load(workshop.user_path()))
    document = edit.alter(loaded.document, "qualities", loaded.document.active_quality, clamp=0.0, regularise=0.0)
    preparer = Preparer()
    for view in [document.named("views", name) for name in wanted.views]:
        own = edit.changed(document, active_view=view.id)
        prepared = preparer.prepare(own, loaded.assets, width=SIZE[0], height=SIZE[1])
        what = run(learn(preparer.prepare(own, loaded.assets, width=LEARNED[0], height=LEARNED[1])))
        lights = {name: array for name, array in what.arrays.items() if name.startswith("learned")}
        cases = {"as built": prepared, "learned": prepared.using(lights), "and bright things": what.used_by(prepared)}
        sums = {name: {} for name in cases}
        took = dict.fromkeys(cases, 0.0)
        for seed in range(wanted.pictures):
            for case, ready in cases.items():
                found, seconds = pictures(ready, seed)
                took[case] += seconds
                for name, picture in found.items():
                    sums[case].setdefault(name, []).append(picture)
        film = blank_film(prepared)
        run(render(what.used_by(prepared), film, samples=REFERENCE, noise=0.0, seed=wanted.pictures))
        _tell(view.name, sums, took, luminance(film.beauty()))


def _tell(view: str, sums: dict, took: dict, reference: np.ndarray) -> None:
    first, *others = sums
    weight = 1 / np.maximum(reference, DARK * reference.mean()) ** 2
    drop = int(0.01 * reference.size)

    def variance(case: str, name: str) -> tuple[float, float]:
        each = (np.var(sums[case][name], axis=0, ddof=1) * weight).ravel()
        return float(each.mean()), float(np.sort(each)[:-drop].mean())

    times = ", ".join(f"{case} {took[case] / took[first]:.2f}" for case in sums)
    print(f"\n{view}; processor time for as many samples: {times}\n")
    columns = " | ".join(f"{case}: variance less by (99 % of pixels) | mean" for case in others)
    print(f"| what | of all variance | {columns} |\n|{'---|' * (2 + 2 * len(others))}", flush=True)
    whole = variance(first, "all")[0]
    for name in sums[first]:
        own = variance(first, name)
        means = {case: [picture.mean() for picture in sums[case][name]] for case in sums}
        middle = max(float(np.mean(means[first])), 1e-30)
        cells = [name, f"{own[0] / whole:.2f}"]
        for case in others:
            other = variance(case, name)
            error = np.hypot(*(np.std(means[k]) / np.sqrt(len(means[k])) for k in (first, case))) / middle
            cells.append(f"{own[0] / max(other[0], 1e-30):.2f} ({own[1] / max(other[1], 1e-30):.2f})")
            cells.append(f"{np.mean(means[case]) / middle:.3f} ± {error:.3f}")
        print(f"| {' | '.join(cells)} |", flush=True)


if __name__ == "__main__":
    main()
