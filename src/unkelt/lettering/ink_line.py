"""Where the ink of a text begins and ends along its line, so that texts are centred by what is seen of them: the space
after the last letter never counts, nor does the room that a face leaves beside its letters.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from unkelt.geometry.arc_length import Along
from unkelt.geometry.measure import bounds, evaluate, unit
from unkelt.geometry.path import Floats
from unkelt.lettering.faces import Shelf
from unkelt.lettering.setting import Glyph, set_lettering
from unkelt.lettering.shaping import spelled_out
from unkelt.lettering.taking_apart import line_starts
from unkelt.sheet.model import Guide, Lettering

FINE = np.linspace(0.0, 1.0, 25)
"""Where a letter's curves are looked at for its ends on a bend."""

LOOKS, APPROACHES, CANDIDATES = 33, 3, 32
"""How many places of the line are looked at first, how often the best is bettered, and how many points at each end of a
letter are then looked at closely.
"""

OUTERMOST = 3
"""How many letters at each end of a text may reach farthest."""

NEAR_MM = 1e-5
ROUNDS = 12

_SHARES = {"start": 0.0, "middle": 0.5, "end": 1.0}


@dataclass(frozen=True, slots=True)
class Span:
    """From where to where the ink of a line reaches, in mm along it: from the guide's start, or in the text's axes."""

    start: float
    end: float

    def at(self, anchor: str) -> float:
        """Its start, middle or end."""
        return self.start + _SHARES[anchor] * (self.end - self.start)


def ink_spans(lettering: Lettering, shelf: Shelf) -> list[Span]:
    """One for each line of the text that has ink; one alone on a guide. None where the file draws it with curves of
    its own.
    """
    glyphs = [glyph for glyph in set_lettering(lettering, shelf).glyphs if glyph.has_ink]
    if not glyphs:
        return []
    if lettering.guide is not None:
        return [_on_guide(glyphs, lettering.guide)]
    axis = 1 if lettering.vertical else 0
    starts = line_starts(spelled_out(lettering))
    lines: dict[int, list[tuple[float, float]]] = {}
    for glyph in glyphs:
        box = bounds(glyph.path())
        if box:
            line = max(index for index, first in enumerate(starts) if first <= glyph.first)
            lines.setdefault(line, []).append((box[axis], box[axis + 2]))
    return [Span(min(a for a, _ in ends), max(b for _, b in ends)) for _, ends in sorted(lines.items())]


def _on_guide(glyphs: Sequence[Glyph], guide: Guide) -> Span:
    """As the feet on the guide of what reaches farthest: each point of a letter stands over the place of the line that
    it is nearest to.
    """
    along = Along.of(guide.path.reversed() if guide.right_side else guide.path)
    offset = guide.offset_mm + guide.offset_share * along.length
    outer = {id(glyph): glyph for glyph in (*glyphs[:OUTERMOST], *glyphs[-OUTERMOST:])}.values()
    points, middles, reaches = [], [], []
    for glyph in outer:
        path = glyph.path()
        own = evaluate(path.cubics(), np.tile(FINE, (len(path.points), 1))).reshape(-1, 2)
        reach = 1.5 * max(glyph.advance, float(np.ptp(own, axis=0).max()))
        middle = offset + glyph.along + glyph.advance / 2
        about = _about(along, own, middle, reach)
        ends = np.unique(np.concatenate([np.argsort(about)[:CANDIDATES], np.argsort(about)[-CANDIDATES:]]))
        points.append(own[ends])
        middles += [middle] * len(ends)
        reaches += [reach] * len(ends)
    feet = _feet(along, np.concatenate(points), np.array(middles), np.array(reaches))
    return Span(float(feet.min()), float(feet.max()))


def _about(along: Along, points: Floats, middle: float, reach: float) -> Floats:
    """About how far along a line points stand: from the nearest of a few places on, along the line's way there."""
    places = np.linspace(middle - reach, middle + reach, LOOKS)
    seen = along.places(places)
    x, y = points[:, :1] - seen[:, 0], points[:, 1:] - seen[:, 1]
    found = places[(x * x + y * y).argmin(axis=1)]
    half = places[1] - middle + reach
    for _ in range(APPROACHES):
        here, ahead, behind = np.split(along.places(np.concatenate([found, found + half / 8, found - half / 8])), 3)
        found = found + np.clip(((points - here) * unit(ahead - behind)).sum(axis=1), -half, half)
    return np.asarray(found)


def _feet(along: Along, points: Floats, middle: Floats, reach: Floats) -> Floats:
    """How far along a line points stand, in mm; what reaches over its ends stands as far beyond them."""
    found = along.nearest(points, middle - reach, middle + reach)
    for end, sign in ((0.0, -1.0), (along.length, 1.0)):
        place = along.at(end)
        if place is None:
            continue
        way = np.array([np.cos(place[2]), np.sin(place[2])])
        beyond = (points - place[:2]) @ way
        over = (np.abs(found - end) < NEAR_MM) & (beyond * sign > 0)
        found = np.where(over, end + beyond, found)
    return found


def with_ink_at(lettering: Lettering, at_mm: float, shelf: Shelf) -> Lettering:
    """The text on its guide shifted so that its ink starts, has its middle or ends, as its anchor says, at a place of
    the line in mm.
    """
    for _ in range(ROUNDS):
        spans = ink_spans(lettering, shelf)
        guide = lettering.guide
        if not spans or guide is None or abs(off := at_mm - spans[0].at(lettering.anchor)) < NEAR_MM:
            break
        lettering = replace(lettering, guide=replace(guide, offset_mm=guide.offset_mm + off))
    return lettering


def keeping_ink(before: Lettering, after: Lettering, shelf: Shelf) -> Lettering:
    """A text that was set anew, with its ink starting, centred or ending where it did, as its anchor says; a line that
    is new lies below the first. Text that starts at a place and follows no guide stays as it is.
    """
    if before.anchor != after.anchor or before.drawn or any(run.anchor for run in after.runs):
        return after
    was = ink_spans(before, shelf)
    if not was:
        return after
    if after.guide is not None:
        return with_ink_at(after, was[0].at(after.anchor), shelf) if before.guide == after.guide else after
    if after.anchor == "start" or before.guide is not None or before.vertical != after.vertical:
        return after
    now = ink_spans(after, shelf)
    wanted = [(was[line] if line < len(was) else was[0]).at(after.anchor) for line in range(len(now))]
    return _shifted(after, [to - span.at(after.anchor) for to, span in zip(wanted, now, strict=True)])


def _shifted(lettering: Lettering, by_mm: Sequence[float]) -> Lettering:
    """Each line of a text moved along itself."""
    if not any(abs(by) > NEAR_MM for by in by_mm):
        return lettering
    whole = spelled_out(lettering)
    starts = line_starts(whole)
    axis = 1 if lettering.vertical else 0
    runs, place = [], 0
    for run in whole.runs:
        line = max(index for index, first in enumerate(starts) if first <= place)
        by = by_mm[min(line, len(by_mm) - 1)]
        at = [*run.at]
        own = at[axis]
        if own is not None:
            at[axis] = own + by
        elif place == 0:
            at[axis] = by
        runs.append(replace(run, at=(at[0], at[1])))
        place += len(run.text)
    return replace(whole, runs=tuple(runs))
