"""`nocturne warm`: compile the engine now, so that the first picture does not wait for it."""

import argparse

from nocturne.cli.progress import drive
from nocturne.warm import warm as compile_engine


def add_to(words: argparse._SubParsersAction) -> None:
    """Add this word to the command line."""
    word = words.add_parser("warm", help="compile the renderer for this processor")
    word.set_defaults(run=_run)


def _run(_: argparse.Namespace) -> int:
    drive(compile_engine())
    print("The renderer is ready.")
    return 0
