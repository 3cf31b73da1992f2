"""Reports tell what happened and not where on whose machine."""

import logging
from pathlib import Path

import pytest

from unkelt.session.log import LOG, begin_log, details, scrubbed


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("/home/ada/Jobs of May/kittiwake.svg: is empty", "…/kittiwake.svg: is empty"),
        ('File "/opt/venv/lib/unkelt/recipe.py", line 3', 'File "…/recipe.py", line 3'),
        ("~/inbox/a.svg and /srv/b.dxf", "…/a.svg and …/b.dxf"),
        ("12 mm/s, 1/2 in and 3 m / 4", "12 mm/s, 1/2 in and 3 m / 4"),
    ],
)
def test_folders_are_taken_out(text, wanted):
    assert scrubbed(text) == wanted


def test_the_log_holds_faults_and_no_folders(tmp_path):
    path = tmp_path / "state" / "log.txt"
    begin_log(path)
    try:
        try:
            raise RuntimeError(f"out of ink at {tmp_path}/a.svg and {Path.home()}/x/b.svg")
        except RuntimeError:
            LOG.exception("a fault")
        said = details(path, "Qt 6")
        assert "out of ink at …/a.svg" in said
        assert "Traceback" in said
        for private in (str(tmp_path), str(Path.home()), "/tests/"):
            assert private not in said + path.read_text()
    finally:
        for handler in [h for h in LOG.handlers if isinstance(h, logging.FileHandler)]:
            LOG.removeHandler(handler)
            handler.close()
    begin_log(Path("/proc/none/log.txt"))  # where nothing can be written, nothing is
