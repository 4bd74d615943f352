"""The style sheet and the typeface."""

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase, QPalette
from PySide6.QtWidgets import QApplication

from nocturne.ui.theme import tokens as t

_HERE = Path(__file__).resolve().parent.as_posix()
_FONTS = Path(__file__).parent / "fonts"


@cache
def family() -> str:
    """Load the shipped typeface and return its family name."""
    name = ""
    for file in sorted(_FONTS.glob("*.ttf")):
        number = QFontDatabase.addApplicationFont(str(file))
        families = QFontDatabase.applicationFontFamilies(number)
        name = name or (families[0] if families else "")
    return name or "sans-serif"


def font(px: float = t.BODY_PX, *, weight: int = 400) -> QFont:
    """Return the typeface with tabular figures at a size in pixels."""
    out = QFont(family())
    out.setPixelSize(round(px))
    out.setPointSizeF(px * 0.75)
    out.setWeight(QFont.Weight(weight))
    out.setFeature(QFont.Tag("tnum"), 1)
    return out


def sheet() -> str:
    """Return the application's style sheet."""
    return f"""
    * {{ color: {t.INK}; outline: 0; }}
    QMainWindow, QDialog, #ground {{ background: {t.GROUND}; }}
    QFrame#messages {{ background: {t.RAISED}; border: 1px solid {t.LINE}; border-radius: 4px; }}
    QFrame#messages QScrollArea, QFrame#messages QWidget {{ background: transparent; }}
    QToolTip {{ background: {t.RAISED}; color: {t.INK}; border: 1px solid {t.LINE}; padding: 4px 6px; }}
    QMenuBar {{ background: {t.GROUND}; border-bottom: 1px solid {t.LINE}; padding: 1px 4px; }}
    QMenuBar::item {{ padding: 4px 9px; background: transparent; border-radius: 4px; }}
    QMenuBar::item:selected {{ background: {t.RAISED}; }}
    QMenu {{ background: {t.PANEL}; border: 1px solid {t.LINE}; padding: 4px; }}
    QMenu::item {{ padding: 5px 26px 5px 12px; border-radius: 4px; }}
    QMenu::item:selected {{ background: {t.LINE}; }}
    QMenu::item:disabled {{ color: #7d7d7d; }}
    QMenu::separator {{ height: 1px; background: {t.LINE}; margin: 4px 8px; }}
    #panel {{ background: {t.PANEL}; }}
    #rail {{ background: {t.GROUND}; border-right: 1px solid {t.LINE}; }}
    #list {{ background: {t.PANEL}; border-right: 1px solid {t.LINE}; }}
    #sheet {{ background: {t.PANEL}; border-left: 1px solid {t.LINE}; }}
    #foot {{ background: {t.PANEL}; border-top: 1px solid {t.LINE}; }}
    #bar, #state {{ background: {t.GROUND}; }}
    #bar {{ border-bottom: 1px solid {t.LINE}; }}
    #offer {{ background: {t.PANEL}; border: 1px solid {t.LINE}; border-radius: 6px; }}
    #heading {{ font-weight: 600; }}
    #soft, QLabel[soft="true"] {{ color: {t.INK_SOFT}; font-size: {t.LABEL_PX}px; }}
    #care {{ color: {t.CARE}; }}
    #section {{ color: {t.INK_SOFT}; font-size: {t.LABEL_PX}px; border-bottom: 1px solid {t.LINE};
        padding: 10px 0 3px 0; }}
    QPushButton#fold {{ color: {t.INK_SOFT}; font-size: {t.LABEL_PX}px; background: transparent; text-align: left;
        border: 0; border-bottom: 1px solid {t.LINE}; border-radius: 0; padding: 8px 0 3px 0; }}
    QPushButton#fold:checked {{ color: {t.INK}; }}
    QPushButton#fold:hover, QPushButton#fold:focus {{ color: {t.MOON}; }}
    QToolButton#stage {{ border: 0; border-left: 2px solid transparent; border-radius: 0; font-size: {t.LABEL_PX}px;
        color: {t.INK_SOFT}; padding: 7px 0; }}
    QToolButton#stage:checked {{ color: {t.INK}; border-left: 2px solid {t.MOON}; background: {t.PANEL}; }}
    QToolButton#stage:hover {{ color: {t.INK}; }}
    QToolButton#stage:focus {{ color: {t.MOON}; }}
    QPushButton, QToolButton {{ background: {t.RAISED}; border: 1px solid transparent; border-radius: 4px;
        padding: 4px 10px; }}
    QToolButton {{ padding: 4px; }}
    QToolButton#plain {{ background: transparent; }}
    QPushButton:hover, QToolButton:hover {{ border-color: {t.LINE}; }}
    QPushButton:focus, QToolButton:focus {{ border-color: {t.MOON}; }}
    QPushButton:pressed, QToolButton:pressed {{ background: {t.LINE}; }}
    QPushButton:disabled, QToolButton:disabled {{ color: #7d7d7d; }}
    QPushButton#main {{ border-color: {t.MOON}; }}
    QToolButton:checked {{ background: {t.LINE}; }}
    QToolButton#stage, QToolButton#stage:checked {{ background: transparent; }}
    QLineEdit, QComboBox {{ background: {t.RAISED}; border: 1px solid transparent; border-radius: 4px; padding: 2px 6px;
        min-height: 18px; selection-background-color: {t.MOON}; selection-color: {t.GROUND}; }}
    QLineEdit:focus, QComboBox:focus {{ border-color: {t.MOON}; }}
    QLineEdit[wrong="true"] {{ border-color: {t.BAD}; }}
    QLineEdit:disabled, QComboBox:disabled {{ color: #7d7d7d; }}
    QComboBox::drop-down {{ border: 0; width: 18px; }}
    QComboBox::down-arrow {{ image: url({_HERE}/caret.svg); width: 10px; height: 10px; }}
    QComboBox QAbstractItemView {{ background: {t.PANEL}; border: 1px solid {t.LINE};
        selection-background-color: {t.LINE}; }}
    QCheckBox {{ spacing: 7px; }}
    QCheckBox::indicator, QListView::indicator, QTreeView::indicator {{ width: 13px; height: 13px;
        border: 1px solid #7d7d7d; border-radius: 3px;
        background: {t.RAISED}; }}
    QCheckBox::indicator:checked, QListView::indicator:checked, QTreeView::indicator:checked {{
        background: {t.MOON}; border-color: {t.MOON};
        image: url({_HERE}/check.svg); }}
    QCheckBox:focus {{ color: {t.MOON}; }}
    QTreeView, QListWidget {{ background: {t.PANEL}; border: 0; }}
    QTreeView::item, QListWidget::item {{ padding: 3px 4px; border-radius: 4px; }}
    QTreeView::item:hover, QListWidget::item:hover {{ background: {t.RAISED}; }}
    QTreeView::item:selected, QListWidget::item:selected {{ background: {t.LINE}; color: {t.INK}; }}
    QListWidget::item:selected {{ border-left: 2px solid {t.MOON}; }}
    QTreeView::branch {{ background: {t.PANEL}; }}
    QTreeView::branch:has-children:closed {{ image: url({_HERE}/caret-right.svg); }}
    QTreeView::branch:has-children:open {{ image: url({_HERE}/caret.svg); }}
    QScrollArea {{ background: {t.PANEL}; border: 0; }}
    QScrollBar:vertical {{ background: transparent; width: 8px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
    QScrollBar::handle {{ background: {t.LINE}; border-radius: 4px; min-height: 24px; min-width: 24px; }}
    QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
    QProgressBar {{ background: {t.RAISED}; border: 0; border-radius: 2px; max-height: 4px; min-height: 4px; }}
    QProgressBar::chunk {{ background: {t.MOON}; border-radius: 2px; }}
    #title {{ font-size: 17px; font-weight: 600; }}
    QPushButton#link {{ background: transparent; text-align: left; padding: 2px 6px; color: {t.INK_SOFT}; }}
    QPushButton#link:hover {{ color: {t.INK}; }}
    #key {{ color: {t.MOON}; }}
    QToolButton#foot-switch {{ background: transparent; color: {t.INK_SOFT}; padding: 1px 8px;
        border-radius: 4px; font-size: {t.LABEL_PX}px; }}
    QToolButton#foot-switch:checked {{ background: {t.RAISED}; color: {t.INK}; }}
    QPushButton:checked {{ background: {t.LINE}; border-color: {t.MOON}; }}
    QListView#cards {{ background: {t.PANEL}; border: 0; }}
    QHeaderView::section {{ background: {t.PANEL}; color: {t.INK_SOFT}; border: 0; padding: 2px 4px;
        font-size: {t.LABEL_PX}px; }}
    QPlainTextEdit {{ background: {t.RAISED}; border: 1px solid transparent; border-radius: 4px; }}
    QPlainTextEdit:focus {{ border-color: {t.MOON}; }}
    QSlider::groove:horizontal {{ background: {t.LINE}; height: 2px; }}
    QSlider::handle:horizontal {{ background: {t.INK}; width: 10px; margin: -5px 0; border-radius: 5px; }}
    #strip {{ background: {t.RAISED}; border-radius: 4px; }}
    #card {{ background: {t.PANEL}; border: 1px solid {t.LINE}; border-radius: 4px; }}
    """


