"""Where no window can be shown, one sentence says so, and what to do."""

import pytest

from unkelt.desk import able
from unkelt.errors import InputError


@pytest.fixture
def on_x(monkeypatch):
    for name in ("QT_QPA_PLATFORM", "WAYLAND_DISPLAY"):
        monkeypatch.delenv(name, raising=False)
    monkeypatch.setenv("DISPLAY", ":977")


def test_no_screen(on_x, monkeypatch):
    monkeypatch.delenv("DISPLAY")
    with pytest.raises(InputError, match="needs a screen, and there is none here"):
        able.refuse_without_parts()


def test_a_screen_that_does_not_answer(on_x):
    with pytest.raises(InputError, match="can't reach the screen :977"):
        able.refuse_without_parts()


@pytest.mark.parametrize(("library", "package"), [("libEGL.so.1", "libegl1"), ("libxcb-cursor.so.0", "libxcb-cursor0")])
def test_a_missing_library_is_named_by_its_package(on_x, monkeypatch, library, package):
    there = able._loads
    monkeypatch.setattr(able, "_loads", lambda name: name != library and there(name))
    with pytest.raises(InputError, match=f"apt-get install {package}$"):
        able.refuse_without_parts()


def test_without_a_screen_of_its_own_none_is_asked_for(monkeypatch):
    monkeypatch.setenv("QT_QPA_PLATFORM", "offscreen")
    monkeypatch.delenv("DISPLAY", raising=False)
    able.refuse_without_parts()
