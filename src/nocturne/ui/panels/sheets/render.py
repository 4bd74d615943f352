"""The sheet of the render: start, stop, the quality level's values."""

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QHBoxLayout,
    QPushButton,
)

from nocturne.film.memory import forecast
from nocturne.scene.outputs import Quality
from nocturne.ui.panels.finals import FinalList
from nocturne.ui.panels.sheets.sheet import Sheet
from nocturne.ui.session import Session
from nocturne.ui.widgets.words import soft


class RenderSheet(Sheet):
    """Settings of the quality level in use; start, stop, go on; export."""

    start_wanted, stop_wanted, go_on_wanted, export_wanted = Signal(), Signal(), Signal(), Signal()

    def __init__(self, session: Session) -> None:
        super().__init__(
            session,
            "qualities",
            (Quality,),
            {
                "": ("name",),
                "Stop": ("samples", "least_samples", "noise", "minutes"),
                "Light's ways": ("diffuse_bounces", "reflections", "transmissions", "bounces", "overlaps"),
                "Against noise": ("denoise", "clamp", "regularise"),
            },
            "",
        )
        keys = QHBoxLayout()
        self.start = QPushButton("Render")
        self.start.setObjectName("main")
        self.start.setToolTip("Render the view at its full size and this quality")
        self.stop = QPushButton("Stop")
        self.on = QPushButton("Go on")
        for button, signal in (
            (self.start, self.start_wanted),
            (self.stop, self.stop_wanted),
            (self.on, self.go_on_wanted),
        ):
            button.clicked.connect(lambda _=False, s=signal: s.emit())
            keys.addWidget(button)
        self.column.insertLayout(1, keys)
        self.memory = soft("")
        self.column.insertWidget(2, self.memory)
        self.finals = FinalList()
        self.column.insertWidget(3, self.finals)
        self.button("Export…", self.export_wanted.emit)

    def show_item(self, item, document):
        """Show a level, and how much memory the picture takes."""
        super().show_item(item, document)
        view = document.view
        needs = forecast(view.width, view.height, len(document.lit_groups))
        width, height = needs.largest
        self.memory.setText(
            f"{needs.words()} of memory."
            if needs.fits
            else f"▲ {needs.words()} of memory; {width} × {height} would fit."
        )

    def show_held_back(self, share: float) -> None:
        """Say beside the clamp how much of the light it takes from the picture that is seen."""
        words = ""
        if self.session.document.quality.clamp > 0:
            words = (
                f"Takes {share * 100:.1f} % of the light." if share >= 0.0005 else "Takes less than 0.1 % of the light."
            )
        self.form.note("clamp", words)

    def chosen_id(self, document):
        """Return the quality level in use."""
        return document.quality.id
