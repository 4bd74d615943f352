"""Commands are data: one table feeds menus, shortcuts and the list of keys."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Command:
    """Something the user can do; `run` gets the window."""

    id: str
    title: str
    menu: str
    run: Callable[[Any], None]
    keys: str = ""
    enabled: Callable[[Any], bool] = lambda _: True


MENUS = ("Project", "Edit", "Stage", "Picture", "Render")

COMMANDS = (
    Command("project.new", "New project", "Project", lambda w: w.new_project(), "Ctrl+N"),
    Command("project.open", "Open a project…", "Project", lambda w: w.ask_open(), "Ctrl+O"),
    Command("project.demo", "Open the demo project", "Project", lambda w: w.open_demo()),
    Command("project.save", "Save", "Project", lambda w: w.save(), "Ctrl+S"),
    Command("project.save-as", "Save as…", "Project", lambda w: w.ask_save(), "Ctrl+Shift+S"),
    Command("project.bring-in", "Bring in a model…", "Project", lambda w: w.ask_model(), "Ctrl+I"),
    Command("project.quit", "Quit", "Project", lambda w: w.close(), "Ctrl+Q"),
    Command(
        "edit.undo", "Undo", "Edit", lambda w: w.session.undo(), "Ctrl+Z", lambda w: bool(w.session.history.undo_label)
    ),
    Command(
        "edit.redo",
        "Redo",
        "Edit",
        lambda w: w.session.redo(),
        "Ctrl+Shift+Z",
        lambda w: bool(w.session.history.redo_label),
    ),
    *(
        Command(f"stage.{name}", name.capitalize(), "Stage", lambda w, name=name: w.session.go_to(name), str(k + 1))
        for k, name in enumerate(("set", "materials", "light", "camera", "render", "finish"))
    ),
    Command("picture.only", "Only the picture", "Picture", lambda w: w.fold_all(), "O"),
    Command("picture.list", "List", "Picture", lambda w: w.fold("list"), "Ctrl+1"),
    Command("picture.sheet", "Sheet", "Picture", lambda w: w.fold("sheet"), "Ctrl+2"),
    Command("picture.foot", "Light desk", "Picture", lambda w: w.fold("foot"), "Ctrl+3"),
    Command(
        "picture.bring-into-view",
        "Bring the choice into view",
        "Picture",
        lambda w: w.bring_into_view(),
        "B",
        lambda w: bool(w.session.chosen.get("things")),
    ),
    Command("picture.focus", "Pick the focus", "Picture", lambda w: w.pick_focus(), "X"),
    Command("picture.denoise", "Denoise while working", "Picture", lambda w: w.denoise_button.toggle(), "N"),
    Command("render.start", "Render the view", "Render", lambda w: w.start_final(), "Ctrl+R"),
    Command("render.stop", "Stop", "Render", lambda w: w.stop_render(), "Ctrl+."),
    Command("render.go-on", "Go on", "Render", lambda w: w.go_on(), "Ctrl+Shift+R"),
    Command("render.export", "Export the picture…", "Render", lambda w: w.ask_export(), "Ctrl+E"),
    Command("render.cue", "Keep a cue", "Render", lambda w: w.desk.keep(), "K"),
)
