"""Palette, type and spacing: the one place where the window's look is defined."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from functools import cache
from importlib.resources import files
from pathlib import Path
from string import Template

from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QColor, QFont, QFontDatabase
from PySide6.QtWidgets import QApplication

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


class Theme(QObject):
    """The look of the whole window: one palette, which may change while it is shown. Whoever paints asks for it
    then."""

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.palette = LIGHT

    def take(self, palette: Palette) -> None:
        """Another palette, for everything that is on the screen."""
        known, self.palette = self.palette, palette
        app = QApplication.instance()
        if isinstance(app, QApplication):
            sheet = style_sheet(palette)
            if palette == known and app.styleSheet() == sheet:  # Qt would style every part again, seen or not
                return
            app.setStyleSheet(sheet)
            for widget in app.allWidgets():
                widget.update()
        self.changed.emit()


THEME = Theme()
"""The one there is, as Qt has one style."""


class Coloured:
    """A part that paints itself in the window's colours, whichever they are now."""

    @property
    def colours(self) -> Palette:
        """The palette in use."""
        return THEME.palette


LARGEST_TEXT, LARGE = 2.0, 1.25
_text = 1.0
"""How much larger than drawn here text is, and what holds it."""


def set_text_size(times: float) -> None:
    """Parts that are made from now on have their text so many times as large, within 1 and 2, and room for it."""
    global _text  # noqa: PLW0603 - one look for the whole window
    _text = min(max(times, 1.0), LARGEST_TEXT)


def px(length: float) -> int:
    """Pixels that grow with the text."""
    return round(length * _text)


def text_is_large() -> bool:
    """Whether rows that are full of words have to do with fewer."""
    return _text > LARGE


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
    """A colour “#rrggbb” that covers so much, of 255."""
    made = QColor(value)
    made.setAlpha(alpha)
    return made


def tick(palette: Palette) -> Path:
    """The picture of a tick in a box that is filled."""
    return ICONS / f"tick-{palette.on_accent.removeprefix('#')}.svg"


def style_sheet(p: Palette) -> str:
    """Qt's style sheet for the standard controls: `assets/style.qss` with the palette's colours."""
    return _style().substitute(asdict(p), radius=RADIUS, arrow=ARROW, tick=tick(p))


@cache
def _style() -> Template:
    return Template((files("unkelt") / "assets" / "style.qss").read_text(encoding="utf-8"))
