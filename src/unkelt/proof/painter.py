"""Painting SVG by resvg, in a process of its own.

The renderer holds Python's lock while it works, which would stop the window; a drawing made to exhaust it takes nothing
along; and two drawings are painted at once. What that process runs is `painting.py`.
"""

from __future__ import annotations

import importlib.util
import subprocess
import sys
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from pathlib import Path

from unkelt.messages import say

LONGEST_S = 120.0
"""A drawing that takes longer is given up."""


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
    said = "\0".join([str(order.columns), *order.faces, order.svg])
    try:
        done = subprocess.run(
            [sys.executable, "-I", "-S", str(Path(__file__).with_name("painting.py")), _folder_of("resvg_py")],
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


@cache
def _folder_of(package: str) -> str:
    """Where a package is installed: a process that looks for none starts in a quarter of the time."""
    found = importlib.util.find_spec(package)
    if found is None or found.origin is None:
        raise CannotPaint("the renderer isn't installed")
    return str(Path(found.origin).parent.parent)
