"""What tests do in the window again and again."""

from unkelt.desk.common.loupe import Loupe
from unkelt.desk.common.worker import AFTER_MS
from unkelt.desk.table.table import LightTable


def settle(qtbot, desk):
    qtbot.wait(2 * AFTER_MS)  # what begins in a turn of its own
    qtbot.waitUntil(lambda: not desk.bench.is_busy(), timeout=60_000)
    qtbot.waitUntil(lambda: desk.is_furnished)
    qtbot.wait(2 * AFTER_MS)  # and what that left for the next turn
    qtbot.waitUntil(lambda: not desk.bench.is_busy(), timeout=60_000)


def drawn(qtbot, desk):
    """The window as a picture, once all of it has been drawn."""
    settle(qtbot, desk)
    desk.grab()
    qtbot.waitUntil(
        lambda: not any(table.canvas.busy for kind in (LightTable, Loupe) for table in desk.findChildren(kind)),
        timeout=60_000,
    )
    return desk.grab()


def opened(qtbot, desk, *paths):
    desk.state.opening.open_paths(list(paths))
    settle(qtbot, desk)


def found(desk):
    return [finding.code for finding in desk.state.findings]
