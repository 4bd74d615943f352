"""`nocturne info FILE...`: what is in a file, in a few lines or as JSON."""

import argparse
import json
import sys

from nocturne.errors import NocturneError
from nocturne.io import registry

_LONG = ("tree", "without_equal", "mended", "missing")  # lists that take a line for each entry
_MOST_LINES = 200


def add_to(words: argparse._SubParsersAction) -> None:
    """Add this word to the command line."""
    word = words.add_parser("info", help="tell what is in a project, model or picture")
    word.add_argument("files", nargs="+", metavar="FILE")
    word.add_argument("--json", action="store_true", help="as JSON, one object for each file")
    word.set_defaults(run=_run)


def _run(given: argparse.Namespace) -> int:
    failed = False
    for name in given.files:
        try:
            found = {"file": name, **registry.describe(name)}
        except NocturneError as error:
            failed = True
            print(f"nocturne: {error.message}\n  {error.hint}", file=sys.stderr)
            continue
        if given.json:
            print(json.dumps(found, default=str))
        else:
            print("\n".join(_lines(found)))
    return int(failed)


def _lines(found: dict) -> list[str]:
    lines = [f"{found.pop('file')}: {found.pop('kind')}"]
    for key, value in found.items():
        label = key.replace("_", " ")
        if isinstance(value, list) and value and isinstance(value[0], dict):
            lines.append(f"  {label}: {len(value)}")
            lines += ["    " + ", ".join(f"{k} {_short(v)}" for k, v in item.items()) for item in value[:12]]
            lines += [f"    and {len(value) - 12} more"] if len(value) > 12 else []
        elif key in _LONG and value:
            lines.append(f"  {label}: {len(value)}")
            lines += [f"    {_short(v)}" for v in value[:_MOST_LINES]]
            lines += [f"    and {len(value) - _MOST_LINES} more"] if len(value) > _MOST_LINES else []
        elif isinstance(value, dict):
            lines += [f"  {k}: {_short(v)}" for k, v in list(value.items())[:16]]
        else:
            lines.append(f"  {label}: {_short(value)}")
    return lines


def _short(value: object) -> str:
    text = ", ".join(map(str, value)) if isinstance(value, list) else str(value)
    return text if len(text) < 200 else text[:197] + "…"
