"""Commands are data: one table feeds menus, shortcuts, the command list, the help sheet and the docs.

A letter alone only looks, or asks for a click; what alters the document or keeps something has Alt or Ctrl with it, so
that words typed into the window by mistake do no harm.
"""

from nocturne.scene.forms import KINDS as FORMS
from nocturne.ui.commands.command import Command, Need
from nocturne.ui.commands.patterns import PATTERNS
from nocturne.ui.pages import PAGES
from nocturne.ui.widgets.entry import half_typed

MENUS = ("Project", "Edit", "Things", "Patterns", "Stage", "Picture", "Proof", "Desk", "Render", "Help")


def _some_things(w) -> bool:
    return bool(w.session.all_chosen("things"))


_THINGS = Need(_some_things, "Select a thing first: click it in the picture or in the outline.")
_PLACED = Need(
    lambda w: _some_things(w) or bool(w.session.all_chosen("lights")),
    "Select a thing or a light first: click it in the picture or in its list.",
)
_PROOF = Need(lambda w: w.showing.proof() is not None, "Show a proof first: click one on the contact sheet.")
_COMPARED = Need(lambda w: bool(w.showing.compare), "Compare with a proof first.")
_UNDO = Need(lambda w: bool(w.session.history.undo_label) or half_typed() is not None, "There is nothing to undo.")
_REDO = Need(lambda w: bool(w.session.history.redo_label), "There is nothing to do again.")


PROJECT = (
    Command("project.new", "New project", "Project", lambda w: w.projects.new(), "Ctrl+N"),
    Command("project.open", "Open a project…", "Project", lambda w: w.projects.ask_open(), "Ctrl+O"),
    Command("project.recent", "Open a recent project…", "Project", lambda w: w.show_start(), "Ctrl+Shift+O"),
    Command("project.demo", "Open the demo project", "Project", lambda w: w.projects.open_demo()),
    Command(
        "project.open-render",
        "Open a saved render on the desk…",
        "Project",
        lambda w: w.projects.ask_render(),
        help="Mix the light groups of an EXR without its scene",
    ),
    Command("project.save", "Save", "Project", lambda w: w.projects.save(), "Ctrl+S"),
    Command("project.save-as", "Save as…", "Project", lambda w: w.projects.ask_save(), "Ctrl+Shift+S"),
    Command(
        "project.pack",
        "Pack the project…",
        "Project",
        lambda w: w.delivery.ask_pack(),
        help="Everything the project needs in one archive",
    ),
    Command("project.bring-in", "Bring in models…", "Project", lambda w: w.projects.ask_model(), "Ctrl+I"),
    Command(
        "project.reload",
        "Reload what changed on disk",
        "Project",
        lambda w: w.bring.reload(),
        "Alt+F5",
        help="Models and pictures that were written since; places, materials and edits stay",
    ),
    Command(
        "project.export-set",
        "Export the set…",
        "Project",
        lambda w: w.bring.ask_export(w),
        help="Things, materials, lights and views as GLB or OpenUSD",
    ),
    Command(
        "project.preflight",
        "Preflight",
        "Project",
        lambda w: w.show_preflight(),
        "Ctrl+Shift+F",
        help="What is probably wrong, each with a way to mend it",
    ),
    Command("project.quit", "Quit", "Project", lambda w: w.close(), "Ctrl+Q"),
)

