"""Small parts that several panels are made of."""

from __future__ import annotations

from typing import TypeVar

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtWidgets import QGridLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from unkelt.desk.common.theme import PAD, font
from unkelt.language import said

Index = QModelIndex | QPersistentModelIndex
"""Where in a model something is."""


W = TypeVar("W", bound=QWidget)


def label(words: str = "", points: float = 10, weight: int = 400, role: str = "", wrap: bool = False) -> QLabel:
    """Words in so many points, of a weight from 100 to 900, in the colour of a role."""
    made = QLabel(said(words))
    made.setFont(font(points, weight))
    made.setProperty("role", role)
    made.setWordWrap(wrap)
    made.setTextFormat(Qt.TextFormat.PlainText)
    return made


def relabel(old: QLabel, words: str, points: float, weight: int, role: str) -> None:
    """Other words on a label that is there, which takes a fraction of the time that a new one does."""
    old.setText(said(words))
    restyle(old, "role", role)
    wanted = font(points, weight)
    if old.font() != wanted:  # afterwards: a style that lets go of a widget gives back the font it found
        old.setFont(wanted)


def restyle(widget: QWidget, name: str, value: str) -> None:
    """Another value of a property that the style sheet looks at."""
    if widget.property(name) == value:
        return
    widget.setProperty(name, value)
    if widget.testAttribute(Qt.WidgetAttribute.WA_WState_Polished):  # else the style looks at it when it is first shown
        widget.style().unpolish(widget)
        widget.style().polish(widget)


def named(widget: W, name: str) -> W:
    """A widget under the name that the style sheet knows it by."""
    widget.setObjectName(name)
    return widget


def scrolling(inside: QWidget, *, upright: bool = False) -> QScrollArea:
    """What scrolls where there is no room for it; only up and down where it is `upright`.

    Views are built from without inwards: the style sheet dresses what is put into something that is in its place once,
    and what is put somewhere else with all that is in it again.
    """
    made = QScrollArea()
    made.setWidget(inside)
    made.setWidgetResizable(True)
    if upright:
        made.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return made


def titled(words: str, inside: QWidget) -> QWidget:
    """What is shown large, under a line that says what it is."""
    holder = QWidget()
    column = QVBoxLayout(holder)
    column.setContentsMargins(0, 0, 0, 0)
    column.setSpacing(0)
    title = label(words, 9.5, role="muted")
    title.setContentsMargins(PAD, 5, PAD, 5)
    column.addWidget(title)
    column.addWidget(inside, 1)
    return holder


def empty(layout: QVBoxLayout | QGridLayout) -> None:
    """Takes everything out of a layout."""
    while (item := layout.takeAt(0)) is not None:
        if widget := item.widget():
            drop(widget)


def drop(*widgets: QWidget) -> None:
    """Done with these."""
    for widget in widgets:
        widget.hide()  # not unparented: that would make a window of it for a moment
        widget.deleteLater()
