"""The guide: its pages are Markdown files that come with the product, read offline beside the window."""

from __future__ import annotations

from importlib.resources import files
from pathlib import Path

from PySide6.QtCore import Qt, QUrl
from PySide6.QtGui import (
    QFont,
    QImage,
    QImageReader,
    QTextBlock,
    QTextCharFormat,
    QTextCursor,
    QTextDocument,
    QTextFormat,
    QTextFragment,
)
from PySide6.QtWidgets import QDialog, QFrame, QHBoxLayout, QLineEdit, QListWidget, QTextBrowser, QVBoxLayout, QWidget

from unkelt.desk.common.theme import font, px
from unkelt.desk.common.widgets import label
from unkelt.desk.common.worker import after_this_turn
from unkelt.language import tr

FOLDER = Path(str(files("unkelt") / "assets" / "guide"))
FINDINGS = "5-findings.md"
WIDE = 580
AROUND = 130
"""What lies at both sides of a picture: margins, the numbers of a list, the scroll bar."""


class _Page(QTextBrowser):
    """Pictures no wider than the text. Room is kept for them, and they come one after another: each takes a while to
    unpack.
    """

    def __init__(self, wide: int) -> None:
        super().__init__()
        self._wide = wide
        self._pictures: dict[QUrl, QImage] = {}
        self._coming: list[QUrl] = []

    def loadResource(self, kind: int, name: QUrl | str) -> object:
        url = QUrl(name)
        if kind != QTextDocument.ResourceType.ImageResource.value:
            return super().loadResource(kind, url)
        if url not in self._pictures:
            size = QImageReader(_file(url)).size()
            if size.width() > self._wide:
                size.scale(self._wide, size.height(), Qt.AspectRatioMode.KeepAspectRatio)
            room = self._pictures[url] = QImage(size, QImage.Format.Format_ARGB32_Premultiplied)
            room.fill(Qt.GlobalColor.transparent)
            self._coming.append(url)
            if len(self._coming) == 1:
                after_this_turn(self, self._unpack)
        return self._pictures[url]

    def _unpack(self) -> None:
        url = self._coming.pop(0)
        room, picture = self._pictures[url].size(), QImage(_file(url))
        if picture.size() != room:
            picture = picture.scaled(room, mode=Qt.TransformationMode.SmoothTransformation)
        self._pictures[url] = picture
        self.document().addResource(QTextDocument.ResourceType.ImageResource.value, url, picture)
        self.viewport().update()
        if self._coming:
            after_this_turn(self, self._unpack)


