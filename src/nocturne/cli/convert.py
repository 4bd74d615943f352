"""`nocturne convert IN OUT`: a project or model as another kind of file."""

import argparse
import sys
from pathlib import Path

from nocturne.cli.progress import drive
from nocturne.cli.projects import path_of
from nocturne.deliver import convert
from nocturne.io.models.allowed import allow


def add_to(words: argparse._SubParsersAction) -> None:
    """Add this word to the command line."""
    word = words.add_parser(
        "convert", help="write a project or model as another kind: project, GLB, OpenUSD, MaterialX"
    )
    word.add_argument("source", metavar="IN", help="a project, a model, or “demo”")
    word.add_argument("target", metavar="OUT", help=f"a file ending in {', '.join(convert.WRITES)}")
    word.add_argument(
        "--allow-outside", action="store_true", help="let the model name files outside its folder, now and later"
    )
    word.set_defaults(run=_run)


def _run(given: argparse.Namespace) -> int:
    source = path_of(given.source) if given.source == "demo" else Path(given.source)
    if given.allow_outside:
        allow(source)
    path, lost = drive(convert.convert(source, Path(given.target)))
    print(path)
    for what in lost:
        print(f"nocturne: left out: {what}.", file=sys.stderr)
    return 0