EDIT = (
    Command("edit.undo", "Undo", "Edit", lambda w: w.session.undo(), "Ctrl+Z", _UNDO, finishes_typing=False),
    Command(
        "edit.redo",
        "Redo",
        "Edit",
        lambda w: w.session.redo(),
        "Ctrl+Shift+Z",
        _REDO,
        finishes_typing=False,
    ),
    Command("edit.history", "History…", "Edit", lambda w: w.show_history(), "Ctrl+H"),
    Command("edit.copy", "Make a copy of the choice", "Edit", lambda w: w.choice.copy(), "Ctrl+D"),
    Command("edit.remove", "Remove the choice", "Edit", lambda w: w.remove_choice(), "Delete"),
    Command("edit.hide", "Hide or show the choice", "Edit", lambda w: w.choice.hide(), "Alt+Y", _THINGS),
    Command("edit.floor", "Put the choice on the floor", "Edit", lambda w: w.choice.drop(), "Alt+D", _THINGS),
    Command(
        "edit.box",
        "Choose by a box",
        "Edit",
        lambda w: w.picture.set_mode("box"),
        "A",
        help="Drag a box in the picture",
    ),
    Command(
        "edit.same-material",
        "Choose all with the same material",
        "Edit",
        lambda w: w.choice.same_material(),
        "Shift+A",
        _THINGS,
    ),
    Command(
        "edit.find-openings",
        "Find openings for portals",
        "Edit",
        lambda w: w.portals.find(),
        help="Windows of the room the camera is in; shown before they are taken",
    ),
    Command(
        "edit.portal",
        "Portal on the chosen thing's face",
        "Edit",
        lambda w: w.portals.on_face(),
        needs=_THINGS,
        help="Its largest flat face towards the camera; shown before it is taken",
    ),
    Command("edit.take-material", "Pick up the material", "Edit", lambda w: w.choice.pick_up(), "Ctrl+Alt+C", _THINGS),
    Command(
        "edit.give-placing",
        "Let pictures lie as on the picked-up thing",
        "Edit",
        lambda w: w.choice.give_placing(),
        "Ctrl+Alt+P",
        _THINGS,
    ),
    Command(
        "edit.turn-pictures", "Turn its pictures by 90°", "Edit", lambda w: w.choice.turn_pictures(), "Alt+U", _THINGS
    ),
    Command(
        "edit.fit-pictures",
        "Fit its pictures to the thing",
        "Edit",
        lambda w: w.choice.fit_pictures(),
        "Alt+I",
        _THINGS,
    ),
    Command(
        "edit.replace-material",
        "Replace its material everywhere by the picked-up one",
        "Edit",
        lambda w: w.choice.replace_material(),
        needs=_THINGS,
        help="All that wear the chosen thing's material get the one that was picked up",
    ),
    Command(
        "edit.give-material", "Give the picked-up material", "Edit", lambda w: w.choice.give(), "Ctrl+Alt+V", _THINGS
    ),
)

