"""Starting the window."""

from __future__ import annotations

import gc
import sys
from contextlib import suppress
from importlib.resources import files
from pathlib import Path

from platformdirs import user_config_path, user_state_path
from PySide6.QtCore import QItemSelectionModel, QLibraryInfo, QLocale, QRectF, QStringListModel, Qt, QTimer, QTranslator
from PySide6.QtGui import QColor, QGuiApplication, QIcon, QImage, QPainter
from PySide6.QtWidgets import QApplication, QScrollArea

from unkelt.desk.common.face_list import FaceList, Shelved
from unkelt.desk.common.theme import (
    DARK,
    LIGHT,
    THEME,
    font,
    load_faces,
    set_text_size,
    system_text_size,
)
from unkelt.desk.faults import tell_faults
from unkelt.desk.window import Desk
from unkelt.language import TRANSLATED, use_decimal
from unkelt.session.face_list import FaceBook
from unkelt.session.kept_jobs import Keeper
from unkelt.session.log import begin_log
from unkelt.session.settings import read_settings

SWITCH_S = 2e-5
"""How long work in another thread may keep the interpreter from the window's, which asks for it anew at nearly every
call of Qt's: far less than Python's own choice.
"""

AWAY_MS = 1000
"""How long another program must have had the keyboard for this one to tidy up."""

FACES_MS = 3000
"""How often a list of faces that is open looks whether one was installed."""

SLACK_NS = "1000"
"""How late the system may end such a wait of the window's thread; by itself it takes fifty times as long."""


def make_application(text_size: str = "system") -> QApplication:
    """The application in its own look, light or dark as the system is, its text as large as is wanted."""
    app = QApplication.instance()
    if not isinstance(app, QApplication):
        app = QApplication(sys.argv[:1])
        app.setStyle("Fusion")
        _collect_when_nobody_waits(app)
    app.setApplicationName("unkelt")
    app.setApplicationDisplayName("Unkelt")
    sys.setswitchinterval(SWITCH_S)
    with suppress(OSError):  # no more than slower, where the system won't have it
        Path("/proc/self/timerslack_ns").write_text(SLACK_NS, "ascii")
    app.setDesktopFileName("app.unkelt.Unkelt")
    app.setWindowIcon(QIcon(str(files("unkelt") / "assets" / "app.unkelt.Unkelt.svg")))
    load_faces()
    use_decimal(QLocale.system().decimalPoint())
    if TRANSLATED:  # Qt's own words only where ours are in the same language
        own = QTranslator(app)
        if own.load(QLocale.system(), "qtbase", "_", QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)):
            app.installTranslator(own)
    if text_size != "system":
        set_text_size(int(text_size) / 100)
    else:
        set_text_size(system_text_size())
    app.setFont(font())
    dark = QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark
    THEME.take(DARK if dark else LIGHT)
    _make_enums()
    return app


def _make_enums() -> None:
    """Qt's enumerations come to be when they are first needed, which takes a frame's time each: so, before anybody
    waits.
    """
    painter = QPainter(image := QImage(8, 8, QImage.Format.Format_ARGB32_Premultiplied))
    painter.fillRect(image.rect(), QColor("white"))
    painter.setClipRect(QRectF(image.rect()))
    painter.drawRoundedRect(QRectF(image.rect()), 1, 1)
    painter.drawText(QRectF(image.rect()), Qt.AlignmentFlag.AlignCenter, "")
    painter.end()
    QScrollArea().viewport()
    model = QStringListModel(["a"])
    chosen = QItemSelectionModel(model)
    chosen.setCurrentIndex(model.index(0, 0), QItemSelectionModel.SelectionFlag.ClearAndSelect)


def _collect_when_nobody_waits(app: QApplication) -> None:
    """All threads stand still while Python looks through everything for what is no longer used: a fifth of a second
    with a large sheet on the desk. So it does it only while another program has the keyboard.
    """
    gc.set_threshold(5_000, 5, 1_000_000)

    def collect() -> None:
        if app.applicationState() == Qt.ApplicationState.ApplicationInactive:
            gc.collect()

    away = QTimer(app)
    away.setSingleShot(True)
    away.setInterval(AWAY_MS)  # the keyboard is nobody's for a moment when a dialog opens
    away.timeout.connect(collect)
    app.applicationStateChanged.connect(lambda _: away.start())


def start(files: list[Path], ticket: Path | None = None, *, demo: bool = False) -> int:
    """Shows the window with the given files, or with the demonstration files, until it is closed."""
    settings = user_config_path("unkelt") / "settings.toml"
    chosen = read_settings(settings)
    app = make_application(chosen.text)
    THEME.take({"light": LIGHT, "dark": DARK}.get(chosen.theme, THEME.palette))
    Shelved.book = FaceBook.read(user_config_path("unkelt") / "faces.toml")
    log = user_state_path("unkelt") / "log.txt"
    begin_log(log)
    desk = Desk(Keeper(user_state_path("unkelt") / "open"), settings)
    desk.log = log
    tell_faults(desk.message)
    desk.show()

    def come_back(now: Qt.ApplicationState) -> None:
        if now == Qt.ApplicationState.ApplicationActive:
            desk.state.opening.look_for_faces()

    app.applicationStateChanged.connect(come_back)

    def look() -> None:
        if any(each.isVisible() for each in desk.findChildren(FaceList)):
            desk.state.opening.look_for_faces()

    looking = QTimer(desk)
    looking.setInterval(FACES_MS)
    looking.timeout.connect(look)
    looking.start()
    if demo:
        desk.room.filing.open_demo()
    if files:
        desk.state.opening.open_paths(files, ticket)
    return app.exec()