def dress(app: QApplication) -> None:
    """Give the application its style, palette and typeface."""
    app.setStyle("Fusion")
    palette = QPalette()
    for role, colour in (
        (QPalette.ColorRole.Window, t.GROUND),
        (QPalette.ColorRole.Base, t.PANEL),
        (QPalette.ColorRole.AlternateBase, t.RAISED),
        (QPalette.ColorRole.Button, t.RAISED),
        (QPalette.ColorRole.Text, t.INK),
        (QPalette.ColorRole.WindowText, t.INK),
        (QPalette.ColorRole.ButtonText, t.INK),
        (QPalette.ColorRole.Highlight, t.MOON),
        (QPalette.ColorRole.HighlightedText, t.GROUND),
        (QPalette.ColorRole.ToolTipBase, t.RAISED),
        (QPalette.ColorRole.ToolTipText, t.INK),
        (QPalette.ColorRole.PlaceholderText, t.INK_SOFT),
    ):
        palette.setColor(role, QColor(colour))
    app.setPalette(palette)
    app.setFont(font())
    app.setStyleSheet(sheet())


@contextmanager
def undressed() -> Iterator[None]:
    """Take the style sheet off while a window is put together.

    Qt works out anew what a sheet means for all that is in a widget each time it is put into another one: of a window
    that took 1.5 s to build, 0.9 s.
    """
    app = QApplication.instance()
    app.setStyleSheet("")
    try:
        yield
    finally:
        app.setStyleSheet(sheet())