THINGS = (
    Command("things.group", "Group the choice", "Things", lambda w: w.choice.group(), "Ctrl+G", _THINGS),
    Command("things.ungroup", "Ungroup", "Things", lambda w: w.choice.ungroup(), "Ctrl+Shift+G", _THINGS),
    Command(
        "things.only",
        "Only this, or all again",
        "Things",
        lambda w: w.choice.only(),
        "Alt+O",
        help="Hides all but the choice; the same command shows it again",
    ),
    Command("things.lock", "Lock or free the choice", "Things", lambda w: w.choice.lock(), "Alt+L", _THINGS),
    *(
        Command(
            f"things.align-{'xyz'[axis]}-{words}",
            f"Align: {words} along {'xyz'[axis]}",
            "Things",
            lambda w, axis=axis, side=side: w.choice.align(axis, side),
            needs=_THINGS,
            help="With the thing that was chosen last",
        )
        for axis in range(3)
        for side, words in ((-1, "low sides"), (0, "middles"), (1, "high sides"))
    ),
    *(
        Command(
            f"things.distribute-{axis}",
            f"Equal gaps along {axis}",
            "Things",
            lambda w, k=k: w.choice.distribute(k),
            needs=_THINGS,
        )
        for k, axis in enumerate("xyz")
    ),
    *(
        Command(
            f"things.mirror-{axis}", f"Mirror along {axis}", "Things", lambda w, k=k: w.choice.mirror(k), "", _THINGS
        )
        for k, axis in enumerate("xyz")
    ),
    Command(
        "things.faces",
        "Choose faces",
        "Things",
        lambda w: w.picture.set_mode("faces"),
        "B",
        help="Click a flat side; Ctrl adds, Alt follows curves, Shift takes all; a material given goes to them",
    ),
    Command(
        "things.stand",
        "Put the choice on a surface",
        "Things",
        lambda w: w.picture.set_mode("stand"),
        "Shift+S",
        _THINGS,
        "Click a surface: the thing turns with it; with Ctrl it stays upright",
    ),
    *(
        Command(
            f"things.pivot-{where}",
            f"Pivot: {words}",
            "Things",
            lambda w, where=where: w.choice.pivot(where),
            "",
            _THINGS,
        )
        for where, words in (("middle", "to the middle"), ("floor", "to the foot"), ("origin", "where it was made"))
    ),
    Command(
        "things.pivot",
        "Pivot: click where",
        "Things",
        lambda w: w.picture.set_mode("pivot"),
        "Shift+P",
        _THINGS,
        "What is chosen turns and grows about it",
    ),
    Command("things.turn-over", "Turn faces over", "Things", lambda w: w.choice.turn_over(), "", _THINGS),
    Command(
        "things.lay-pictures",
        "Place pictures by hand",
        "Things",
        lambda w: w.picture.set_mode("texture"),
        "Shift+T",
        help="Drag the pictures on a thing; the dots of the frame turn and size them",
    ),
    Command(
        "things.measure",
        "Measure between two points",
        "Things",
        lambda w: w.picture.set_mode("measure"),
        "D",
        help="The reading stays drawn until Escape",
    ),
    Command(
        "things.send-length",
        "Type the measured length into the last field",
        "Things",
        lambda w: w.setwork.send_length(),
        "Alt+M",
    ),
    Command("things.measures", "Measures of the choice and the set…", "Things", lambda w: w.show_measures(), "Shift+D"),
    Command(
        "things.media-order",
        "Order of glass and liquid…",
        "Things",
        lambda w: w.show_order(),
        "Shift+L",
        help="Which of overlapping glasses and liquids exists, and what light meets at their walls",
    ),
    Command(
        "things.array",
        "Array of the choice…",
        "Things",
        lambda w: w.show_array(),
        needs=_THINGS,
        help="Further copies in a line or a ring",
    ),
    Command("things.unique", "Make its materials its own", "Things", lambda w: w.choice.make_unique(), "", _THINGS),
    Command(
        "things.scatter",
        "Scatter the choice over a grid",
        "Things",
        lambda w: w.choice.scatter(),
        "Ctrl+Alt+G",
        _THINGS,
        "Copies that cost next to nothing, by numbers that stay editable",
    ),
    Command(
        "things.scatter-on",
        "Scatter the choice over the thing chosen last",
        "Things",
        lambda w: w.choice.scatter(on_last=True),
        "Ctrl+Alt+S",
        _THINGS,
    ),
    *(
        Command(
            f"things.cut-{kind}",
            f"Cut the choice open with a {kind}",
            "Things",
            lambda w, kind=kind: w.choice.cut_away(kind),
            key,
            _THINGS,
            "Looks into it from where the camera is; nothing of its geometry changes",
        )
        for kind, key in (("box", "Ctrl+Alt+X"), ("ball", ""), ("plane", ""))
    ),
    Command(
        "things.keep-piece",
        "Keep the choice as a piece",
        "Things",
        lambda w: w.pieces.keep(),
        "Ctrl+Alt+K",
        _THINGS,
        "It is at hand in every project, with its materials, lights and files",
    ),
    Command("things.pieces", "Pieces…", "Things", lambda w: w.show_foot("pieces"), "Shift+F"),
    Command("things.stock", "Ready materials…", "Things", lambda w: w.show_foot("stock"), "Shift+M"),
    Command(
        "things.keep-material",
        "Keep the chosen material for all projects",
        "Things",
        lambda w: w.stock.keep(),
        help="With all that it lies over, and the pictures that it names",
    ),
    Command("things.make-real", "Make a scatter's copies real", "Things", lambda w: w.choice.make_real(), "", _THINGS),
    *(
        Command(
            f"things.add-{kind}", f"Add: {form.title.lower()}", "Things", lambda w, kind=kind: w.choice.add_form(kind)
        )
        for kind, form in FORMS.items()
    ),
)

