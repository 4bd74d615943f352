"""`nocturne render PROJECT --out PATH`: a picture without a window."""

import argparse
import signal
import sys
from pathlib import Path

from nocturne.cli import projects
from nocturne.cli.progress import Bar, drive
from nocturne.errors import NocturneError, UnknownFormat
from nocturne.jobs import duration, run
from nocturne.scene import edit, texturing
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


def _seed(text: str) -> int:
    value = int(text)
    if not 0 <= value < 1 << 32:
        raise argparse.ArgumentTypeError("a seed is a whole number from 0 to 4294967295")
    return value


def _frame(text: str) -> int:
    value = int(text)
    if not 0 <= value <= 999_999:
        raise argparse.ArgumentTypeError("a frame is a whole number from 0 to 999999")
    return value


def _minutes(text: str) -> float:
    value = float(text)
    if not 0 <= value <= 1e6:
        raise argparse.ArgumentTypeError("minutes are a number from 0 (no limit) to a million")
    return value


def _seconds(text: str) -> float:
    value = float(text)
    if not 0.1 <= value <= 86400:
        raise argparse.ArgumentTypeError("seconds are a number from 0.1 to 86400")
    return value


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
    word.add_argument("--frame", type=_frame, help="of sequences of pictures, such as of a fire")
    word.add_argument("--quality", help="a quality level's name")
    word.add_argument("--size", type=_size, metavar="WxH", help="pixels")
    word.add_argument("--samples", type=_positive, help="stop at this many samples a pixel")
    word.add_argument("--noise", type=_share, help="stop at this noise, such as 0.02 or 2%%")
    word.add_argument("--minutes", type=_minutes, help="stop after this time")
    which = word.add_mutually_exclusive_group()
    which.add_argument("--cue", help="mix the light groups as this cue says")
    which.add_argument("--all-cues", action="store_true", help="put out every cue from the one render")
    clean = word.add_mutually_exclusive_group()
    clean.add_argument(
        "--denoise", action="store_true", default=None, help="denoise (as the quality level says if not given)"
    )
    clean.add_argument("--no-denoise", dest="denoise", action="store_false")
    word.add_argument("--seed", type=_seed, default=0)
    word.add_argument("--threads", type=_positive, default=None)
    word.add_argument(
        "--keep",
        type=Path,
        metavar="FILE",
        help="keep the samples in this file meanwhile, and go on from it if it is there: after a stop, or for more",
    )
    word.add_argument(
        "--keep-every",
        type=_seconds,
        default=60.0,
        metavar="SECONDS",
        help="how often (60; less if slow)",
    )
    word.set_defaults(run=_run)


def _run(given: argparse.Namespace) -> int:
    from nocturne.io import picture, project

    suffix = given.out.suffix.lower()
    if suffix != ".exr" and suffix not in picture.WRITES:
        raise UnknownFormat(
            given.out, "pictures of this kind are not written.", hint=f"Use .exr or one of {', '.join(picture.WRITES)}."
        )
    loaded = projects.opened(given.project)
    document, assets = loaded.document, loaded.assets
    if given.frame is not None:
        document = texturing.with_frame(document, given.frame)
        assets = run(project.load_assets(document, loaded.folder, known=assets))
        for problem in set(assets.problems) - set(loaded.assets.problems):
            print(problem, file=sys.stderr)
    if given.view:
        document = edit.changed(document, active_view=document.named("views", given.view).id)
    if given.quality:
        document = edit.changed(document, active_quality=document.named("qualities", given.quality).id)
    cues = document.cues if given.all_cues else (document.named("cues", given.cue),) if given.cue else ()
    if given.all_cues and not cues:
        raise NocturneError("This project has no cues.", hint="Keep one on the light desk, or leave out --all-cues.")
    from nocturne.warm import warm

    drive(warm())
    with _Interrupts() as wishes:
        result = _result(given, document, assets, wishes)
        for path in _write(given, result, document, assets.luts, cues):
            print(path)
    if result.ended == "stopped":
        print(f"Stopped at {result.film.mean_samples:.1f} samples; what was done is in the file.", file=sys.stderr)
    elif wishes.n:
        print("Denoising was stopped; the picture is in the file as it was rendered.", file=sys.stderr)
    return 0


