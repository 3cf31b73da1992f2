"""A new sheet in one dialog: the words, their face by picture, their size, the page, and the ticket."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QDialogButtonBox,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.face_list import FaceList
from unkelt.desk.common.theme import font, px
from unkelt.desk.common.widgets import label
from unkelt.errors import UnkeltError
from unkelt.language import said, tr
from unkelt.lettering.faces import Face
from unkelt.lettering.shelves import shelf_again
from unkelt.messages import sentence
from unkelt.session.new_sheet import NewSheet
from unkelt.session.offers import Offers, words_alone
from unkelt.session.reading import Unit
from unkelt.session.shop import Shop
from unkelt.session.typing import length_in
from unkelt.session.writing import STANDARD_FACE

MEASURES = (
    ("capitals", tr("Height of capitals")),
    ("ink", tr("Height of the ink")),
    ("x-height", tr("Height of small letters")),
    ("width", tr("Width of the ink")),
)
SOON_MS = 250


class NewSheetDialog(QDialog):
    """`wanted` and `ticket` are what was asked for, once it was accepted."""

    def __init__(self, parent: QWidget, shop: Shop, unit: Unit) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("New sheet"))
        self._unit = unit
        self.wanted: NewSheet | None = None
        self.ticket: Path | None = None
        self._shelf = shelf_again()
        self._face: Face | None = None
        self.words = self._line(tr("Words"), tr("“ | ” separates two lines"))
        self.measure = QComboBox()
        self.measure.setFont(font(10))
        for value, words in MEASURES:
            self.measure.addItem(said(words), value)
        self.measure.setAccessibleName(tr("What the size measures"))
        self.length = self._line(tr("Size"), tr("20 mm, or as the ticket says"))
        self.fit = QCheckBox(tr("Fit the page to the art"))
        self.fit.setFont(font(10))
        self.fit.setChecked(True)
        self.page = (self._line(tr("Page width"), "300 mm"), self._line(tr("Page height"), "200 mm"))
        self.fit.toggled.connect(self._turn_page)
        for line in self.page:
            line.setEnabled(False)
        self.tickets = QComboBox()
        self.tickets.setFont(font(10))
        self.tickets.setAccessibleName(tr("Ticket"))
        self.tickets.addItem(tr("no ticket"), None)
        for path in shop.paths():
            self.tickets.addItem(path.stem, path)
        self.tickets.addItem(tr("from a file…"), "?")
        self.tickets.activated.connect(self._ask_ticket)
        self.faces = FaceList()
        self.faces.chosen.connect(self._take_face)
        self.wrong = label("", 10, role="hold", wrap=True)
        self.wrong.hide()
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON_MS)
        self._soon.timeout.connect(self._show_faces)
        self.words.textChanged.connect(self._soon.start)
        self._lay_out()
        self._show_faces()

    def _line(self, name: str, hint: str) -> QLineEdit:
        line = QLineEdit()
        line.setFont(font(10))
        line.setPlaceholderText(hint)
        line.setAccessibleName(name)
        return line

    def _lay_out(self) -> None:
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        make = buttons.button(QDialogButtonBox.StandardButton.Ok)
        make.setText(tr("Make the sheet"))
        make.setProperty("role", "primary")
        buttons.accepted.connect(self._make)
        buttons.rejected.connect(self.reject)
        form = QGridLayout()
        form.setVerticalSpacing(10)
        form.setColumnStretch(1, 1)
        page = QHBoxLayout()
        page.addWidget(self.page[0])
        page.addWidget(label("×", 10, role="muted"))
        page.addWidget(self.page[1])
        form.addWidget(label(tr("Words"), 10, role="muted"), 0, 0)
        form.addWidget(self.words, 0, 1)
        form.addWidget(self.measure, 1, 0)
        form.addWidget(self.length, 1, 1)
        form.addWidget(label(tr("Page"), 10, role="muted"), 2, 0)
        form.addWidget(self.fit, 2, 1)
        form.addLayout(page, 3, 1)
        form.addWidget(label(tr("Ticket"), 10, role="muted"), 4, 0)
        form.addWidget(self.tickets, 4, 1)
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addLayout(form)
        left.addStretch(1)
        left.addWidget(self.wrong)
        right.addWidget(label(tr("Face"), 10, role="muted"))
        right.addWidget(self.faces, 1)
        right.setSpacing(6)
        sides = QHBoxLayout()
        sides.setSpacing(24)
        sides.addLayout(left, 5)
        sides.addLayout(right, 4)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 20, 24, 18)
        layout.setSpacing(14)
        layout.addLayout(sides, 1)
        layout.addWidget(buttons)
        self.resize(px(740), px(460))

    def _turn_page(self, fitted: bool) -> None:
        for line in self.page:
            line.setEnabled(not fitted)

    def _show_faces(self) -> None:
        """The words in each face, the one that is chosen first."""
        offers = Offers(self._shelf, words_alone(self.words.text().split(" | ")[0].strip()))
        family = self._face.family if self._face is not None else STANDARD_FACE
        if self._face is None:
            self._face = next((face for face in offers.faces if face.name == family), None)
        self.faces.show_offers(offers, self._face.family if self._face else family)

    def _take_face(self, face: Face) -> None:
        self._face = face

    def _ask_ticket(self) -> None:
        if self.tickets.currentData() != "?":
            return
        name, _ = QFileDialog.getOpenFileName(self, tr("Choose a ticket"), str(Path.home()), tr("Ticket (*.toml)"))
        if name:
            self.tickets.insertItem(1, Path(name).name, Path(name))
        self.tickets.setCurrentIndex(1 if name else 0)

    def _make(self) -> None:
        measure, size = str(self.measure.currentData()), self.length.text().strip()
        try:
            size = f"{length_in(size, self._unit):g} mm" if size and not _has_letters(size) else size
            if size:
                length_in(size, self._unit)
            page = None
            if not self.fit.isChecked():
                texts = [line.text().strip() or line.placeholderText() for line in self.page]
                lengths = [length_in(text, self._unit) for text in texts]
                page = (f"{lengths[0]:g} mm", f"{lengths[1]:g} mm")
        except (UnkeltError, ValueError) as problem:
            self._say(sentence(str(problem)))
            return
        words = self.words.text().strip()
        if not words and page is None:
            self._say(tr("Type the words, or give the page a size."))
            return
        face = self._face
        self.wanted = NewSheet(
            words=words,
            family=face.family if face else STANDARD_FACE,
            weight=face.weight if face else 400,
            italic=bool(face and face.italic),
            height="" if measure == "width" else size,
            of="ink" if measure == "ink" else "x-height" if measure == "x-height" else "capitals",
            width=size if measure == "width" else "",
            page=page,
        )
        found = self.tickets.currentData()
        self.ticket = Path(found) if found and found != "?" else None
        self.accept()

    def _say(self, words: str) -> None:
        self.wrong.setText(said(words))
        self.wrong.show()


def _has_letters(text: str) -> bool:
    return any(letter.isalpha() or letter in "\"'" for letter in text)
