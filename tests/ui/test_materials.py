"""Materials in the window: swatches come in the background, a material is dragged onto a thing in the picture."""

from PySide6.QtCore import QMimeData, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PySide6.QtWidgets import QApplication

from nocturne.ui.view.picture import MATERIAL_MIME
from tests.ui.test_window import place_of, wait_for_picture

COPY, LEFT, NONE = Qt.DropAction.CopyAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


def test_swatches_are_made_for_those_who_look(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    made = []
    window.swatches.made.connect(lambda id, _: made.append(id))
    qtbot.wait(300)
    assert not made, "nobody looks at materials yet"
    window.session.choose("materials", "brass")
    window.session.go_to("materials")
    qtbot.waitUntil(lambda: "brass" in made, timeout=30000)
    stand = window.sheets["materials"].stand
    assert not stand.picture.pixmap().isNull()
    made.clear()
    stand.stand.setCurrentIndex(1)
    stand.stand.activated.emit(1)
    qtbot.waitUntil(lambda: "brass" in made, timeout=30000)


def test_a_material_is_dropped_on_a_thing(qtbot, make_window, demo):
    window = make_window(demo)
    wait_for_picture(qtbot, window)
    window.session.go_to("materials")
    materials = window.lists["materials"].view
    row = next(i for i in range(materials.count()) if materials.item(i).data(Qt.ItemDataRole.UserRole) == "copper")
    carried: QMimeData = materials.mimeData([materials.item(row)])
    assert bytes(carried.data(MATERIAL_MIME)) == b"copper"
    at = QPointF(place_of(window, "mug-body").toPoint())
    for event in (
        QDragEnterEvent(at.toPoint(), COPY, carried, LEFT, NONE),
        QDragMoveEvent(at.toPoint(), COPY, carried, LEFT, NONE),
        QDropEvent(at, COPY, carried, LEFT, NONE),
    ):
        QApplication.sendEvent(window.picture, event)
        assert event.isAccepted()
    assert window.session.document.find("things", "mug-body").material == "copper"
    window.session.undo()
    assert window.session.document.find("things", "mug-body").material != "copper"
