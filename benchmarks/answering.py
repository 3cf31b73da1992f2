"""How long the window keeps somebody waiting while it works: the gaps between the turns of its event loop."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QEventLoop, QTimer
from tests.builders import outline, sheet

from benchmarks.timing import Row, stolen_s
from benchmarks.window import wavy
from unkelt.demo import make_demo
from unkelt.desk.app import make_application
from unkelt.desk.window import Desk
from unkelt.formats.svg.write import write_svg
from unkelt.session.frame import INSIDE

WANTED_S = 0.05
SETTLED_S = 0.3
"""Nothing has been under way for so long when the next thing is done, as by somebody who looks first."""

MOST_S = 90.0
"""What takes longer is stopped and counted so far."""


@dataclass(frozen=True)
class Waits:
    """The longest gap between two turns, all the time it took, and which share of that time a host took for others."""

    longest_s: float
    took_s: float
    stolen: float

    def said(self) -> str:
        return f"{self.took_s:.1f} s" + (f", {self.stolen:.0%} stolen" if self.stolen >= 0.01 else "")


def gaps(desk: Desk, begin: Callable[[], object]) -> Waits:
    """From `begin` until nothing is under way."""
    longest, last, stolen = 0.0, time.perf_counter(), stolen_s()
    start = busy = last
    loop = QEventLoop()

    def turn() -> None:
        nonlocal longest, last, busy
        now = time.perf_counter()
        longest, last = max(longest, now - last), now
        in_hand = desk.room.compose.table.hand.framed.held is not None
        if in_hand or desk.bench.is_busy() or desk.room.inspecting.table.canvas.busy:
            busy = now
        if now - start > MOST_S or now - busy > SETTLED_S:
            loop.quit()

    timer = QTimer()
    timer.setInterval(1)
    timer.timeout.connect(turn)
    timer.start()
    QTimer.singleShot(0, begin)
    loop.exec()
    timer.stop()
    desk.bench.stop()
    took = time.perf_counter() - start
    return Waits(longest, took, (stolen_s() - stolen) / took)


def large_sheet(folder: Path) -> Path:
    """A file of 5,000 outlines, 200,000 segments in all."""
    path, side = folder / "large.svg", 70
    shapes = (wavy(12 + 24 * (k % side), 12 + 24 * (k // side), 40, 9 + k % 7 / 7) for k in range(5000))
    large = sheet(*(outline(f"p{k}", shape) for k, shape in enumerate(shapes)), page=(24.0 * side, 24.0 * side))
    path.write_bytes(write_svg(large))
    return path


def desks() -> Iterator[tuple[str, Desk, Path]]:
    """A window that was looked at for a moment, with a word's file and then with a large one, which aren't open yet."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    make_application()
    with tempfile.TemporaryDirectory() as folder:
        quay = Path(folder)
        os.environ["XDG_DATA_HOME"] = folder
        make_demo(quay)
        for name, path in (("a word", quay / "kittiwake.svg"), ("200,000 segments", large_sheet(quay))):
            desk = Desk()
            desk.show()
            for _ in range(5):  # the start page is looked at for a moment
                gaps(desk, lambda: None)
            yield name, desk, path
            desk.bench.wait()
            desk.behind.wait()
            desk.deleteLater()


def dragged(desk: Desk, moves: int = 20) -> None:
    """What is chosen at the bench is dragged by the inside of its frame, one movement in each turn, and let go."""
    table, hand = desk.room.compose.table, desk.room.compose.table.hand
    box = desk.room.compose.frame
    assert box is not None
    start = (box[0] + box[2]) / 2, (box[1] + box[3]) / 2

    def move(number: int) -> None:
        if number == moves:
            hand.frame_dropped.emit()
            return
        hand.frame_dragged.emit(INSIDE, start, (start[0] + number, start[1] + number))
        table.repaint()
        QTimer.singleShot(0, lambda: move(number + 1))

    move(1)


def row(what: str, name: str, waits: Waits) -> Row:
    return Row(f"longest wait: {what}", f"{name}, {waits.said()}", waits.longest_s, "what is wanted", WANTED_S)


def rows() -> list[Row]:
    return [
        row(what, name, gaps(desk, begin))
        for name, desk, path in desks()
        for what, begin in (
            ("open and survey", lambda d=desk, p=path: d.state.opening.open_paths([p])),
            ("mend what is safe", lambda d=desk: d.do("mend_safe")),
            ("compose", lambda d=desk: d.do("view_compose")),
            ("choose all at the bench", lambda d=desk: d.do("select_all")),
            ("drag it by its frame", lambda d=desk: dragged(d)),
            ("nudge it", lambda d=desk: d.room.hands.nudge(1.0, 0.0)),
            ("proof", lambda d=desk: d.do("view_proof")),
            ("release view", lambda d=desk: d.do("view_release")),
            ("intake", lambda d=desk: d.do("view_intake")),
            ("undo", lambda d=desk: d.do("undo")),
            ("back to the bench", lambda d=desk: d.do("view_compose")),
            ("choose one", lambda d=desk: d.room.compose.layers.pick_all([d.room.compose.entries[0].id])),
            ("duplicate it", lambda d=desk: d.do("duplicate")),
        )
    ]
