"""Palette, type and spacing: the one place where the window's look is defined."""

from __future__ import annotations

from dataclasses import dataclass
from importlib.resources import files
from pathlib import Path

from PySide6.QtGui import QColor, QFont, QFontDatabase

from unkelt.lettering.shelves import bundled_faces

FAMILY = "Barlow"
ICONS = Path(str(files("unkelt") / "assets" / "icons"))
ARROW = ICONS / "chevron-down.svg"
GAP, PAD, ROW = 8, 16, 34
RADIUS = 6


@dataclass(frozen=True)
class Palette:
    """Colours by what they are for. Hold, warn and note are also told apart by shape and word."""

    table: str
    page: str
    page_edge: str
    panel: str
    raised: str
    line: str
    text: str
    muted: str
    accent: str
    accent_soft: str
    on_accent: str
    hold: str
    hold_soft: str
    warn: str
    note: str
    art_fill: str
    art_line: str
    score: str
    engrave: str


LIGHT = Palette(
    table="#e4dfd6",
    page="#fffefa",
    page_edge="#c9c2b6",
    panel="#f7f5f0",
    raised="#fffefb",
    line="#ddd7cc",
    text="#1d2429",
    muted="#585f64",
    accent="#1b5c4d",
    accent_soft="#dbe8e2",
    on_accent="#ffffff",
    hold="#9b4107",
    hold_soft="#fae8da",
    warn="#71600a",
    note="#44617a",
    art_fill="#d5d8d6",
    art_line="#16313a",
    score="#7a5c10",
    engrave="#8d9296",
)

DARK = Palette(
    table="#26282a",
    page="#33373a",
    page_edge="#4a4f53",
    panel="#1d1f21",
    raised="#282b2e",
    line="#3b4044",
    text="#eceae4",
    muted="#a4abaf",
    accent="#7cc3ad",
    accent_soft="#25403a",
    on_accent="#0d1f1a",
    hold="#f0a062",
    hold_soft="#45301f",
    warn="#d3c05a",
    note="#9dbdd8",
    art_fill="#565d61",
    art_line="#e3eeec",
    score="#d8b75c",
    engrave="#787f84",
)


LARGEST_TEXT = 2.0
_text = 1.0
"""How much larger than drawn here text is, and what holds it."""


def set_text_size(times: float) -> None:
    """Parts that are made from now on have their text so many times as large, within 1 and 2, and room for it."""
    global _text  # noqa: PLW0603 - one look for the whole window
    _text = min(max(times, 1.0), LARGEST_TEXT)


def px(length: float) -> int:
    """Pixels that grow with the text."""
    return round(length * _text)


def system_text_size() -> float:
    """How much larger than this look's ten points the system wants its text."""
    points = QFontDatabase.systemFont(QFontDatabase.SystemFont.GeneralFont).pointSizeF()
    return points / 10 if points > 0 else 1.0


def load_faces() -> None:
    """Makes the bundled interface face known to Qt."""
    for face in bundled_faces():
        if face.family.startswith(FAMILY):
            QFontDatabase.addApplicationFont(str(face.path))


def font(points: float = 10.0, weight: int = 400, *, grows: bool = True) -> QFont:
    """The interface face with figures of one width, so that columns line up. It grows with the text, unless there is no
    more room where it stands.
    """
    made = QFont(FAMILY)
    made.setPointSizeF(points * (_text if grows else 1.0))
    made.setWeight(QFont.Weight(weight))
    made.setFeature(QFont.Tag("tnum"), 1)
    made.setHintingPreference(QFont.HintingPreference.PreferNoHinting)  # hinting swallows the dots of bold small i's
    return made


def colour(value: str, alpha: int = 255) -> QColor:
    made = QColor(value)
    made.setAlpha(alpha)
    return made


def tick(palette: Palette) -> Path:
    """The picture of a tick in a box that is filled."""
    return ICONS / f"tick-{palette.on_accent.removeprefix('#')}.svg"


