"""The window as the tests hold it."""

from functools import cache

import pytest
from PySide6.QtWidgets import QMessageBox

from unkelt.demo import make_demo
from unkelt.desk.app import make_application
from unkelt.desk.window import Desk
from unkelt.formats.formats import read_sheet
from unkelt.session import job


@pytest.fixture(scope="session", autouse=True)
def read_once():
    """A file that is opened again unchanged is the sheet that it was, so that what was found out about it is known."""

    @cache
    def read(path, changed, size):
        return read_sheet(path)

    def again(path):
        try:
            stat = path.stat()
        except OSError:
            return read_sheet(path)
        return read(path, stat.st_mtime_ns, stat.st_size)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(job, "read_sheet", again)
        yield


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
