"""The window as the tests hold it."""

import pytest
from PySide6.QtWidgets import QMessageBox

from unkelt.demo import make_demo
from unkelt.desk.app import make_application
from unkelt.desk.window import Desk


@pytest.fixture(scope="module")
def quay(tmp_path_factory):
    folder = tmp_path_factory.mktemp("quay")
    make_demo(folder)
    return folder


@pytest.fixture
def desk(qtbot, qapp, monkeypatch):
    make_application()
    made = Desk()
    qtbot.addWidget(made)
    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    made.show()
    qtbot.waitExposed(made)
    yield made
    made.close()
