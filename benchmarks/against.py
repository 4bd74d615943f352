"""The engine against an earlier commit of itself, in turn, on the demo project as that commit builds it.

    git worktree add --detach /tmp/before d7d6c9f
    PYTHONPATH=src .venv/bin/python benchmarks/against.py /tmp/before [--pictures 24] [--rounds 7]

Both trees run beside each other, one picture of one and then one of the other, on one thread: processor time, so that
who else is on the machine counts little. Noise is the variance of pictures of two samples a pixel with the clamp off,
relative to the brightness in a picture of many samples; untrimmed, and without the hundredth of the pixels where it is
largest. Trees that can do so choose their lights as a live picture does, by what they learned, with the demo's window
as a portal. Means of every light group and pass are told in units of their errors, and in per cent: they have to agree.
"""

import argparse
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

VIEWS = 3
PASSES = (
    "direct_diffuse", "indirect_diffuse", "direct_reflection", "indirect_reflection", "direct_transmission",
    "indirect_transmission", "emission", "background",
)  # fmt: skip
REFERENCE = 256  # samples
DARK = 0.05  # of the mean: a pixel that is darker counts as this bright
PORTAL = {"place": (-1.25, 1.35, 1.58), "turn_deg": (-90, 0, 0), "width": 0.98, "height": 1.13}


