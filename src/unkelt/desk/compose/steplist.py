"""The steps by purpose, with pictures: the likely ones first, groups that open, and a field to find one by a word."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from unkelt.desk.common.icons import icon, step_picture
from unkelt.desk.common.theme import THEME, font, px
from unkelt.language import said, tr
from unkelt.session.bench import Offer, matching
from unkelt.steps.step import Purpose

PICTURE = QSize(34, 24)
NAME, GROUP = Qt.ItemDataRole.UserRole, Qt.ItemDataRole.UserRole + 1


class _List(QListWidget):
    """Return takes a row as a click does."""

    taken = Signal(QListWidgetItem)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.currentItem() is not None:
            self.taken.emit(self.currentItem())
        else:
            super().keyPressEvent(event)


class StepList(QWidget):
    """`taken` with the name of a step."""

    taken = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._offers: Sequence[Offer] = ()
        self._likely: Sequence[str] = ()
        self._open: Purpose | None = None
        self.search = QLineEdit()
        self.search.setFont(font(10))
        self.search.setPlaceholderText(tr("find a step"))
        self.search.setClearButtonEnabled(True)
        self.search.setAccessibleName(tr("Find a step"))
        self.search.textChanged.connect(self._show)
        self.search.returnPressed.connect(self._take_first)
        self.list = _List()
        self.list.setObjectName("steps")
        self.list.setIconSize(PICTURE)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setAccessibleName(tr("Steps"))
        self.list.setMouseTracking(True)
        self.list.itemClicked.connect(self._take)
        self.list.taken.connect(self._take)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        layout.addWidget(self.search)
        layout.addWidget(self.list, 1)

    def show_offers(self, offers: Sequence[Offer], likely: Sequence[str]) -> None:
        """What can be done with what is chosen."""
        if (offers, likely) == (self._offers, self._likely):
            return
        self._offers, self._likely = offers, likely
        self._show()

    def paint_anew(self) -> None:
        """In other colours."""
        self._show()

    def names(self) -> list[str]:
        """The steps that can be taken, in the order they are shown."""
        rows = [self.list.item(row) for row in range(self.list.count())]
        return [row.data(NAME) for row in rows if row.data(NAME) and row.flags() & Qt.ItemFlag.ItemIsEnabled]

    def _show(self) -> None:
        self.list.clear()
        word = self.search.text().strip()
        if word:
            for offer in sorted(matching(self._offers, word), key=lambda offer: bool(offer.why_not)):
                self._add(offer)
            if not self.list.count():
                self._head(tr("No step is called so"), None)
            return
        by_name = {offer.name: offer for offer in self._offers}
        if self._likely:
            self._head(tr("Likely now"), None)
            for name in self._likely:
                self._add(by_name[name])
        for purpose in Purpose:
            self._head(purpose.value, purpose)
            if purpose is self._open:
                mine = [offer for offer in self._offers if offer.purpose is purpose]
                for offer in sorted(mine, key=lambda offer: bool(offer.why_not)):
                    self._add(offer)

    def _head(self, words: str, purpose: Purpose | None) -> None:
        item = QListWidgetItem(said(words))
        item.setFont(font(9.5, 600))
        item.setForeground(self.palette().placeholderText() if purpose is None else self.palette().text())
        item.setSizeHint(QSize(10, px(30)))
        if purpose is None:
            item.setFlags(Qt.ItemFlag.NoItemFlags)
        else:
            turned = "chevron-down" if purpose is self._open else "chevron-right"
            item.setIcon(icon(turned, THEME.palette.muted, 14))
            item.setData(GROUP, purpose.value)
        self.list.addItem(item)

    def _add(self, offer: Offer) -> None:
        item = QListWidgetItem(step_picture(offer.name, THEME.palette), said(offer.title))
        item.setFont(font(10))
        item.setData(NAME, offer.name)
        item.setSizeHint(QSize(10, px(34)))
        words = f"{said(offer.words)}\n{said(offer.why_not)}" if offer.why_not else said(offer.words)
        item.setToolTip(words)
        item.setData(Qt.ItemDataRole.AccessibleDescriptionRole, words)
        if offer.why_not:
            item.setFlags(Qt.ItemFlag.NoItemFlags)
        self.list.addItem(item)

    def _take(self, item: QListWidgetItem) -> None:
        if group := item.data(GROUP):
            purpose = Purpose(group)
            self._open = None if self._open is purpose else purpose
            self._show()
            rows = [self.list.item(row) for row in range(self.list.count())]
            head = next(row for row in rows if row.data(GROUP) == group)
            self.list.setCurrentItem(head)
            self.list.scrollToItem(
                head, QListWidget.ScrollHint.PositionAtTop if self._open else QListWidget.ScrollHint.EnsureVisible
            )
        elif item.data(NAME) and item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.taken.emit(str(item.data(NAME)))

    def _take_first(self) -> None:
        if self.search.text().strip() and (names := self.names()):
            self.search.clear()
            self.taken.emit(names[0])
