"""What went on, for reports: a small file in the user's state, in which no path of the person's machine stands."""

from __future__ import annotations

import logging
import logging.handlers
import platform
import re
from pathlib import Path

from unkelt import __version__
from unkelt.messages import say

LOG = logging.getLogger("unkelt")
LARGEST, KEPT = 256_000, 2
LINES = 60

_PART = r"[^/\s\"'“”:,;()<>{}]+(?: [^/\s\"'“”:,;()<>{}]+)*"
_PATH = re.compile(rf"(?<![\w.…])(?:~/(?:{_PART}/)*|/(?:{_PART}/)+)")


def scrubbed(text: str) -> str:
    """The text with folders taken out of all paths: a report tells what happened, not where on whose machine."""
    return _PATH.sub("…/", text)


class _Scrubbing(logging.Formatter):
    def format(self, record: logging.LogRecord) -> str:
        return scrubbed(super().format(record))


def begin_log(path: Path) -> None:
    """From now on what is logged goes into this file too; where it can't be written, it isn't."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        handler = logging.handlers.RotatingFileHandler(path, maxBytes=LARGEST, backupCount=KEPT, encoding="utf-8")
    except OSError:
        return
    handler.setFormatter(_Scrubbing("%(asctime)s %(levelname)s %(message)s"))
    LOG.addHandler(handler)
    LOG.setLevel(logging.INFO)
    LOG.info("Unkelt %s begins", __version__)


def details(path: Path | None, more: str = "") -> str:
    """What to send with a report: versions, and the last lines of the log."""
    lines = [
        say(
            "Unkelt {version}, Python {python_version}, {system} {machine}",
            version=__version__,
            python_version=platform.python_version(),
            system=platform.system(),
            machine=platform.machine(),
        ),
        *([more] if more else []),
    ]
    if path is not None and path.is_file():
        lines += ["", *path.read_text(encoding="utf-8", errors="replace").splitlines()[-LINES:]]
    return scrubbed("\n".join(lines)) + "\n"
