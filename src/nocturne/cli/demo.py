"""`nocturne demo`: open the demo project in the window, or write it to a folder."""

import argparse
from pathlib import Path

from nocturne.cli import open
from nocturne.cli.progress import drive
from nocturne.demo import workshop


def add_to(words: argparse._SubParsersAction) -> None:
    """Add this word to the command line."""
    word = words.add_parser("demo", help="open the demo project, The Orrery Workshop")
    word.add_argument("--save", metavar="FOLDER", type=Path, help="write the project to a folder and stop")
    word.set_defaults(run=_run)


def _run(given: argparse.Namespace) -> int:
    if given.save is not None:
        print(drive(workshop.save(given.save)))
        return 0
    return open.window(None, is_demo=True)
