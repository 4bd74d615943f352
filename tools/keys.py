"""Write docs/keys.md from the table of commands.

PYTHONPATH=src .venv/bin/python tools/keys.py
"""

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from nocturne.io.atomic import write_text
from nocturne.ui.commands import COMMANDS, MENUS
from nocturne.ui.panels.cards import MOUSE

TARGET = Path(__file__).resolve().parents[1] / "docs" / "keys.md"


def page() -> str:
    """Return the page."""
    lines = [
        "# Keys and mouse",
        "",
        "Made from the table of commands by `tools/keys.py`; `?` shows the same in the window.",
        "",
    ]
    lines += ["## Mouse", "", "| Mouse | What it does |", "|---|---|"]
    lines += [f"| {keys} | {words} |" for keys, words in MOUSE]
    for menu in MENUS:
        lines += ["", f"## {menu}", "", "| Keys | Command | |", "|---|---|---|"]
        lines += [f"| {c.keys} | {c.title} | {c.help} |" for c in COMMANDS if c.menu == menu]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    write_text(TARGET, page())
    print(TARGET)
