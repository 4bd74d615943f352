"""Small pictures: made once, taken from where they were kept, made again when what they show has changed."""

import pytest
from PySide6.QtGui import QImage

from nocturne.engine.prepare import Preparer
from nocturne.pieces.portrait import portrait
from nocturne.pieces.shipped import shipped
from nocturne.scene.assets import Assets
from nocturne.ui.thumbroom import ThumbRoom


@pytest.fixture
def room():
    made = ThumbRoom()
    made.start()
    yield made
    made.close()


def test_a_picture_is_kept_and_taken_again(qtbot, engine, room, tmp_path):
    file, prepared, failed = tmp_path / "pieces" / "a.png", [], []
    room.failed.connect(failed.append)

    def prepare():
        prepared.append(1)
        document = portrait(shipped()[0].document, Assets(), width=32, height=24)
        return Preparer().prepare(document, Assets(), width=32, height=24)

    for name in ("a", "b"):
        room.ask(name, ("first",), prepare, kept=lambda: file)
        qtbot.waitUntil(lambda n=name: room.known(n) is not None, timeout=60000)
    assert len(prepared) == 1, "the second one is the file's"
    assert room.known("b").size() == QImage(str(file)).size() == room.known("a").size()
    room.ask("a", ("first",), prepare)
    qtbot.waitUntil(lambda: room.is_idle, timeout=60000)
    assert len(prepared) == 1, "nothing has changed"
    file.write_bytes(b"no picture")
    room.ask("a", ("second",), prepare, kept=lambda: file)
    qtbot.waitUntil(lambda: len(prepared) == 2 and room.is_idle, timeout=60000)
    assert not QImage(str(file)).isNull()

    def refuse():
        raise OSError("the disk is gone")

    for _ in range(2):
        room.ask("c", ("third",), refuse)
        qtbot.waitUntil(lambda: room.is_idle, timeout=60000)
    qtbot.waitUntil(lambda: len(failed) == 1, timeout=60000)
    assert "small picture" in str(failed[0])


def test_rows_of_views_are_as_tall_as_their_pictures(qtbot, make_window, demo, monkeypatch):
    window = make_window(demo)
    window.session.go_to("camera")
    views = window.lists["camera"]
    qtbot.waitUntil(lambda: views.view.count() == len(demo.document.views), timeout=60000)
    image = QImage(72, 40, QImage.Format.Format_RGB888)
    image.fill(0)
    monkeypatch.setattr(window.thumbs, "known", lambda name: None if name == "view town" else image)
    window.thumbs.made.emit("view bench")

    def heights() -> list[int]:
        return [views.view.visualItemRect(views.view.item(i)).height() for i in range(views.view.count())]

    # One is not made yet.
    qtbot.waitUntil(lambda: min(heights()[:-1]) >= 40, timeout=60000)
