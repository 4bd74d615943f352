"""Make the font of the interface's icons: of a whole set of icons, those that are used, and which character each is.

`python tools/icons.py FONT CHARACTERS` reads a font of icons and a JSON file from their names to their characters'
numbers (hexadecimal), and writes both for the icons that `nocturne.ui.theme.icons` names beside that.
"""

import json
import sys
from pathlib import Path

from fontTools import subset
from fontTools.ttLib import TTFont

from nocturne.ui.theme.icons import CHARACTERS, FONT, NAMES


def main(font: Path, characters: Path) -> None:
    """Write the smaller font and its characters."""
    known = json.loads(characters.read_text())
    used = {name: int(known[f"{name}-light"], 16) for name in sorted(set(NAMES.values()))}
    whole = TTFont(font)
    smaller = subset.Subsetter(subset.Options(notdef_outline=True))
    smaller.populate(unicodes=used.values())
    smaller.subset(whole)
    whole.save(FONT)
    CHARACTERS.write_text(json.dumps(used, indent=1) + "\n")


if __name__ == "__main__":
    main(*map(Path, sys.argv[1:3]))
