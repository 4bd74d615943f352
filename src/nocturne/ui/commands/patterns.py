"""What is done with the patterns of the chosen material, and with the step in hand: where the keyboard is, else the one
that was opened last, else the topmost.
"""

from typing import Any

from nocturne.ui.commands.command import Command, Need


def _outline(w: Any) -> Any:
    return w.sheets["materials"].outline


def _material(w: Any) -> bool:
    # Elsewhere the outline may still hold another material: sheets that are not seen are not filled.
    chosen = w.session.chosen.get("materials", "")
    return w.session.stage == "materials" and w.session.document.find("materials", chosen) is not None


def _step(w: Any) -> bool:
    return _material(w) and _outline(w).path_in_hand() is not None


_MATERIAL = Need(_material, "Select a material in the Materials stage first.")
_STEP = Need(_step, "Select a material with a pattern in the Materials stage first.")
_HELD = Need(
    lambda w: _material(w) and w.session.held_step is not None,
    "Take a step along first, and select a material in the Materials stage.",
)


def _do(id: str, title: str, what: str, keys: str, payload: object = None, help: str = "") -> Command:
    return Command(
        f"patterns.{id}", title, "Patterns", lambda w: _outline(w).do_in_hand(what, payload), keys, _STEP, help
    )


PATTERNS = (
    Command(
        "patterns.add",
        "Drive a parameter with…",
        "Patterns",
        lambda w: _outline(w).offer_kinds(),
        "Alt+Shift+N",
        _MATERIAL,
        "Noises, made surfaces, wear, masks, what was taken along, own patterns",
    ),
    Command(
        "patterns.picture",
        "Drive a parameter with a picture…",
        "Patterns",
        lambda w: _outline(w).add_step("image"),
        "Alt+Shift+I",
        _MATERIAL,
    ),
    Command(
        "patterns.set",
        "Wire a set of pictures…",
        "Patterns",
        lambda w: _outline(w).add_set.click(),
        "Alt+Shift+W",
        _MATERIAL,
    ),
    Command(
        "patterns.next",
        "Take the step below in hand",
        "Patterns",
        lambda w: _outline(w).take_in_hand(1),
        "Alt+Shift+Down",
        _STEP,
    ),
    Command(
        "patterns.last",
        "Take the step above in hand",
        "Patterns",
        lambda w: _outline(w).take_in_hand(-1),
        "Alt+Shift+Up",
        _STEP,
    ),
    _do("open", "Open or close the step's numbers", "open", "Alt+Shift+O"),
    _do("mute", "Mute the step, or let it count again", "mute", "Alt+Shift+M"),
    _do("menu", "All that can be done with the step…", "menu", "Alt+Shift+A", help="What drives its numbers, too"),
    _do("mix", "Mix the step with another by a mask", "mix", "Alt+Shift+X"),
    _do("up", "Move the step up", "shift", "Alt+Shift+PgUp", 1, "Among those that drive the same"),
    _do("down", "Move the step down", "shift", "Alt+Shift+PgDown", -1, "Among those that drive the same"),
    _do("copy", "Copy the step", "copy", "Alt+Shift+C"),
    _do("take", "Take the step along", "take", "Alt+Shift+T", help="To another parameter or material"),
    Command(
        "patterns.put",
        "Put the step that was taken along",
        "Patterns",
        lambda w: _outline(w).put_held(),
        "Alt+Shift+V",
        _HELD,
    ),
    _do("keep", "Keep the step as own pattern", "keep", "Alt+Shift+K", help="At hand in every project"),
    _do("remove", "Remove the step", "remove", "Alt+Shift+Backspace"),
)
