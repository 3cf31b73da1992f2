"""One run in a real window under Xvfb, by real key events: open, mend, save, and read back what was written."""

import os
import shutil
import subprocess
import sys
import time
import tomllib
from contextlib import suppress

import pytest
from PIL import ImageChops, ImageGrab

from unkelt.demo import make_demo
from unkelt.job.ticket import read_ticket
from unkelt.proof.proof import prove

pytestmark = pytest.mark.skipif(
    not (shutil.which("Xvfb") and shutil.which("xdotool")), reason="needs Xvfb and xdotool, which ./dev test installs"
)


@pytest.fixture
def screen():
    """A screen of its own on a free number."""
    reading, writing = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writing), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[writing], stderr=subprocess.DEVNULL,
    )  # fmt: skip
    os.close(writing)
    with os.fdopen(reading) as pipe:
        number = pipe.readline().strip()
    yield f":{number}"
    server.terminate()
    server.wait(10)


def wait_for(condition, seconds=180.0):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if value := condition():
            return value
        time.sleep(0.1)
    raise AssertionError("it did not happen in time")


def at_home(screen, home):
    """The environment of a window whose settings and kept jobs are nobody else's."""
    return {
        **os.environ, "DISPLAY": screen, "QT_QPA_PLATFORM": "xcb", "LC_ALL": "C.UTF-8",
        "XDG_CONFIG_HOME": str(home / "config"), "XDG_STATE_HOME": str(home / "state"),
    }  # fmt: skip


def test_open_mend_save_in_a_real_window(screen, tmp_path):
    make_demo(tmp_path)
    out = tmp_path / "released.svg"
    environment = at_home(screen, tmp_path)
    command = [sys.executable, "-m", "unkelt.cli", "desk", str(tmp_path / "sea-thrift.svg")]
    app = subprocess.Popen(command, env=environment, stderr=subprocess.PIPE)

    def xdo(*words):
        return subprocess.run(
            ["xdotool", *words], env=environment, capture_output=True, text=True, check=False
        ).stdout.strip()

    def window(title):
        return xdo("search", "--onlyvisible", "--name", title).split()

    try:
        first = wait_for(lambda: window("Sea Thrift transom · On hold: 1 to mend"))[0]
        xdo("windowfocus", "--sync", first)
        steps = [
            ("ctrl+Return", "4 to mend"),  # outline-text
            ("ctrl+z", "1 to mend"),
            ("ctrl+shift+z", "4 to mend"),
            ("ctrl+shift+Return", "2 to mend"),  # weld, all alike
            ("ctrl+Return", "1 to mend"),  # bind
            ("ctrl+Return", "Ready to save"),  # resize
        ]
        for keys, title in steps:
            time.sleep(1.0)  # the preview, which says nothing in the title, must be there
            xdo("key", "--window", first, keys)
            wait_for(lambda words=title: window(words))

        def confirmed():  # the first Return may only close the list of names that the dialog offers
            xdo("key", "Return")
            time.sleep(0.5)
            return not window("Save the result")

        def saved():
            """Whether it was saved under the name that is typed; a busy machine may lose keys, and nobody reads them
            back.
            """
            xdo("windowfocus", "--sync", first)
            xdo("key", "--window", first, "ctrl+s")
            try:
                dialog = wait_for(lambda: window("Save the result"), 20)[0]
                xdo("windowfocus", "--sync", dialog)
                time.sleep(1.0)
                xdo("key", "ctrl+a")
                xdo("type", "--delay", "20", str(out))
                wait_for(confirmed, 20)
                wait_for(out.exists, 20)
            except AssertionError:
                xdo("key", "Escape")
                return False
            return True

        assert any(saved() for _ in range(3)), xdo("getwindowname", first)
        wait_for(lambda: window("Clean and read back"))
        xdo("windowfocus", "--sync", first)
        xdo("key", "--window", first, "ctrl+q")
        assert app.wait(30) == 0
    finally:
        app.kill()
        _, errors = app.communicate()
    assert b"Traceback" not in errors
    proof = prove(out, read_ticket(tmp_path / "sea-thrift.toml"))
    assert (proof.verdict, proof.bodies) == ("clean", 1)
    assert proof.size_mm[0] == pytest.approx(900, abs=0.05)