def serve(project_file: str) -> None:
    """Answer lines (view, width, samples, seed, file) with pictures in a file, by the tree that is imported."""
    from nocturne.colour.spaces import luminance
    from nocturne.engine.prepare import Preparer
    from nocturne.engine.render import blank_film, render
    from nocturne.io import project
    from nocturne.jobs import run
    from nocturne.scene import edit
    from nocturne.warm import warm

    run(warm())
    loaded = run(project.load(Path(project_file)))
    document = edit.alter(loaded.document, "qualities", loaded.document.active_quality, clamp=0.0, regularise=0.0)
    preparer = Preparer()
    try:
        from nocturne.engine.learning import learn
        from nocturne.scene.lights import KINDS, make_light
    except ImportError:
        learn, KINDS = None, {}
    if "portal" in KINDS:
        portal = make_light(kind="portal", id="portal", name="Window", group=document.light_groups[0], **PORTAL)
        document = edit.put(document, "lights", portal)
    ready = {}

    def prepared(view: int, width: int):
        if (view, width) not in ready:
            own = edit.changed(document, active_view=document.views[view].id)
            made = preparer.prepare(own, loaded.assets, width=width, height=width * 9 // 16)
            if learn is not None:
                live = preparer.prepare(own, loaded.assets, width=640, height=360)
                made = run(learn(live)).used_by(made)
            ready[view, width] = made
        return ready[view, width]

    print("ready", flush=True)
    for line in sys.stdin:
        view, width, samples, seed, file = line.split()
        made = prepared(int(view), int(width))
        film, began, last = blank_film(made), time.process_time(), []
        run(
            render(made, film, samples=int(samples), noise=0.0, seed=int(seed), threads=1),
            lambda update, last=last: last.append(update.preview.rays),
        )
        took = time.process_time() - began
        found = {f"group {name}": luminance(film.group(i)) for i, name in enumerate(film.group_names)}
        found |= {name: luminance(film.light_pass(name)) for name in PASSES}
        np.savez(file, took=took, taken=film.samples.sum(), rays=last[-1], all=luminance(film.beauty()), **found)
        print("there", flush=True)


class Tree:
    """A process that renders with the code of one tree."""

    def __init__(self, root: Path, project_file: Path, folder: Path) -> None:
        env = {**os.environ, "PYTHONPATH": str(root / "src")}
        self.file = folder / f"{root.name}-{id(self)}.npz"
        self.process = subprocess.Popen(
            [sys.executable, __file__, "--serve", str(project_file)],
            stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, env=env, cwd=root,
        )  # fmt: skip
        self._wait("ready")

    def _wait(self, word: str) -> None:
        while (line := self.process.stdout.readline().strip()) != word:
            if not line and self.process.poll() is not None:
                raise SystemExit("a tree did not start")

    def picture(self, view: int, width: int, samples: int, seed: int) -> dict[str, np.ndarray]:
        """Return the arrays of one picture."""
        print(view, width, samples, seed, self.file, file=self.process.stdin, flush=True)
        self._wait("there")
        with np.load(self.file) as found:
            return dict(found)

    def close(self) -> None:
        """End it."""
        self.process.stdin.close()
        self.process.wait()


def main() -> None:
    """Measure and print."""
    reader = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    reader.add_argument("before", nargs="?", type=Path)
    reader.add_argument("--pictures", type=int, default=24)
    reader.add_argument("--rounds", type=int, default=7)
    reader.add_argument("--serve", default="")
    wanted = reader.parse_args()
    if wanted.serve:
        serve(wanted.serve)
        return
    now = Path(__file__).resolve().parents[1]
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        code = f"from nocturne.demo import workshop; from nocturne.jobs import run; run(workshop.save({str(folder)!r}))"
        env = {**os.environ, "PYTHONPATH": str(wanted.before / "src")}
        subprocess.run([sys.executable, "-c", code], check=True, env=env)
        trees = [Tree(root, folder / "project.nocturne", folder) for root in (wanted.before.resolve(), now)]
        try:
            for view in range(VIEWS):
                _speed(trees, view, wanted.rounds)
            for view in range(VIEWS):
                _noise(trees, view, wanted.pictures)
        finally:
            for tree in trees:
                tree.close()


def _speed(trees: list[Tree], view: int, rounds: int) -> None:
    rates = []
    for k in range(rounds + 1):
        found = [tree.picture(view, 320, 4, k) for tree in trees]
        rates.append([(float(f["taken"] / f["took"]), float(f["rays"] / f["took"])) for f in found])
    ratio = np.array(rates[1:])[:, 1] / np.array(rates[1:])[:, 0]
    print(
        f"view {view + 1}: samples a second {np.median(ratio[:, 0]):.2f} times, rays {np.median(ratio[:, 1]):.2f}",
        flush=True,
    )


def _noise(trees: list[Tree], view: int, pictures: int) -> None:
    found: list[list[dict]] = [[], []]
    for seed in range(pictures):
        for k, tree in enumerate(trees):
            found[k].append(tree.picture(view, 160, 2, seed))
    reference = trees[1].picture(view, 160, REFERENCE, pictures + 1)["all"]
    weight = 1 / np.maximum(reference, DARK * reference.mean()) ** 2
    whole, most, took = [], [], []
    for each in found:
        noise = np.sort((np.var([f["all"] for f in each], axis=0, ddof=1) * weight).ravel())
        whole.append(noise.mean())
        most.append(noise[: -noise.size // 100].mean())
        took.append(sum(float(f["took"]) for f in each))
    spent = took[0] / took[1]
    print(
        f"view {view + 1}: variance {most[0] / most[1]:.2f} times less (untrimmed {whole[0] / whole[1]:.2f}), "
        f"time to equal noise {most[0] / most[1] * spent:.2f} times less (untrimmed {whole[0] / whole[1] * spent:.2f})"
    )
    apart = {}
    for name in found[0][0].keys() - {"took", "taken", "rays"}:
        means = [np.array([f[name].mean() for f in each if name in f]) for each in found]
        if not all(len(m) for m in means):
            continue
        error = np.sqrt(sum(m.var(ddof=1) / len(m) for m in means))
        if error > 0:
            more = means[1].mean() - means[0].mean()
            apart[name] = more / error, 100 * more / means[0].mean()
    words = ", ".join(f"{name} {value:+.1f} ({share:+.2f} %)" for name, (value, share) in sorted(apart.items()))
    print(f"  means, later less earlier in standard errors: {words}", flush=True)


if __name__ == "__main__":
    main()