class _Interrupts:
    """Counts Ctrl-C and SIGTERM until the picture is written: the first ends the render, the next the denoising."""

    _SIGNALS = (signal.SIGINT, signal.SIGTERM)

    def __init__(self) -> None:
        self.n, self.stop = 0, None

    def _heard(self, *_) -> None:
        self.n += 1
        if self.stop is not None:
            self.stop.set()

    def __enter__(self) -> "_Interrupts":
        self._before = [signal.signal(number, self._heard) for number in self._SIGNALS]
        return self

    def __exit__(self, *_) -> None:
        for number, before in zip(self._SIGNALS, self._before):
            signal.signal(number, before)


def _result(given: argparse.Namespace, document: Document, assets, wishes: _Interrupts):
    from nocturne.engine.prepare import Preparer
    from nocturne.engine.render import Stop
    from nocturne.io import filmstate
    from nocturne.rendering.keep import Keep
    from nocturne.rendering.render import blank, denoise_result, render_request
    from nocturne.rendering.request import RenderRequest

    width, height = given.size or (document.view.width, document.view.height)
    rules = {"samples": given.samples, "noise": given.noise, "minutes": given.minutes}
    how = _denoising(given, document.quality)
    request, bar = RenderRequest(document, assets, width, height, seed=given.seed, denoise=how, **rules), Bar()
    stop = wishes.stop = Stop()
    if wishes.n:
        stop.set()  # asked for before there was anything to stop
    prepared = Preparer().prepare(document, request.assets, width=width, height=height)
    goes_on = given.keep is not None and given.keep.exists()
    film = filmstate.read(given.keep, request.key()) if goes_on else blank(request, prepared)
    keep = Keep(given.keep, given.keep_every) if given.keep is not None else None

    def show(update) -> None:
        now = update.preview
        if now is None:
            bar.show(update.done / update.total, update.note)
            return
        noise = f"noise {now.noise * 100:.1f} %" if now.noise < 1e6 else "noise …"
        left = f"{duration(now.left_s)} left" if now.left_s is not None else "…"
        share = now.seconds / (now.seconds + now.left_s) if now.left_s is not None and now.seconds else 0.0
        bar.show(share, f"{now.samples:.0f} samples  {noise}  {duration(now.seconds)}  {left}")

    work = render_request(request, film=film, prepared=prepared, keep=keep, stop=stop, threads=given.threads or 0)
    try:
        result = run(work, show)
        if result.ended == "stopped" and how != "off" and wishes.n < 2:
            # What was rendered is denoised all the same; the next interrupt ends that, too.
            wishes.stop = Stop()
            result = run(denoise_result(result, how, wishes.stop), show)
    finally:
        bar.end()
    if result.problem:
        print(result.problem, file=sys.stderr)
    return result


def _denoising(given: argparse.Namespace, quality: Quality) -> str:
    if given.denoise is None or (given.denoise and quality.denoise != "off"):
        return quality.denoise
    return "careful" if given.denoise else "off"


def _write(given, result, document: Document, luts, cues: tuple[Cue, ...]) -> list[Path]:
    from nocturne.finish.develop import Light, develop
    from nocturne.io import exr, picture

    out, seed = given.out, given.seed

    if out.suffix.lower() == ".exr":
        exr.write_film(out, result.film, document, seed=seed, denoised=result.clean, cues=cues)
        return [out]
    light, written = Light.of(result.film, result.clean), []
    names = exr.layer_names([cue.name for cue in cues]) or [""]
    for cue, name in zip(cues or (None,), names):
        desk = document.desk if cue is None else cue.strips
        path = out.with_stem(f"{out.stem}-{name}") if len(cues) > 1 else out
        shown = develop(light, view=document.view, desk=desk, finish=document.finish, luts=luts, exact=True)
        picture.write(path, shown)
        written.append(path)
    return written
