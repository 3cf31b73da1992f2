"""The Release view: what goes out, in which files and where; what still holds; and the package once it is written."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from PySide6.QtCore import QLocale, Qt, QUrl, Signal
from PySide6.QtGui import QDesktopServices, QGuiApplication
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QDialog,
    QFileDialog,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from unkelt.desk.common.drawing import Drawing, Lens
from unkelt.desk.common.loupe import Loupe
from unkelt.desk.common.proof_box import ProofBox
from unkelt.desk.common.theme import PAD, font
from unkelt.desk.common.widgets import empty, label, named, scrolling
from unkelt.desk.release.destination import DestinationDialog
from unkelt.job.destination import GROUP, MATERIAL, OPERATION, Destination
from unkelt.language import languages, said, tr, tr_count
from unkelt.release.delivering import in_package
from unkelt.release.file_names import FORMATS, PATTERN
from unkelt.release.package import Package
from unkelt.session.job import Job
from unkelt.survey.finding import Finding, Level

SAID = {
    ".svg": tr("SVG, plain"),
    ".dxf": tr("DXF, true curves"),
    ".pdf": tr("PDF, at true size"),
    ".plt": tr("HPGL, for plotters"),
}

BOX_INDENT = 24
"""Words under a box begin where its own words do."""


class ReleaseView(QWidget):
    """`asked` with the folder, the reason and what else is wanted; `ticket_made` with a ticket that has other
    destinations.
    """

    asked = Signal(str, str, dict)
    ticket_made = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        self.job: Job | None = None
        self.picture = Loupe(tr("package"))
        self.picture.setFixedHeight(166)
        self.title = label("", 14, 600, wrap=True)
        self.ticket = label("", 10, role="muted", wrap=True)
        self.formats = {ending: QCheckBox(SAID[ending]) for ending in FORMATS}
        self.each = {
            OPERATION: QCheckBox(tr("one file for each operation")),
            GROUP: QCheckBox(tr("one file for each group")),
            MATERIAL: QCheckBox(tr("one file for each material, on its own page")),
        }
        self.straight = QCheckBox(tr("DXF in straight lines, for machines without curves"))
        self.zipped = QCheckBox(tr("the package as one zip file"))
        self.destinations: dict[Destination, QCheckBox] = {}
        """The ticket's own, each with its box."""
        self.goes = QVBoxLayout()
        self.goes.setSpacing(6)
        self.add = _link(tr("Add a destination…"))
        self.add.clicked.connect(lambda _: self._change(""))
        self.languages = _languages()
        self.only = QCheckBox("")
        self.only.setFont(font(10))
        self.items: tuple[str, ...] = ()
        """What is chosen at the bench, to be released alone where that is wanted."""
        self.folder, self.pattern, self.reason = QLineEdit(), QLineEdit(PATTERN), QLineEdit()
        for box in (*self.formats.values(), self.straight, *self.each.values(), self.zipped):
            box.setFont(font(10))
            box.setChecked(box in self.formats.values())
        for line, name in ((self.folder, tr("Folder")), (self.pattern, tr("Name")), (self.reason, tr("Reason"))):
            line.setFont(font(10))
            line.setAccessibleName(name)
        self.pattern.setToolTip(tr("It may hold {job}, {source}, {size}, {date} and {revision}"))
        self.reason.setPlaceholderText(tr("why you release it with open issues; printed on the inspection sheet"))
        self.browse = QPushButton(tr("Choose…"))
        self.browse.clicked.connect(self._browse)
        self.holds, self.written = ProofBox(), ProofBox()
        self.package: Package | None = None
        self.to_folder = _link(tr("Show the folder"))
        self.to_folder.clicked.connect(self._show_folder)
        self.to_folder.hide()
        self.release = QPushButton(tr("Release"))
        self.release.setProperty("role", "primary")
        self.release.setFont(font(11, 600))
        self.release.clicked.connect(self._ask)

        out = named(QWidget(), "intake")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolling(out))
        row = QHBoxLayout(out)
        row.setContentsMargins(32, 28, 32, 28)
        row.setSpacing(22)
        row.addWidget(self._what(), 1)
        row.addWidget(self._where(), 1)

    def _what(self) -> QWidget:
        card, column = _card()
        for widget in (label(tr("Package"), 9.5, role="muted"), self.title, self.ticket, self.picture):
            column.addWidget(widget)
        column.addWidget(label(tr("Files"), 11, 600))
        files = QGridLayout()
        files.setHorizontalSpacing(18)
        for at, box in enumerate(self.formats.values()):
            files.addWidget(box, at // 2, at % 2)
        files.setColumnStretch(1, 1)
        column.addLayout(files)
        column.addWidget(self.only)
        column.addWidget(label(tr("Also write"), 11, 600))
        for box in (self.straight, *self.each.values(), self.zipped):
            column.addWidget(box)
        words = tr(
            "The package also holds the inspection sheet to sign (PDF and HTML), the recipe, the ticket, a picture, "
            "check sums and the original as received. Unkelt reads each file back before it releases the package."
        )
        column.addWidget(label(words, 9.5, role="muted", wrap=True))
        column.addStretch(1)
        return card

    def _where(self) -> QWidget:
        card, column = _card()
        column.addWidget(label(tr("Where it goes"), 9.5, role="muted"))
        column.addLayout(self.goes)
        column.addWidget(self.add, 0, Qt.AlignmentFlag.AlignLeft)
        grid = QGridLayout()
        grid.setVerticalSpacing(8)
        grid.addWidget(label(tr("folder"), 10, role="muted"), 0, 0)
        grid.addWidget(self.folder, 0, 1)
        grid.addWidget(self.browse, 0, 2)
        grid.addWidget(label(tr("name"), 10, role="muted"), 1, 0)
        grid.addWidget(self.pattern, 1, 1, 1, 2)
        grid.addWidget(label(tr("sheet to sign"), 10, role="muted"), 2, 0)
        grid.addWidget(self.languages, 2, 1, 1, 2)
        grid.setColumnStretch(1, 1)
        column.addLayout(grid)
        column.addWidget(label(tr("Open issues"), 11, 600))
        column.addWidget(self.holds)
        column.addWidget(self.reason)
        column.addWidget(self.release)
        column.addWidget(self.written)
        column.addWidget(self.to_folder, 0, Qt.AlignmentFlag.AlignLeft)
        column.addStretch(1)
        return card

    def show_job(
        self, job: Job, findings: Sequence[Finding] | None, drawing: Drawing, chosen: tuple[str, ...] = ()
    ) -> None:
        """What would be released, and what holds it; `chosen` is what may be released alone."""
        if chosen != self.items:
            self.only.setChecked(False)
        self.items = chosen
        part = 0 < len(chosen) < len(job.sheet.outlines()) + len(job.sheet.letterings())
        self.only.setVisible(part)
        self.only.setText(
            tr_count("only the {count} item that is chosen", "only the {count} items that are chosen", len(chosen))
        )
        if self.job is None or self.job.path != job.path:
            self.folder.setText(str(job.path.parent / "released"))
            self.reason.clear()
            self.written.say("clean", [])
            self.to_folder.hide()
        self._show_destinations(job.ticket.destinations)
        self.job = job
        self.title.setText(job.title)
        self.ticket.setText(said(job.ticket.in_one_line()))
        self.picture.look(drawing, drawing.everything, Lens.INK)
        self.show_findings(job, findings)

    def show_findings(self, job: Job, findings: Sequence[Finding] | None) -> None:
        """What holds the job; None while it is still looked for."""
        found = findings or ()
        holds = [finding for finding in found if finding.level is Level.HOLD]
        accepted = [finding for finding in found if finding.key in job.accepted]
        if findings is None:
            self.holds.say("unknown", [tr("Still looking…")])
        elif holds:
            self.holds.say("hold", [tr("{count} on hold").format(count=len(holds)), *(f.headline for f in holds[:8])])
        else:
            words = [tr("{count} accepted with a reason").format(count=len(accepted))] if accepted else []
            self.holds.say("clean", [tr("Ready to release"), *words])
        self.reason.setVisible(bool(holds))

    def _show_destinations(self, destinations: Sequence[Destination]) -> None:
        """A box for each of the ticket's destinations; the package's own formats only where it has none."""
        if tuple(self.destinations) == tuple(destinations) and self.job is not None:
            return
        empty(self.goes)
        self.destinations = {}
        for destination in destinations:
            box = self.destinations[destination] = QCheckBox(destination.name)
            box.setFont(font(10.5))
            box.setChecked(True)
            change = _link(tr("Change…"))
            change.setAccessibleName(tr("Change {name}").format(name=destination.name))
            change.clicked.connect(lambda _, name=destination.name: self._change(name))
            holder = named(QWidget(), "column")
            row = QHBoxLayout(holder)
            row.setContentsMargins(0, 0, 0, 0)
            row.addWidget(box, 1)
            row.addWidget(change)
            self.goes.addWidget(holder)
            words = label(said(destination.in_one_line()), 9.5, role="muted", wrap=True)
            words.setIndent(BOX_INDENT)
            self.goes.addWidget(words)
        for box in self.formats.values():
            box.setChecked(not destinations)

    def _change(self, name: str) -> None:
        """A destination of the ticket, or a new one, is filled in."""
        if self.job is None:
            return
        dialog = DestinationDialog(self, self.job.ticket, name)
        if dialog.exec() == QDialog.DialogCode.Accepted:
            self.ticket_made.emit(dialog.ticket)

    def show_package(self, package: Package) -> None:
        """What was released."""
        released = tr("Released: {name}").format(name=package.folder.name)
        self.written.say("clean", [released, str(package.folder), *package.names, *package.left_out])
        self.package = package
        self.to_folder.show()

    def _show_folder(self) -> None:
        if self.package is None:
            return
        folder = str(self.package.folder)
        if not QDesktopServices.openUrl(QUrl.fromLocalFile(folder)):
            QGuiApplication.clipboard().setText(folder)
            self.written.say("hold", [tr("No program here shows folders. The path was copied:"), folder])

    def _browse(self) -> None:
        folder = QFileDialog.getExistingDirectory(self, tr("Folder for the package"), self.folder.text())
        if folder:
            self.folder.setText(folder)

    def _ask(self) -> None:
        given = [destination for destination, box in self.destinations.items() if box.isChecked()]
        formats = [ending for ending, box in self.formats.items() if box.isChecked()]
        each = [kind for kind, box in self.each.items() if box.isChecked()]
        wanted = {
            "destinations": (*given, *in_package(formats, each, straight=self.straight.isChecked())),
            "pattern": self.pattern.text().strip() or PATTERN,
            "zipped": self.zipped.isChecked(),
            "languages": self.languages.currentData(),
            "only": self.items if self.only.isChecked() else (),
        }
        missing = ""
        if each and not formats:
            missing = tr("Choose the kinds of file that are written for each of them.")
        elif not wanted["destinations"]:
            missing = tr("Choose a destination or at least one kind of file.")
        elif not self.folder.text().strip():
            missing = tr("Choose a folder for the package.")
        if missing:
            self.written.say("hold", [missing])
            self.to_folder.hide()
            return
        self.asked.emit(str(Path(self.folder.text().strip())), self.reason.text().strip(), wanted)


def _languages() -> QComboBox:
    """Each language that the inspection sheet can be in, and each beside English."""
    made = QComboBox()
    made.setFont(font(10))
    made.setAccessibleName(tr("Language of the inspection sheet"))
    for codes in (*((code,) for code in languages()), *(("en", code) for code in languages()[1:])):
        made.addItem(_tongues(codes), codes)
    return made


def _tongues(codes: Sequence[str]) -> str:
    """Languages by the names that their speakers give them."""
    return tr(" and ").join(QLocale(code).nativeLanguageName().removeprefix("American ") for code in codes)


def _link(words: str) -> QPushButton:
    made = QPushButton(words)
    made.setProperty("role", "link")
    made.setFont(font(9.5))
    return made


def _card() -> tuple[QWidget, QVBoxLayout]:
    card = named(QWidget(), "card")
    card.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
    column = QVBoxLayout(card)
    column.setContentsMargins(PAD + 8, PAD + 4, PAD + 8, PAD + 4)
    column.setSpacing(10)
    return card, column
