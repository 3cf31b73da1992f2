"""HPGL as a plotter takes it: pens, moves and lines, 40 units to the millimetre."""

from __future__ import annotations

import re
from pathlib import Path as FilePath

from unkelt.errors import InputError
from unkelt.geometry.path import PathBuilder
from unkelt.messages import say
from unkelt.proof.imported import Body, Imported

MM_PER_STEP = 0.025
_INSTRUCTION = re.compile(r"([A-Z]{2})([^;A-Z]*);?")


def import_hpgl(path: FilePath) -> Imported:
    """One body a pen; y down from the topmost line. Raises InputError in one sentence."""
    try:
        text = path.read_text(encoding="ascii")
    except OSError as problem:
        raise InputError(str(path), say("can't be read: {strerror}", strerror=problem.strerror)) from problem
    except UnicodeDecodeError as problem:
        raise InputError(str(path), "is no HPGL") from problem
    lines: dict[int, list[list[tuple[int, int]]]] = {}
    pen, at, down, lifted = 1, (0, 0), False, True
    for code, rest in _INSTRUCTION.findall(text.replace("\n", "")):
        if code == "SP":
            pen, down = int(rest or 0), False
            continue
        if code not in ("PU", "PD", "PA"):
            continue
        numbers = [round(float(word)) for word in rest.replace(",", " ").split()]
        down_now = code == "PD" or (code == "PA" and down)
        lifted = lifted or not down_now
        for place in zip(numbers[::2], numbers[1::2], strict=False):
            if down_now:
                strokes = lines.setdefault(pen, [])
                if lifted or not strokes or strokes[-1][-1] != at:
                    strokes.append([at])
                lifted = False
                strokes[-1].append(place)
            at = place
        down = down_now
    places = [place for strokes in lines.values() for stroke in strokes for place in stroke]
    if not places:
        raise InputError(str(path), "draws nothing that a plotter would follow")
    top = max(y for _, y in places)
    width = max(x for x, _ in places) * MM_PER_STEP
    bodies = []
    for pen, strokes in lines.items():
        builder = PathBuilder()
        for stroke in strokes:
            first, *others = [(x * MM_PER_STEP, (top - y) * MM_PER_STEP) for x, y in stroke]
            closed = len(others) > 2 and others[-1] == first
            builder.move_to(*first)
            for x, y in others[:-1] if closed else others:
                builder.line_to(x, y)
            builder.close() if closed else builder.end()
        bodies.append(Body(builder.path(), None, "#000000", True, pen=pen))
    return Imported((width, top * MM_PER_STEP), tuple(bodies), 0, kind="HPGL")
