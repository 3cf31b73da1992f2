"""The Compose view: the layers of material, the table with what is chosen in its frame, and the steps for it."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QGridLayout,
    QHBoxLayout,
    QMenu,
    QPushButton,
    QSizePolicy,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.drawing import Drawing, Lens
from unkelt.desk.common.icons import icon, step_picture
from unkelt.desk.common.switch import Switch
from unkelt.desk.common.theme import PAD, THEME, font, px
from unkelt.desk.common.widgets import label, named
from unkelt.desk.common.worker import after_this_turn
from unkelt.desk.compose.card import StepCard
from unkelt.desk.compose.chosen import ChosenBox
from unkelt.desk.compose.layers import Layers
from unkelt.desk.compose.steplist import StepList
from unkelt.desk.table.table import LightTable
from unkelt.geometry.measure import Box
from unkelt.language import said, tr
from unkelt.session.entries import Entry
from unkelt.session.frame import frame_of
from unkelt.steps.add_shape import TITLES

LEFT, RIGHT = 0.165, 0.235
"""The shares of the width that the panels take: the table keeps six tenths of it."""
LEAST_LEFT, LEAST_RIGHT = 146, 240
"""Pixels that they need for their words; larger text needs more."""


class ComposeView(QWidget):
    """`chosen_changed` when other items are chosen; the rest asks for something."""

    chosen_changed = Signal()
    looks_changed = Signal()
    lettering_asked = Signal(str)
    add_lettering_asked = Signal()
    shape_asked = Signal(str)
    figures_asked = Signal()
    lens_asked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._drawing: Drawing | None = None
        self._behind = False
        """Whether the panel hasn't caught up with the sheet yet."""
        self.table = LightTable()
        self.table.lens = Lens.INK
        self.table.hand.takes_double = True
        self.layers = Layers()
        self.items = self.layers.table
        self.layers.changed.connect(self._selected)
        self.layers.shown.connect(self.looks_changed)
        self.box, self.steps, self.card = ChosenBox(), StepList(), StepCard()
        self.options = self.card.options
        self.left, self.right = named(QWidget(), "docket"), named(QWidget(), "panel")
        for panel in (self.left, self.right):
            panel.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.left)
        row.addWidget(self._with_lenses(), 1)
        row.addWidget(self.right)
        self._make_left()
        self._make_right()
        self.paint_anew()

    def _make_left(self) -> None:
        """What is on the sheet, and what can be added."""
        self.add, self.shape = QPushButton(tr("Add lettering")), QToolButton()
        self.add.setFont(font(10, 500))
        self.add.setToolTip(tr("Types words on the table (T)"))
        self.add.clicked.connect(self.add_lettering_asked)
        self.shape.setFont(font(10))
        self.shape.setObjectName("plain")
        self.shape.setText(tr("Add a shape"))
        self.shape.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.shape.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        self.shape.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        menu = QMenu(self.shape)
        for name, title in TITLES.items():
            menu.addAction(said(title)).triggered.connect(lambda _=False, name=name: self.shape_asked.emit(name))
        self.shape.setMenu(menu)
        self.figures = QToolButton()
        self.figures.setFont(font(9.5))
        self.figures.setText(tr("Figures…"))
        self.figures.setToolTip(tr("Sizes, nodes, areas and lengths of everything, as a table"))
        self.figures.clicked.connect(self.figures_asked)
        layout = QVBoxLayout(self.left)
        layout.setContentsMargins(0, 10, 1, 4)
        layout.setSpacing(4)
        top = QVBoxLayout()
        top.setContentsMargins(10, 0, 10, 4)
        top.setSpacing(4)
        top.addWidget(self.add)
        top.addWidget(self.shape)
        layout.addLayout(top)
        layout.addWidget(self.layers, 1)
        self.nothing = label(tr("Nothing to cut yet. Add lettering or a shape."), 10, role="muted", wrap=True)
        self.nothing.setContentsMargins(12, 6, 12, 0)
        layout.addWidget(self.nothing)
        layout.addWidget(self.figures, 0, Qt.AlignmentFlag.AlignLeft)

    def _with_lenses(self) -> QWidget:
        middle = QWidget()
        over = QGridLayout(middle)
        over.setContentsMargins(0, 0, 0, 0)
        self.lenses = Switch("lenses", [(lens.value, lens.value, "") for lens in Lens], self.table.lens.value)
        self.lenses.switched.connect(self.lens_asked)
        self.table.sight.foot = self.lenses.sizeHint().height()
        holder = named(QWidget(), "holder")
        row = QHBoxLayout(holder)
        row.setContentsMargins(38, 0, 0, 12)
        row.addWidget(self.lenses)
        self.place = label("", 9.5, role="muted")
        self.place.setStyleSheet("background: transparent; padding: 0 12px 14px 0;")
        self.place.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.hint = named(label("", 10, 500), "hint")
        self.hint.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.hint.hide()
        over.addWidget(self.table, 0, 0)
        top = named(QWidget(), "holder")
        top.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        column = QVBoxLayout(top)
        column.setContentsMargins(38, 38, 12, 0)
        column.addWidget(self.hint)
        over.addWidget(top, 0, 0, Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop)
        over.addWidget(holder, 0, 0, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignBottom)
        over.addWidget(self.place, 0, 0, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignBottom)
        return middle

    def _make_right(self) -> None:
        """What is chosen, and the steps for it or the one that is being set."""
        self.pages = QStackedWidget()
        listed = QWidget()
        column = QVBoxLayout(listed)
        column.setContentsMargins(PAD - 4, 4, PAD - 4, 0)
        column.addWidget(self.steps)
        self.back = QPushButton(tr("Back to the lettering"))
        self.back.setProperty("role", "link")
        self.back.setToolTip(
            tr("Shows the text as it was before it became outlines. When you change it, Unkelt repeats all later steps")
        )
        self.back.setFont(font(10))
        self.back.clicked.connect(self._back)
        column.addWidget(self.back)
        self.pages.addWidget(listed)
        self.pages.addWidget(self.card)
        layout = QVBoxLayout(self.right)
        layout.setContentsMargins(1, 0, 0, 0)
        layout.setSpacing(6)
        top = QVBoxLayout()
        top.setContentsMargins(PAD - 4, 12, PAD - 4, 2)
        top.addWidget(self.box)
        layout.addLayout(top)
        layout.addWidget(self.pages, 1)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.left.setFixedWidth(max(int(self.width() * LEFT), px(LEAST_LEFT)))
        self.right.setFixedWidth(max(int(self.width() * RIGHT), px(LEAST_RIGHT)))

    # what is shown

    def say(self, words: str) -> None:
        """What the hand can do now, on the table; nothing takes it away."""
        self.hint.setText(said(words))
        self.hint.setVisible(bool(words))

    def show_sheet(self, entries: list[Entry], drawing: Drawing, *, fit: bool) -> None:
        """The items of a sheet; those that were chosen and are still there stay chosen."""
        self._drawing = drawing
        self.layers.show_entries(entries)
        self.nothing.setVisible(not entries)
        self.table.show_drawing(drawing, fit=fit)
        self._behind = True
        after_this_turn(self, self._catch_up)  # the panel in a turn of its own, so that both are there soon

    def _catch_up(self) -> None:
        if self._behind:
            self._selected()

    @property
    def entries(self) -> list[Entry]:
        """All that is on the sheet."""
        return self.layers.entries

    def choose(self, index: int) -> None:
        """Chooses the item at a place in the sheet's order, beside what is chosen."""
        self.layers.choose(index)

    def chosen(self) -> list[Entry]:
        """What is chosen."""
        return self.layers.chosen()

    @property
    def frame(self) -> Box | None:
        """The frame around what is chosen (mm)."""
        return frame_of([entry.box for entry in self.chosen() if entry.box])

    @property
    def setting(self) -> bool:
        """Whether a step is being set."""
        return self.pages.currentWidget() is self.card

    def show_steps(self) -> None:
        """The list of steps, and no step that is being set."""
        self.card.leave()
        within = self.window().focusWidget()
        if within is not None and self.card.isAncestorOf(within):
            self.table.setFocus()  # single keys are commands again
        self.pages.setCurrentIndex(0)
        self.table.trying.show(None)
        self.show_frames()

    def show_card(self) -> None:
        """The step that is being set."""
        self.pages.setCurrentWidget(self.card)
        self.show_frames()

    def show_frames(self) -> None:
        """What is chosen in thin frames, and in one with handles while no step is being set."""
        chosen = self.chosen()
        boxes = [entry.box for entry in chosen if entry.box and self.table.trying.trial is None]
        tried = self.setting or self.table.trying.trial is not None
        self.table.hand.framed.box = None if tried else self.frame
        self.table.show_chosen(boxes if self.setting or len(boxes) > 1 else [])

    def show_numbers(self) -> None:
        """What is chosen, its place and its size."""
        self.box.show_chosen(self.chosen(), len(self.entries), self.frame, self.table.unit)

    def _selected(self) -> None:
        self._behind = False
        self.show_numbers()
        self.back.setVisible(bool(chosen := self.chosen()) and all(entry.origin for entry in chosen))
        self.show_frames()
        self.chosen_changed.emit()

    def paint_anew(self) -> None:
        """In other colours."""
        self.layers.paint_anew()
        self.steps.paint_anew()
        self.add.setIcon(icon("type", THEME.palette.accent, 16))
        self.shape.setIcon(icon("plus", THEME.palette.text, 16))
        if self.card.name:
            self.card.picture.setPixmap(step_picture(self.card.name, THEME.palette).pixmap(QSize(34, 24)))

    def _back(self) -> None:
        chosen = self.chosen()
        if chosen:
            self.lettering_asked.emit(chosen[0].id)
