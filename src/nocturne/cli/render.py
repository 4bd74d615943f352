"""`nocturne render PROJECT --out PATH`: a picture without a window."""

import argparse
import signal
import sys
from pathlib import Path

from nocturne.cli import projects
from nocturne.cli.progress import Bar, drive
from nocturne.errors import NocturneError, UnknownFormat
from nocturne.jobs import duration, run
from nocturne.scene import edit
from nocturne.scene.desk import Cue
from nocturne.scene.document import Document
from nocturne.scene.outputs import Quality


def _size(text: str) -> tuple[int, int]:
    try:
        width, height = (int(part) for part in text.lower().split("x"))
    except ValueError:
        raise argparse.ArgumentTypeError(f"“{text}” is not a size; write it like 1280x720") from None
    if not (1 <= width <= 16384 and 1 <= height <= 16384):
        raise argparse.ArgumentTypeError("a picture is 1 to 16384 pixels wide and high")
    return width, height


def _share(text: str) -> float:
    value = float(text.rstrip("% ")) / (100 if text.rstrip().endswith("%") else 1)
    if not 0 <= value <= 1:
        raise argparse.ArgumentTypeError("noise is a part of the brightness: 0.02 or 2%")
    return value


def _positive(text: str) -> int:
    value = int(text)
    if value < 1:
        raise argparse.ArgumentTypeError("must be 1 or more")
    return value


def add_to(words: argparse._SubParsersAction) -> None:
    """Add this word to the command line."""
    word = words.add_parser("render", help="render a project to .exr, .png, .jpg or .tif")
    word.add_argument("project", help="a .nocturne file, a project's folder, or “demo”")
    word.add_argument("--out", type=Path, required=True, help=".exr: all passes; .png .jpg .tif: the graded view")
    word.add_argument("--view", help="a saved view's name")
    word.add_argument("--quality", help="a quality level's name")
    word.add_argument("--size", type=_size, metavar="WxH", help="pixels")
    word.add_argument("--samples", type=_positive, help="stop at this many samples a pixel")
    word.add_argument("--noise", type=_share, help="stop at this noise, such as 0.02 or 2%%")
    word.add_argument("--minutes", type=float, help="stop after this time")
    which = word.add_mutually_exclusive_group()
    which.add_argument("--cue", help="mix the light groups as this cue says")
    which.add_argument("--all-cues", action="store_true", help="put out every cue from the one render")
    clean = word.add_mutually_exclusive_group()
    clean.add_argument(
        "--denoise", action="store_true", default=None, help="denoise (as the quality level says if not given)"
    )
    clean.add_argument("--no-denoise", dest="denoise", action="store_false")
    word.add_argument("--seed", type=int, default=0)
    word.add_argument("--threads", type=_positive, default=None)
    word.set_defaults(run=_run)


def _run(given: argparse.Namespace) -> int:
    from nocturne.io import picture

    suffix = given.out.suffix.lower()
    if suffix != ".exr" and suffix not in picture.WRITES:
        raise UnknownFormat(
            given.out, "pictures of this kind are not written.", hint=f"Use .exr or one of {', '.join(picture.WRITES)}."
        )
    loaded = projects.opened(given.project)
    document = loaded.document
    if given.view:
        document = edit.changed(document, active_view=document.named("views", given.view).id)
    if given.quality:
        document = edit.changed(document, active_quality=document.named("qualities", given.quality).id)
    cues = document.cues if given.all_cues else (document.named("cues", given.cue),) if given.cue else ()
    if given.all_cues and not cues:
        raise NocturneError("This project has no cues.", hint="Keep one on the light desk, or leave out --all-cues.")
    from nocturne.warm import warm

    drive(warm())
    film, stopped = _rendered(given, document, loaded.assets)
    denoised = _denoised(given, document.quality, film)
    for path in _write(given, film, document, loaded.assets.luts, denoised, cues):
        print(path)
    if stopped:
        print(f"Stopped at {film.mean_samples:.1f} samples; what was done is in the file.", file=sys.stderr)
    return 0


def _rendered(given: argparse.Namespace, document: Document, assets) -> tuple:
    from nocturne.engine.prepare import Preparer
    from nocturne.engine.render import Stop, blank_film, render

    width, height = given.size or (document.view.width, document.view.height)
    prepared = Preparer().prepare(document, assets, width=width, height=height)
    film, stop, bar = blank_film(prepared), Stop(), Bar()
    before = signal.signal(signal.SIGINT, lambda *_: stop.set())

    def show(update) -> None:
        now = update.preview
        if now is None:
            return
        noise = f"noise {now.noise * 100:.1f} %" if now.noise < 1e6 else "noise …"
        left = f"{duration(now.left_s)} left" if now.left_s is not None else "…"
        share = now.seconds / (now.seconds + now.left_s) if now.left_s is not None and now.seconds else 0.0
        bar.show(share, f"{now.samples:.0f} samples  {noise}  {duration(now.seconds)}  {left}")

    try:
        run(
            render(
                prepared,
                film,
                seed=given.seed,
                threads=given.threads or 0,
                stop=stop,
                samples=given.samples,
                noise=given.noise,
                minutes=given.minutes,
            ),
            show,
        )
    finally:
        signal.signal(signal.SIGINT, before)
        bar.end()
    minutes = document.quality.minutes if given.minutes is None else given.minutes
    return film, stop.is_set and not (minutes and film.seconds >= 60 * minutes)


def _denoised(given: argparse.Namespace, quality: Quality, film):
    wanted = quality.denoise != "off" if given.denoise is None else given.denoise
    if not wanted:
        return None
    from nocturne.finish.denoise import denoise_groups

    return drive(denoise_groups(film, quality="fast" if quality.denoise == "fast" else "careful"))


def _write(given, film, document: Document, luts, denoised, cues: tuple[Cue, ...]) -> list[Path]:
    from nocturne.finish.develop import Light, develop
    from nocturne.io import exr, picture

    out, seed = given.out, given.seed

    if out.suffix.lower() == ".exr":
        exr.write_film(out, film, document, seed=seed, denoised=denoised, cues=cues)
        return [out]
    light, written = Light.of(film, denoised), []
    names = exr.layer_names([cue.name for cue in cues]) or [""]
    for cue, name in zip(cues or (None,), names):
        desk = document.desk if cue is None else cue.strips
        path = out.with_stem(f"{out.stem}-{name}") if len(cues) > 1 else out
        picture.write(path, develop(light, view=document.view, desk=desk, finish=document.finish, luts=luts))
        written.append(path)
    return written