class Handbook(QDialog):
    """The pages on the left, the one chosen on the right."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setWindowTitle(tr("Guide"))
        self.setModal(False)
        beside = px(256)
        self.resize(min(px(940), window.width()), min(px(700), window.height()))
        self.pages = sorted(FOLDER.glob("*.md"))
        self.text = _Page(min(WIDE, self.width() - beside - AROUND))
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Pages of the guide"))
        self.list.setFixedWidth(beside - 20)
        self.list.setFont(font(10.5))
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setStyleSheet("QListWidget { padding: 10px 6px; } QListWidget::item { padding: 8px 10px; }")
        self.text.setFrameShape(QFrame.Shape.NoFrame)
        self.list.addItems([_title(page) for page in self.pages])
        self.list.currentRowChanged.connect(self._show)
        self.text.setAccessibleName(tr("Page"))
        self.text.setOpenLinks(False)
        self.text.anchorClicked.connect(self._follow)
        self.text.document().setDefaultFont(font(10.5))
        self.text.document().setDocumentMargin(24)
        self.wanted = QLineEdit()
        self.wanted.setPlaceholderText(tr("Search the guide"))
        self.wanted.setAccessibleName(tr("Search the guide"))
        self.wanted.setClearButtonEnabled(True)
        self.wanted.setFont(font(10.5))
        self.wanted.textChanged.connect(self._search)
        self.wanted.returnPressed.connect(self._find_next)
        self.nowhere = label(tr("No page contains this."), 9.5, role="muted")
        self.nowhere.hide()
        left = QVBoxLayout()
        left.setContentsMargins(10, 10, 10, 0)
        left.addWidget(self.wanted)
        left.addWidget(self.nowhere)
        left.addWidget(self.list, 1)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addLayout(left)
        layout.addWidget(self.text, 1)
        self.list.setCurrentRow(0)

    def show_code(self, code: str) -> None:
        """What is said of a finding's code."""
        self.wanted.clear()
        self.list.setCurrentRow([page.name for page in self.pages].index(FINDINGS))
        cursor = QTextCursor(self.text.document())
        while not (cursor := self.text.document().find(code, cursor)).isNull():
            if cursor.block().text() == code:
                cursor.setPosition(cursor.block().position())
                self.text.setTextCursor(cursor)
                bar = self.text.verticalScrollBar()
                bar.setValue(bar.value() + self.text.cursorRect().top() - 18)
                return

    def _show(self, row: int) -> None:
        self.text.setMarkdown(self.pages[row].read_text(encoding="utf-8"))
        _space(self.text.document())
        self.text.moveCursor(QTextCursor.MoveOperation.Start)
        if words := self.wanted.text().strip():
            self.text.find(words)

    def _search(self, text: str) -> None:
        """Lists the pages that contain the words, and opens the first of them at the place."""
        words = text.strip()
        there = [words.casefold() in page.read_text(encoding="utf-8").casefold() for page in self.pages]
        for row, shown in enumerate(there):
            self.list.setRowHidden(row, not shown)
        self.nowhere.setVisible(not any(there))
        if any(there):
            row = self.list.currentRow()
            row = row if there[row] else there.index(True)
            if row != self.list.currentRow():
                self.list.setCurrentRow(row)
            else:
                self._show(row)

    def _find_next(self) -> None:
        """The next place on this page, or on the next page that has one."""
        words = self.wanted.text().strip()
        if not words or self.text.find(words):
            return
        shown = [row for row in range(self.list.count()) if not self.list.isRowHidden(row)]
        if shown:
            after = [row for row in shown if row > self.list.currentRow()]
            row = (after or shown)[0]
            if row == self.list.currentRow():
                self._show(row)
            else:
                self.list.setCurrentRow(row)

    def _follow(self, link: QUrl) -> None:
        self.wanted.clear()
        names = [page.name for page in self.pages]
        if link.path() in names:
            self.list.setCurrentRow(names.index(link.path()))


def _file(url: QUrl) -> str:
    return str((FOLDER / url.path()).resolve())


def _title(page: Path) -> str:
    return page.read_text(encoding="utf-8").split("\n", 1)[0].removeprefix("# ")


def _space(document: QTextDocument) -> None:
    """Headings and lines with room about them."""
    whole = QTextCursor(document)
    whole.beginEditBlock()  # laid out once, not after every change
    block = document.begin()
    while block.isValid():
        _space_block(document, block)
        block = block.next()
    whole.endEditBlock()


def _space_block(document: QTextDocument, block: QTextBlock) -> None:
    parts = _parts(block)
    form = block.blockFormat()
    level = form.headingLevel()
    form.setTopMargin({0: 4, 1: 0, 2: 22, 3: 16}.get(level, 10))
    form.setBottomMargin(8 if level else 6)
    form.setLineHeight(100 if any(part.charFormat().isImageFormat() for part in parts) else 128, 1)  # per cent
    cursor = QTextCursor(block)
    cursor.setBlockFormat(form)
    if level:
        cursor.select(QTextCursor.SelectionType.BlockUnderCursor)
        look = cursor.charFormat()
        look.setFont(font({1: 18, 2: 14, 3: 11.5}.get(level, 11), QFont.Weight.DemiBold.value))
        cursor.mergeCharFormat(look)
    for part in parts:
        if part.charFormat().fontFixedPitch() or form.hasProperty(QTextFormat.Property.BlockCodeFence.value):
            inside = QTextCursor(document)
            inside.setPosition(part.position())
            inside.setPosition(part.position() + part.length(), QTextCursor.MoveMode.KeepAnchor)
            code = QTextCharFormat()
            code.setFontPointSize(font(9.5).pointSizeF())
            inside.mergeCharFormat(code)


def _parts(block: QTextBlock) -> list[QTextFragment]:
    """Stretches of one look each."""
    found, each = [], block.begin()
    while not each.atEnd():
        if each.fragment().isValid():
            found.append(each.fragment())
        each += 1
    return found
