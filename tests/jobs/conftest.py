"""Job tests drive the real window, as in the tests of the window itself."""

import pytest

from nocturne.io import project
from nocturne.scene import edit
from tests.ui.conftest import live_pixels, make_window, preparer, qapp, qapp_cls  # noqa: F401


@pytest.fixture
def small_demo(demo, tmp_path):
    """Return the demo as a project of its own in a fresh folder's place, quick to render to its end."""
    document = edit.alter(demo.document, "views", "wide", width=192, height=108)
    document = edit.alter(document, "qualities", "review", samples=4, noise=0.0, denoise="fast")
    return project.Project(document, demo.path, demo.assets)


@pytest.fixture
def small_window(make_window, small_demo, tmp_path, qtbot):  # noqa: F811
    """Return a window on the small demo whose proofs go to a folder of the test."""
    window = make_window(small_demo)
    window.room.folder = tmp_path / "sheet.proofs"
    return window
