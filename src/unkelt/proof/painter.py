"""Painting SVG by resvg, in a process of its own.

The renderer holds Python's lock while it works, which would stop the window; a drawing made to exhaust it takes nothing
along; and two drawings are painted at once. This file is what that process runs, too: it imports nothing of the
product's own, so that it starts in a few hundredths of a second.
"""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

from unkelt.messages import say

LONGEST_S = 120.0
"""A drawing that takes longer is given up."""

MOST_MEMORY = 4 << 30
"""Bytes that painting may take."""


class CannotPaint(ValueError):
    """The renderer can't paint a drawing; its words say why."""


@dataclass(frozen=True)
class Order:
    """A drawing as SVG, without a declaration of its encoding; how wide it is to be painted (pixels); the files of its
    faces.
    """

    svg: str
    columns: int
    faces: Sequence[str] = ()


def paint(orders: Sequence[Order]) -> list[bytes]:
    """Drawings as PNG on white paper, all at once. Raises CannotPaint."""
    with ThreadPoolExecutor(max_workers=max(len(orders), 1)) as threads:
        return list(threads.map(_paint, orders))


def _paint(order: Order) -> bytes:
    said = json.dumps({"svg": order.svg, "columns": order.columns, "faces": list(order.faces)})
    try:
        done = subprocess.run(
            [sys.executable, "-I", str(Path(__file__))],
            input=said.encode(),
            capture_output=True,
            timeout=LONGEST_S,
            check=False,
        )
    except subprocess.TimeoutExpired as problem:
        raise CannotPaint(say("it takes more than {longest_s:.0f} s to paint", longest_s=LONGEST_S)) from problem
    except OSError as problem:
        raise CannotPaint(say("the renderer can't be started: {strerror}", strerror=problem.strerror)) from problem
    if done.returncode:
        lines = done.stderr.decode("utf-8", "replace").strip().splitlines()
        raise CannotPaint(lines[-1] if lines else "the renderer ended without a word")
    return done.stdout


def _work() -> int:
    import resource

    import resvg_py

    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    order = json.loads(sys.stdin.buffer.read())
    try:
        png = resvg_py.svg_to_bytes(
            svg_string=order["svg"],
            width=order["columns"],
            dpi=96,
            background="#ffffff",
            font_files=order["faces"],
            skip_system_fonts=True,
        )
    except ValueError as problem:
        print(problem, file=sys.stderr)
        return 1
    sys.stdout.buffer.write(bytes(png))
    return 0


if __name__ == "__main__":
    sys.exit(_work())