def style_sheet(p: Palette) -> str:
    """Qt's style sheet for the standard controls."""
    return f"""
    QWidget {{ color: {p.text}; background: {p.panel}; }}
    QMainWindow, QMenuBar, QMenu, QDialog {{ background: {p.raised}; }}
    QMenuBar {{ padding: 2px 8px; border-bottom: 1px solid {p.line}; }}
    QMenuBar::item {{ padding: 4px 10px; background: transparent; border-radius: 4px; }}
    QMenuBar::item:selected, QMenu::item:selected {{ background: {p.accent_soft}; color: {p.text}; }}
    QMenu {{ border: 1px solid {p.line}; padding: 4px; }}
    QMenu::item {{ padding: 5px 28px 5px 12px; border-radius: 4px; }}
    QMenu::item:disabled {{ color: {p.muted}; }}
    QMenu::separator {{ height: 1px; background: {p.line}; margin: 4px 8px; }}
    QToolTip {{ color: {p.text}; background: {p.raised}; border: 1px solid {p.line}; padding: 4px 6px; }}
    #header, #bar, #strip {{ background: {p.raised}; }}
    #header QLabel, #header QToolButton, #bar QLabel, #strip QLabel {{ background: transparent; }}
    #bar {{ border-bottom: 1px solid {p.line}; }}
    #strip {{ border-top: 1px solid {p.line}; }}
    #docket, #panel {{ background: {p.panel}; }}
    #docket {{ border-right: 1px solid {p.line}; }}
    #panel {{ border-left: 1px solid {p.line}; }}
    #panel QLabel, #docket QLabel, QDialog QLabel {{ background: transparent; }}
    QLabel[role="muted"] {{ color: {p.muted}; }}
    QLabel[role="hold"] {{ color: {p.hold}; }}
    QLabel[role="accent"] {{ color: {p.accent}; }}
    QPushButton {{ background: {p.raised}; border: 1px solid {p.accent}; color: {p.accent}; border-radius: {RADIUS}px;
                   padding: 7px 14px; }}
    QPushButton:hover {{ background: {p.accent_soft}; }}
    QPushButton:focus {{ border: 2px solid {p.accent}; padding: 6px 13px; }}
    QPushButton[role="primary"] {{ background: {p.accent}; color: {p.on_accent}; }}
    QPushButton[role="primary"]:focus {{ border: 2px solid {p.text}; }}
    QPushButton[role="link"] {{ background: transparent; border: 1px solid transparent; padding: 4px 0; text-align: left; }}
    QPushButton[role="link"]:hover {{ color: {p.text}; }}
    QPushButton[role="link"]:focus {{ border-bottom: 1px solid {p.accent}; padding: 4px 0; }}
    QPushButton:disabled, QPushButton[role="primary"]:disabled {{ background: {p.panel}; color: {p.muted};
                   border: 1px solid {p.line}; }}
    QToolButton {{ background: transparent; border: 1px solid transparent; border-radius: {RADIUS}px; padding: 5px 8px; }}
    QToolButton:hover {{ background: {p.accent_soft}; }}
    QToolButton:focus {{ border: 1px solid {p.accent}; }}
    QToolButton:checked {{ background: {p.accent}; color: {p.on_accent}; }}
    QToolButton:disabled {{ color: {p.muted}; }}
    #title {{ padding: 2px 6px; }}
    QToolButton::menu-indicator {{ image: none; }}
    #holder, #holder > QWidget {{ background: transparent; }}
    #column {{ background: transparent; }}
    #intake {{ background: {p.table}; }}
    #card {{ background: {p.raised}; border: 1px solid {p.line}; border-radius: 8px; }}
    QCheckBox::indicator {{ width: 13px; height: 13px; border: 1px solid {p.muted}; border-radius: 3px;
                   background: {p.raised}; }}
    QCheckBox::indicator:checked {{ background: {p.accent}; border: 1px solid {p.accent}; image: url({tick(p)}); }}
    QCheckBox::indicator:focus {{ border: 2px solid {p.text}; width: 11px; height: 11px; }}
    #card QLabel, #card QCheckBox {{ background: transparent; }}
    #views {{ background: {p.panel}; border: 1px solid {p.line}; border-radius: 16px; }}
    #views QToolButton {{ border-radius: 12px; padding: 4px 11px; }}
    #rule {{ background: {p.line}; }}
    #footer {{ background: {p.panel}; border-top: 1px solid {p.line}; }}
    QComboBox::drop-down {{ border: none; width: 24px; }}
    QComboBox::down-arrow {{ image: url({ARROW}); width: 14px; height: 14px; }}
    #holder > #lenses {{ background: {p.raised}; border: 1px solid {p.line}; border-radius: 16px; }}
    #lenses QToolButton {{ border-radius: 12px; padding: 4px 14px; }}
    #message {{ background: {p.hold_soft}; border-bottom: 1px solid {p.hold}; }}
    #message QLabel {{ background: transparent; color: {p.text}; }}
    #proofbox {{ background: {p.accent_soft}; border-radius: {RADIUS}px; }}
    #proofbox[verdict="hold"] {{ background: {p.hold_soft}; }}
    #proofbox[verdict="unknown"] {{ background: {p.raised}; border: 1px solid {p.line}; }}
    QComboBox, QLineEdit {{ background: {p.raised}; border: 1px solid {p.line}; border-radius: 4px; padding: 5px 8px;
                   selection-background-color: {p.accent}; selection-color: {p.on_accent}; }}
    QComboBox:focus, QLineEdit:focus {{ border: 1px solid {p.accent}; }}
    QComboBox QAbstractItemView {{ background: {p.raised}; border: 1px solid {p.line};
                   selection-background-color: {p.accent_soft}; selection-color: {p.text}; }}
    QListView {{ background: {p.panel}; border: none; outline: none; }}
    QListView {{ selection-background-color: {p.accent_soft}; selection-color: {p.text}; }}
    QListView::item:selected {{ background: {p.accent_soft}; color: {p.text}; border-radius: 4px; }}
    QListView::item:hover {{ background: {p.raised}; border-radius: 4px; }}
    QTableView {{ background: {p.panel}; border: none; border-right: 1px solid {p.line}; outline: none;
                   selection-background-color: {p.accent_soft}; selection-color: {p.text}; }}
    QTableView::item {{ padding: 0 8px; border-bottom: 1px solid {p.line}; }}
    QTableView::item:selected {{ background: {p.accent_soft}; color: {p.text}; }}
    QHeaderView {{ background: {p.panel}; }}
    QHeaderView::section {{ background: {p.panel}; color: {p.muted}; border: none; border-bottom: 1px solid {p.line};
                   padding: 8px 11px; }}
    QScrollArea {{ border: none; }}
    QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
    QScrollBar:horizontal {{ background: transparent; height: 8px; margin: 0; }}
    QScrollBar::handle {{ background: {p.line}; border-radius: 4px; min-width: 30px; min-height: 30px; }}
    QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page {{ width: 0; height: 0;
                   background: transparent; }}
    QSlider::groove:horizontal {{ height: 4px; background: {p.line}; border-radius: 2px; }}
    QSlider::sub-page:horizontal {{ background: {p.accent}; border-radius: 2px; }}
    QSlider::handle:horizontal {{ background: {p.raised}; border: 2px solid {p.accent}; width: 14px; margin: -6px 0;
                   border-radius: 8px; }}
    QSplitter::handle {{ background: {p.line}; }}
    """
