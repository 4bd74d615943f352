"""The stages of the work: for each a list at the left of the picture, a sheet at its right, and what lies below."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtWidgets import QWidget

from nocturne.engine.prepare import Preparer
from nocturne.scene.forms import KINDS as FORMS
from nocturne.scene.lights import KINDS
from nocturne.ui.choice import Choice
from nocturne.ui.panels import finish, lists
from nocturne.ui.panels.outline import Outline
from nocturne.ui.panels.sheets.camera import CameraSheet
from nocturne.ui.panels.sheets.light import LightSheet
from nocturne.ui.panels.sheets.material import MaterialSheet
from nocturne.ui.panels.sheets.render import RenderSheet
from nocturne.ui.panels.sheets.thing import ThingSheet
from nocturne.ui.panels.views import ViewList
from nocturne.ui.patternshelf import PatternShelf
from nocturne.ui.runner import Runner
from nocturne.ui.session import Session
from nocturne.ui.swatchroom import SwatchRoom
from nocturne.ui.thumbroom import ThumbRoom
from nocturne.ui.wiring import Wiring


@dataclass(frozen=True, eq=False)
class Tools:
    """What pages are made with: session, what is done with the choice, small pictures, jobs, questions for files."""

    session: Session
    choice: Choice
    swatches: SwatchRoom
    thumbs: ThumbRoom
    preparer: Preparer
    runner: Runner
    ask_model: Callable[[], None]
    ask_picture: Callable[[], str]
    ask_pictures: Callable[[], list[str]]
    relative: Callable[[Path], str]
    folder: Callable[[], Path]
    patterns: PatternShelf
    ask_points: Callable[[], tuple | None]
    ask_metal: Callable[[], tuple | None]
    show_order: Callable[[], None]
    find_openings: Callable[[], None]


@dataclass(frozen=True, eq=False)
class Page:
    """One stage.

    part: of the document, that it is about; its icon has the stage's name. foot: what lies below the picture, "proofs",
    "desk", "pieces" or "stock". outlined: the part whose choice is shown in the picture, "" for none. draws: what is
    drawn over that ("lights", "focus", "placing"). counts: whether its sheet needs the histogram.
    """

    stage: str
    part: str
    list: Callable[[Tools], QWidget]
    sheet: Callable[[Tools], QWidget]
    foot: str = "proofs"
    outlined: str = ""
    draws: frozenset[str] = frozenset()
    counts: bool = False

    @property
    def title(self) -> str:
        """Return what the rail calls it."""
        return self.stage.capitalize()


def _things(tools: Tools) -> QWidget:
    panel = Outline(tools.session, "things", "The set", "Nothing here yet. Bring in a model, or add a shape.")
    kinds = [("Bring in models…   Ctrl+I", tools.ask_model)]
    kinds += [(form.title, lambda kind=kind: tools.choice.add_form(kind)) for kind, form in FORMS.items()]
    add = panel.add_button("add", "Add a shape or a model", lambda: lists.menu_under(add, kinds))
    panel.add_button("group", "Group the choice   Ctrl+G", tools.choice.group)
    panel.add_button("copy", "Copy the choice   Ctrl+D", tools.choice.copy)
    panel.add_button("remove", "Remove the choice   Delete", tools.choice.remove)
    return panel


def _materials(tools: Tools) -> QWidget:
    empty = "No materials yet. Add one, then give it to a thing."
    panel = lists.MaterialList(tools.session, "materials", "Materials", empty, tools.swatches)
    panel.add_button("add", "Add a material", tools.choice.add_material)
    panel.add_copy_and_remove()
    return panel


def _lights(tools: Tools) -> QWidget:
    panel = lists.LightList(tools.session, "lights", "Lights", "It is dark. Add a light to begin.")
    kinds = [(light.title, lambda kind=kind: tools.choice.add_light(kind)) for kind, light in KINDS.items()]
    kinds.append(("Portals: find openings", tools.find_openings))
    add = panel.add_button("add", "Add a light", lambda: lists.menu_under(add, kinds))
    panel.add_copy_and_remove()
    return panel


def _views(tools: Tools) -> QWidget:
    panel = ViewList(tools.session, "views", "Views", "", tools.thumbs, tools.preparer)
    panel.add_button("add", "Keep this view", tools.choice.keep_view)
    panel.add_button("remove", "Remove this view", panel.remove)
    return panel


def _qualities(tools: Tools) -> QWidget:
    panel = lists.QualityList(tools.session, "qualities", "Quality levels", "")
    panel.add_copy_and_remove()
    return panel


def _material_sheet(tools: Tools) -> MaterialSheet:
    wiring = Wiring(tools.session, tools.ask_pictures, tools.relative, tools.folder)
    return MaterialSheet(
        tools.session,
        tools.ask_picture,
        tools.ask_metal,
        tools.show_order,
        tools.swatches,
        wiring,
        tools.patterns,
        tools.runner,
    )


PAGES = (
    Page(
        "set",
        "things",
        list=_things,
        sheet=lambda tools: ThingSheet(tools.session, tools.choice, tools.ask_points, tools.ask_picture),
        outlined="things",
        draws=frozenset({"placing"}),
    ),
    Page(
        "materials",
        "materials",
        list=_materials,
        sheet=_material_sheet,
        foot="stock",
        outlined="things",
    ),
    Page(
        "light",
        "lights",
        list=_lights,
        sheet=lambda tools: LightSheet(tools.session, tools.ask_picture),
        foot="desk",
        outlined="lights",
        draws=frozenset({"lights", "placing"}),
    ),
    Page(
        "camera",
        "views",
        list=_views,
        sheet=lambda tools: CameraSheet(tools.session),
        draws=frozenset({"focus"}),
    ),
    Page("render", "qualities", list=_qualities, sheet=lambda tools: RenderSheet(tools.session)),
    Page(
        "finish",
        "steps",
        list=lambda tools: finish.StepList(tools.session, tools.choice),
        sheet=lambda tools: finish.FinishSheet(tools.session),
        foot="desk",
        counts=True,
    ),
)
DRAWN = frozenset().union(*(page.draws for page in PAGES))
BY_STAGE = {page.stage: page for page in PAGES}
BY_PART = {page.part: page for page in PAGES}