class Hands:
    """Keys given to a real window, and which windows there are."""

    def __init__(self, screen, home, *words):
        self.environment = at_home(screen, home)
        command = [sys.executable, "-m", "unkelt.cli", "desk", *map(str, words)]
        self.app = subprocess.Popen(command, env=self.environment, stderr=subprocess.PIPE)

    def do(self, *words):
        run = subprocess.run(["xdotool", *words], env=self.environment, capture_output=True, text=True, check=False)
        return run.stdout.strip()

    def windows(self, title):
        return self.do("search", "--onlyvisible", "--name", title).split()

    def shown(self, title):
        """The windows of a title, once there are any; else what there is to be seen instead."""
        try:
            return wait_for(lambda: self.windows(title))
        except AssertionError:
            names = [self.do("getwindowname", window) for window in self.windows(".")]
            over = self.app.poll() is not None
            said = self.app.stderr.read().decode("utf-8", "replace")[-2000:] if over else ""
            state = f"ended with {self.app.returncode}: {said}" if over else "runs"
            raise AssertionError(f"no “{title}” but {names}; the program {state}") from None

    def press(self, window, *keys):
        for key in keys:
            self.do("key", "--window", window, key)
            time.sleep(0.25)

    def press_until(self, window, keys, title):
        """As a person does who sees that nothing happens: without a window manager a window may have lost the focus."""
        for _ in range(6):
            self.do("windowfocus", "--sync", window)
            self.press(window, keys)
            with suppress(AssertionError):
                return wait_for(lambda: self.windows(title), 30)
        raise AssertionError(f"no window came to be “{title}”")

    def picture(self):
        """The screen as it is."""
        return ImageGrab.grab(xdisplay=self.environment["DISPLAY"])


def test_the_whole_instrument_is_walked_by_keys_in_a_real_window(screen, tmp_path):
    """Views, lenses, comparing, guide lines, units, theme, text, the command list, the guide, mending, closing."""
    make_demo(tmp_path)
    hands = Hands(screen, tmp_path, tmp_path / "kittiwake.svg", tmp_path / "tags.svg")
    changed = []

    def walk(*keys):
        """The keys one after another; each must change what is to be seen."""
        for key in keys:
            before = hands.picture()
            hands.press(first, key)
            try:
                wait_for(lambda was=before: ImageChops.difference(was, hands.picture()).getbbox(), 15)
            except AssertionError:
                changed.append(key)

    def dialog(title, keys, *words, leave="Escape"):
        hands.press(first, keys)
        found = hands.shown(title)[0]
        hands.do("windowfocus", "--sync", found)
        time.sleep(0.5)
        for text in words:
            hands.do("key", "--window", found, "ctrl+a")
            hands.do("type", "--window", found, "--delay", "5", text)
        time.sleep(0.5)
        for _ in range(8):  # without a window manager the first keys may find no focus yet
            hands.do("key", leave)
            time.sleep(0.6)
            if not hands.windows(title):
                break
            hands.do("windowfocus", "--sync", hands.windows(title)[-1])
        assert not hands.windows(title), title
        hands.do("windowfocus", "--sync", first)

    try:
        first = hands.shown("Kittiwake transom · On hold: 5 to mend")[0]
        hands.do("windowfocus", "--sync", first)
        time.sleep(1.5)
        walk("j", "k", "1", "3", "4", "2", "plus", "minus", "9", "0", "f", "0", "g", "g", "w", "w", "w", "w", "d", "d")
        dialog("Commands", "ctrl+j", "true size", leave="Escape")
        walk("u", "u", "ctrl+l", "ctrl+l", "ctrl+shift+Up", "ctrl+shift+Down")
        dialog("Guide", "F1")
        dialog("Keys", "shift+F1")
        walk("ctrl+1", "ctrl+3", "ctrl+4", "ctrl+5", "ctrl+2")
        hands.press_until(first, "ctrl+m", "Kittiwake transom · Ready")
        time.sleep(1)
        walk("b", "n", "ctrl+z", "ctrl+shift+z")
        for _ in range(12):  # all steps taken back, so that nothing is lost by closing
            hands.press(first, "ctrl+z")
        hands.shown("Kittiwake transom · On hold: 5 to mend")
        hands.press(first, "ctrl+w")  # the other job comes to the front
        hands.shown("Berth tags")
        hands.press(first, "ctrl+q")
        assert hands.app.wait(30) == 0
    finally:
        hands.app.kill()
        _, errors = hands.app.communicate()
    assert b"Traceback" not in errors
    assert changed == [], "these keys changed nothing that can be seen"
    settings = tomllib.loads((tmp_path / "config" / "unkelt" / "settings.toml").read_text())
    assert (settings["unit"], settings["theme"]) == ("mm", "light")
