"""One run in a real window under Xvfb, by real key events: open, mend, save, and read back what was written."""

import os
import shutil
import subprocess
import sys
import time

import pytest

from unkelt.demo import make_demo
from unkelt.proof.proof import prove
from unkelt.sheet.ticket import read_ticket

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


def wait_for(condition, seconds=60.0):
    end = time.monotonic() + seconds
    while time.monotonic() < end:
        if value := condition():
            return value
        time.sleep(0.1)
    raise AssertionError("it did not happen in time")


def test_open_mend_save_in_a_real_window(screen, tmp_path):
    make_demo(tmp_path)
    out = tmp_path / "released.svg"
    environment = {**os.environ, "DISPLAY": screen, "QT_QPA_PLATFORM": "xcb", "LC_ALL": "C.UTF-8"}
    command = [sys.executable, "-m", "unkelt.cli", "desk", str(tmp_path / "sea-thrift.svg")]
    app = subprocess.Popen(command, env=environment, stderr=subprocess.PIPE)

    def xdo(*words):
        return subprocess.run(
            ["xdotool", *words], env=environment, capture_output=True, text=True, check=False
        ).stdout.strip()

    def window(title):
        return xdo("search", "--onlyvisible", "--name", title).split()

    try:
        first = wait_for(lambda: window("Sea Thrift transom · On hold · 1 to mend"))[0]
        xdo("windowfocus", "--sync", first)
        steps = [
            ("ctrl+Return", "4 to mend"),  # outline-text
            ("ctrl+z", "1 to mend"),
            ("ctrl+shift+z", "4 to mend"),
            ("ctrl+shift+Return", "2 to mend"),  # weld, all alike
            ("ctrl+Return", "1 to mend"),  # bind
            ("ctrl+Return", "Nothing holds · save to prove it"),  # resize
        ]
        for keys, title in steps:
            time.sleep(1.0)  # the preview, which says nothing in the title, must be there
            xdo("key", "--window", first, keys)
            wait_for(lambda words=title: window(words))
        xdo("key", "--window", first, "ctrl+s")
        dialog = wait_for(lambda: window("Save the result"))[0]
        xdo("windowfocus", "--sync", dialog)
        xdo("key", "ctrl+a")
        xdo("type", "--delay", "5", str(out))
        xdo("key", "Return")
        wait_for(lambda: window("Clean · read back and proven"))
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
