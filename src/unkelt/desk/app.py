"""Starting the window."""

from __future__ import annotations

import sys
from pathlib import Path

from platformdirs import user_data_path
from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication

from unkelt.demo import make_demo
from unkelt.desk.theme import DARK, LIGHT, Palette, font, load_faces, style_sheet
from unkelt.desk.window import Desk


def make_application() -> tuple[QApplication, Palette]:
    """The application in its own look, light or dark as the system is."""
    app = QApplication.instance() or QApplication(sys.argv[:1])
    assert isinstance(app, QApplication)
    app.setApplicationName("unkelt")
    app.setApplicationDisplayName("Unkelt")
    app.setStyle("Fusion")
    load_faces()
    app.setFont(font())
    dark = QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark
    palette = DARK if dark else LIGHT
    app.setStyleSheet(style_sheet(palette))
    return app, palette


def start(files: list[Path], ticket: Path | None = None, *, demo: bool = False) -> int:
    """Shows the window with the given files, or with the demonstration files, until it is closed."""
    app, palette = make_application()
    desk = Desk(palette)
    desk.show()
    if demo:
        folder = user_data_path("unkelt") / "hollin-quay"
        files = [path for path in make_demo(folder) if path.suffix == ".svg"] + files
    if files:
        desk.state.open_paths(files, None if demo else ticket)
    return app.exec()