STAGE = tuple(
    Command(f"stage.{page.stage}", page.title, "Stage", lambda w, page=page: w.session.go_to(page.stage), str(k + 1))
    for k, page in enumerate(PAGES)
)

PICTURE = (
    Command("picture.only", "Only the picture", "Picture", lambda w: w.fold_all(), "O"),
    Command("picture.full", "Full screen", "Picture", lambda w: w.toggle_full_screen(), "F11"),
    Command("picture.list", "List", "Picture", lambda w: w.fold("list"), "Ctrl+1"),
    Command("picture.sheet", "Sheet", "Picture", lambda w: w.fold("sheet"), "Ctrl+2"),
    Command("picture.foot", "Foot", "Picture", lambda w: w.fold("foot"), "Ctrl+3"),
    Command(
        "picture.other-foot", "Contact sheet, light desk, pieces, materials", "Picture", lambda w: w.toggle_foot(), "F"
    ),
    Command("picture.whole", "Whole picture", "Picture", lambda w: w.picture.zoom_whole(), "W"),
    Command("picture.actual", "One to one", "Picture", lambda w: w.picture.zoom_actual(), "Q"),
    Command(
        "picture.full-size",
        "Every pixel live, or as keeps up",
        "Picture",
        lambda w: w.renders.toggle_full_size(),
        help="On a large screen the live picture is rendered smaller, so that it keeps up with edits",
    ),
    Command("picture.closer", "Closer", "Picture", lambda w: w.zoom(1.5), "+", help="Ctrl and the wheel do it too"),
    Command("picture.further", "Further away", "Picture", lambda w: w.zoom(1 / 1.5), "-"),
    Command(
        "picture.bring-into-view",
        "Bring the choice into view",
        "Picture",
        lambda w: w.choice.bring_into_view(),
        "Alt+B",
        _PLACED,
    ),
    Command("picture.upright", "Upright verticals", "Picture", lambda w: w.camera.upright(), "Alt+T"),
    Command("picture.focus", "Pick the focus", "Picture", lambda w: w.camera.pick_focus(), "X"),
    Command("picture.spot", "Expose for a spot", "Picture", lambda w: w.picture.set_mode("spot"), "Shift+X"),
    Command("picture.average", "Expose for the whole picture", "Picture", lambda w: w.camera.expose_for_all()),
    Command("picture.neutral", "Pick a neutral", "Picture", lambda w: w.picture.set_mode("neutral"), "Shift+N"),
    Command("picture.region", "Render a region first", "Picture", lambda w: w.renders.toggle_region(), "Alt+R"),
    Command("picture.meter", "Meter (hold the key)", "Picture", lambda w: w.start_meter(), "M"),
    Command(
        "picture.step-alone",
        "Only the step in hand",
        "Picture",
        lambda w: w.show_step_alone(),
        "Shift+O",
        help="What that step of a pattern puts out, on what wears the material; the same command shows all again",
    ),
    Command(
        "picture.before-patterns",
        "Before and after patterns",
        "Picture",
        lambda w: w.show_before_patterns(),
        "Shift+B",
        help="The chosen material as it is without what drives it",
    ),
    Command("picture.stops", "False-colour stops", "Picture", lambda w: w.picture_bar.stops.toggle(), "S"),
    Command("picture.scopes", "Histogram and waveform", "Picture", lambda w: w.picture_bar.scopes.toggle(), "G"),
    Command("picture.guides", "Frame guides", "Picture", lambda w: w.toggle_overlay("guides"), "U"),
    Command("picture.lights", "Show lights", "Picture", lambda w: w.toggle_overlay("lights"), "L"),
    Command("picture.handles", "Show handles", "Picture", lambda w: w.toggle_overlay("handles"), "J"),
    Command("picture.sharp", "Show what is sharp", "Picture", lambda w: w.toggle_overlay("sharp"), "I"),
    Command(
        "picture.facing",
        "Show what is seen from behind",
        "Picture",
        lambda w: w.toggle_overlay("facing"),
        "Shift+I",
        help="Stripes lie over faces whose outside looks away; Turn faces over mends them",
    ),
    Command("picture.denoise", "Denoise while working", "Picture", lambda w: w.picture_bar.denoise.toggle(), "N"),
)

