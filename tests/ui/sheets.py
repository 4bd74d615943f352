"""Sheets on their own, without a window around them."""

from collections.abc import Callable
from pathlib import Path

from nocturne.ui.panels.sheets.material import MaterialSheet
from nocturne.ui.patternshelf import PatternShelf
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session
from nocturne.ui.swatchroom import SwatchRoom
from nocturne.ui.wiring import Wiring


def material_sheet(
    session: Session, browse: Callable[[], str], ask_metal: Callable[[], tuple | None] = lambda: None
) -> MaterialSheet:
    """Return the sheet of a material; nobody is asked for sets of pictures, and nothing is kept on the shelf."""
    return MaterialSheet(
        session,
        browse,
        ask_metal,
        lambda: None,
        SwatchRoom(),
        Wiring(session, list, str, Path.cwd),
        PatternShelf(session, None, None),
        Runner(),
    )
