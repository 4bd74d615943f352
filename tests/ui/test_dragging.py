"""Steps and cues are dragged into another order, with a pointer on a screen of its own (offscreen Qt cannot drag)."""

import json
import shutil
import subprocess
import sys
import textwrap

import pytest

from tests.ui.screens import virtual_screen

DRAGS = """
    import json

    from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer
    from PySide6.QtGui import QMouseEvent
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from nocturne.scene import edit, grading
    from nocturne.scene.desk import Cue, Strip
    from nocturne.scene.document import Document
    from nocturne.ui.app import application
    from nocturne.ui.choice import Choice
    from nocturne.ui.panels.desk import LightDesk
    from nocturne.ui.panels.finish import StepList
    from nocturne.ui.session import Session

    LEFT, NONE = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier


    def pull(view, row, onto):
        \"\"\"Drag a row to the lower edge of another one.\"\"\"
        port, window = view.viewport(), view.window().windowHandle()

        def place(i, down=0):
            return view.visualItemRect(view.item(i)).center() + QPoint(0, down)

        def on_window(at):
            return port.mapTo(view.window(), at)

        let_go = []
        end = place(onto, view.visualItemRect(view.item(onto)).height() // 2 - 2)
        then = [
            lambda: QTest.mouseMove(window, on_window(place(row))),
            lambda: QTest.mouseMove(window, on_window(place(onto))),
            lambda: QTest.mouseMove(window, on_window(end)),
            lambda: QTest.mouseRelease(window, LEFT, NONE, on_window(end)),
            lambda: let_go.append(True),
        ]
        for k, step in enumerate(then):
            QTimer.singleShot(400 + 150 * k, step)
        QTest.mousePress(port, LEFT, NONE, place(row))
        for down in (3, 9, 14):  # far enough to be a drag; the move that starts it returns when it has ended
            at = place(row) + QPoint(3, down)
            event = QMouseEvent(
                QEvent.Type.MouseMove, QPointF(at), QPointF(port.mapToGlobal(at)), Qt.MouseButton.NoButton, LEFT, NONE
            )
            QApplication.sendEvent(port, event)
        for _ in range(2000):
            QTest.qWait(10)
            if let_go:
                break
        QTest.qWait(10)  # and what the release has queued


    application(["nocturne"])
    session = Session()
    document = Document(groups=("key", "fill"))
    for kind in ("exposure", "saturation", "vignette"):
        document, _ = grading.add_step(document, kind)
    ids = [step.id for step in document.finish.steps]
    cues = tuple(Cue(id=i, name=i.upper(), strips=(Strip(group="key"),)) for i in "abc")
    session.open(edit.changed(document, cues=cues), session.assets, None)

    steps = StepList(session, Choice(session, {}))
    steps.show_document(session.document)
    steps.resize(240, 400)
    steps.show()
    QTest.qWaitForWindowExposed(steps)
    pull(steps.view, 0, 2)
    after = [step.id for step in session.document.finish.steps]
    steps.hide()

    desk = LightDesk(session)
    desk.resize(900, 200)
    desk.show_document(session.document)
    desk.show()
    QTest.qWaitForWindowExposed(desk)
    pull(desk.cues, 0, 1)
    order = [cue.id for cue in session.document.cues]
    session.undo()
    undone = [cue.id for cue in session.document.cues]
    print(json.dumps([ids, after, order, undone]))
"""


@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="./nocturne test installs Xvfb")
def test_steps_and_cues_are_dragged_into_another_order(tmp_path):
    with virtual_screen() as env:
        words = [sys.executable, "-c", textwrap.dedent(DRAGS)]
        env["XDG_CONFIG_HOME"] = str(tmp_path)
        ran = subprocess.run(words, env=env, capture_output=True, text=True, timeout=120, check=False)
    assert ran.returncode == 0, ran.stderr
    ids, after, order, undone = json.loads(ran.stdout.splitlines()[-1])
    assert after == [ids[1], ids[2], ids[0]]
    assert order == ["b", "a", "c"]
    assert undone == ["a", "b", "c"]
