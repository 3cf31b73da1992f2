"""Two pictures of one job by somebody else's renderer, side by side: as received, as written, and where they differ."""

from __future__ import annotations

from PySide6.QtCore import QRect, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QListWidget, QListWidgetItem, QSplitter, QVBoxLayout, QWidget

from unkelt.desk.common.theme import PAD, Coloured, colour, font, px
from unkelt.desk.common.widgets import titled
from unkelt.language import said, tr
from unkelt.proof.pixels import Pixels
from unkelt.session.painted import Painted, Place


class Picture(Coloured, QWidget):
    """One of the pictures, whole or around one place; `left` when it is clicked while it shows a place."""

    left = Signal()

    def __init__(self, name: str) -> None:
        super().__init__()
        self.image = QImage()
        self.places: tuple[Place, ...] = ()
        self.chosen: Place | None = None
        self.setAccessibleName(name)
        self.setMinimumSize(200, 130)

    def show_picture(self, pixels: Pixels, places: tuple[Place, ...]) -> None:
        """A picture, and the places on it where the two differ."""
        rows, columns = pixels.shape[:2]
        # Copied: the image would look into memory that may go before it.
        self.image = QImage(pixels.data, columns, rows, 3 * columns, QImage.Format.Format_RGB888).copy()
        self.places, self.chosen = places, None
        self.update()

    def clear(self) -> None:
        """No picture."""
        self.image, self.places, self.chosen = QImage(), (), None
        self.update()

    def choose(self, place: Place | None) -> None:
        """The place that is looked at."""
        self.chosen = place
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:  # noqa: ARG002
        self.left.emit()

    def paintEvent(self, event: QPaintEvent) -> None:  # noqa: ARG002
        painter = QPainter(self)
        painter.fillRect(self.rect(), colour(self.colours.table))
        if self.image.isNull():
            return
        shown = QRectF(*self.chosen.around) if self.chosen else QRectF(self.image.rect())
        room = self.contentsRect().adjusted(PAD, PAD, -PAD, -PAD)
        at = QRect(room.topLeft(), shown.size().toSize().scaled(room.size(), Qt.AspectRatioMode.KeepAspectRatio))
        at.moveCenter(room.center())
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.chosen is None)
        painter.setClipRect(at)
        painter.setViewport(at)
        painter.setWindow(shown.toAlignedRect())
        painter.drawImage(self.image.rect(), self.image)
        for place in self.places:
            pen = QPen(colour(self.colours.hold if place.lost else self.colours.accent), 2 if place.lost else 1.4)
            pen.setCosmetic(True)
            pen.setStyle(Qt.PenStyle.SolidLine if place.lost else Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawRect(QRectF(*place.frame))


class PicturePair(QWidget):
    """Both pictures with a list of the places below. Choosing a place shows what lies around it; a click on a picture
    shows all.
    """

    def __init__(self) -> None:
        super().__init__()
        self.received, self.written = Picture(tr("As received")), Picture(tr("As written"))
        self.places = QListWidget()
        self.places.setAccessibleName(tr("Places where the pictures differ"))
        self.places.setFont(font(10))
        self.places.setSpacing(4)
        self.places.setFrameShape(QListWidget.Shape.NoFrame)
        self.places.setMaximumHeight(px(150))
        self.places.currentRowChanged.connect(self._choose)
        pair = QSplitter(Qt.Orientation.Horizontal)
        pair.setHandleWidth(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(pair, 1)
        holder = QVBoxLayout()
        holder.setContentsMargins(PAD - 8, 4, 4, 4)
        holder.addWidget(self.places)
        column.addLayout(holder)
        for words, picture in ((tr("as received"), self.received), (tr("as written"), self.written)):
            pair.addWidget(titled(words, picture))
            picture.left.connect(lambda: self.places.setCurrentRow(-1))
        self.found: Painted | None = None

    def clear(self) -> None:
        """Shows neither picture, until those of the job in front are painted."""
        self.found = None
        self.places.clear()
        self.received.clear()
        self.written.clear()

    def show_painted(self, found: Painted) -> None:
        """Both pictures and where they differ."""
        self.clear()  # first: while the list is emptied, its rows are places of the job before
        self.found = found
        self.received.show_picture(found.received, found.places)
        self.written.show_picture(found.written, found.places)
        for place in found.places:
            item = QListWidgetItem(f"{said(place.words)}\n{said(place.why)}")
            item.setForeground(colour(self.received.colours.hold if place.lost else self.received.colours.text))
            self.places.addItem(item)
        self.places.setVisible(bool(found.places))

    def show_again(self) -> None:
        """In other colours."""
        if self.found is not None:
            self.show_painted(self.found)

    def _choose(self, row: int) -> None:
        place = self.found.places[row] if self.found and row >= 0 else None
        self.received.choose(place)
        self.written.choose(place)