PROOF = (
    Command("proof.keep", "Keep this proof", "Proof", lambda w: w.proofs.keep(), "Alt+P"),
    Command(
        "proof.compare", "Compare with the newest proof, or stop", "Proof", lambda w: w.proofs.toggle_compare(), "C"
    ),
    Command("proof.flip", "Flip", "Proof", lambda w: w.proofs.flip(), "V", _COMPARED),
    *(
        Command(f"proof.{mode}", f"Compare: {words}", "Proof", lambda w, mode=mode: w.showing.set_mode(mode))
        for mode, words in (
            ("wipe", "wipe"),
            ("side", "side by side"),
            ("difference", "difference"),
        )
    ),
    Command("proof.back", "Go back to all of it", "Proof", lambda w: w.proofs.go_back_to_all(), "", _PROOF),
    Command("proof.star", "Star", "Proof", lambda w: w.proofs.star(), "Alt+Shift+P", _PROOF),
    Command("proof.remove", "Take the proof off the sheet", "Proof", lambda w: w.proofs.remove_shown(), "", _PROOF),
    Command(
        "proof.bring-back",
        "Bring back the proof",
        "Proof",
        lambda w: w.room.bring_back(),
        "",
        Need(lambda w: w.room.can_bring_back, "No proof was taken off the sheet lately."),
    ),
    Command("proof.print", "Print the contact sheet…", "Proof", lambda w: w.delivery.ask_print(), "Ctrl+P"),
    Command("proof.live", "Back to the live picture", "Proof", lambda w: w.show_all_live(), "Escape"),
)

DESK = (
    Command("desk.cue", "Keep a cue", "Desk", lambda w: w.desk.keep(), "Alt+K"),
    Command("desk.all-on", "All lights on", "Desk", lambda w: w.desk.all_power(True)),
    Command("desk.all-off", "All lights off", "Desk", lambda w: w.desk.all_power(False)),
    Command("desk.reset", "Reset the desk", "Desk", lambda w: w.desk.reset()),
    Command(
        "desk.apply",
        "Write the desk back to the lights",
        "Desk",
        lambda w: w.desk.apply_to_lights(),
        help="The lights of the set take the faders over, and the faders go to 0",
    ),
    Command("desk.next-cue", "Next cue", "Desk", lambda w: w.desk.step_cue(1), "Alt+."),
    Command("desk.last-cue", "Cue before", "Desk", lambda w: w.desk.step_cue(-1), "Alt+,"),
)

RENDER = (
    Command("render.start", "Render the view", "Render", lambda w: w.renders.start_final(), "Ctrl+R"),
    Command("render.stop", "Stop", "Render", lambda w: w.renders.stop(), "Ctrl+."),
    Command("render.go-on", "Go on", "Render", lambda w: w.renders.go_on(), "Ctrl+Shift+R"),
    Command("render.export", "Export…", "Render", lambda w: w.delivery.ask_export(), "Ctrl+E"),
)

HELP = (
    Command("help.commands", "Find a command…", "Help", lambda w: w.show_commands(), "Ctrl+K"),
    Command("help.keys", "Keys", "Help", lambda w: w.show_keys(), "?"),
    Command("help.start", "Start page", "Help", lambda w: w.show_start()),
)

COMMANDS = (*PROJECT, *EDIT, *THINGS, *PATTERNS, *STAGE, *PICTURE, *PROOF, *DESK, *RENDER, *HELP)
