"""The command line: one file for each word. Exit codes: 0 done, 1 an error told in a line or two, 2 wrong usage."""

import argparse
import logging
import os
import sys
from pathlib import Path

from nocturne import __version__
from nocturne.cli import convert, demo, info, open, render, warm
from nocturne.errors import NocturneError

_WORDS = (demo, open, render, info, convert, warm)


def parser() -> argparse.ArgumentParser:
    """Return the parser of the whole command line."""
    whole = argparse.ArgumentParser(prog="nocturne", description="Light a set and put out photoreal frames and passes.")
    whole.add_argument("--version", action="version", version=f"Nocturne {__version__}")
    whole.add_argument("--verbose", action="store_true", help="log what is done")
    words = whole.add_subparsers(dest="word", metavar="WORD")
    for module in _WORDS:
        module.add_to(words)
    return whole


def _is_file_name(word: str) -> bool:
    return not word.startswith("-") and (Path(word).suffix != "" or os.path.lexists(word))


def run(arguments: list[str]) -> int:
    """Carry out a command line and return its exit code."""
    for stream in (sys.stdout, sys.stderr):
        if hasattr(stream, "reconfigure"):
            stream.reconfigure(errors="backslashreplace")  # Linux allows names that are no text
    names = {module.__name__.rpartition(".")[2] for module in _WORDS}
    if arguments and arguments[0] not in names and _is_file_name(arguments[0]):
        arguments = ["open", *arguments]
    try:
        given = parser().parse_args(arguments)
    except SystemExit as stopped:
        return int(stopped.code or 0)
    logging.basicConfig(
        level=logging.INFO if given.verbose else logging.WARNING, format="%(levelname)s %(name)s: %(message)s"
    )
    try:
        if given.word is None:
            return open.window(None)
        return given.run(given)
    except NocturneError as error:
        print(f"nocturne: {error.message}", file=sys.stderr)
        if error.hint:
            print(f"  {error.hint}", file=sys.stderr)
        return 1
    except BrokenPipeError:
        sys.stderr.close()
        return 0
    except KeyboardInterrupt:
        print("nocturne: stopped.", file=sys.stderr)
        return 1
