"""The ledger: what is on the sheet, item by item."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from unkelt.geometry.cache import TopicOfObjects
from unkelt.geometry.measure import Box, bounds, lengths, signed_areas
from unkelt.geometry.path import Path, concat
from unkelt.geometry.region import regions
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.messages import say_count
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.figures import figures
from unkelt.sheet.model import Item, Lettering, Outline, Sheet
from unkelt.sheet.naming import listed_name
from unkelt.steps.steps import STEPS

TRIED_UNASKED = 20_000
"""A step on more segments than that is tried only when it is asked for."""

AT_ONCE = 2_000
"""The ledger of so many segments is written while one waits: it takes some hundredths of a second."""

COUNTED = 5_000
"""On sheets of more segments, subpaths are told instead of pieces and counters, which take time to find."""


@dataclass(frozen=True, slots=True)
class Entry:
    """One item. `size` is that of its ink; `origin` says whether it remembers the text it was made from; `path` is its
    picture, `live` whether it is text, `left_open` whether one of its lines is open, `colours` what it is painted with:
    what tells its operation first.
    """

    id: str
    name: str
    what: str
    operation: str
    size: str
    nodes: str
    box: Box | None
    origin: bool
    area_mm2: float | None = None
    length_mm: float | None = None
    path: Path | None = None
    filled: bool = True
    live: bool = False
    left_open: bool = False
    colours: tuple[str, ...] = ()


def lengthy(sheet: Sheet) -> bool:
    """Whether its ledger takes longer to write than anybody should wait."""
    return sum(len(outline.path.points) for outline in sheet.outlines()) > AT_ONCE


def takes_long(sheet: Sheet, items: Sequence[str]) -> bool:
    """Whether a step on these items may take longer than anybody waits for what wasn't asked for. Those on all of a
    sheet only place it.
    """
    wanted = set(items)
    return sum(len(each.path.points) for each in sheet.outlines() if each.id in wanted) > TRIED_UNASKED


_ENTRIES: TopicOfObjects[list[Entry]] = TopicOfObjects("entries of the ledger", 8)


def known_ledger(sheet: Sheet, workshop: Workshop) -> list[Entry] | None:
    """A ledger that was written before."""
    return _ENTRIES.known(sheet, workshop)


def ledger(sheet: Sheet, workshop: Workshop) -> list[Entry]:
    """All items but groups, in sheet order; written once for a sheet."""
    return _ENTRIES.get(lambda: _ledger(sheet, workshop), sheet, workshop)


def _ledger(sheet: Sheet, workshop: Workshop) -> list[Entry]:
    items = [item for item in sheet.walk() if isinstance(item, (Outline, Lettering))]
    outlines = [item for item in items if isinstance(item, Outline)]
    counted = sum(len(outline.path.points) for outline in outlines) <= COUNTED
    if counted:
        regions([(each.path, each.look.even_odd) for each in outlines], workshop.ticket.tolerance.chord_mm / 2)
    whole = concat([outline.path for outline in outlines])
    edges = np.cumsum([0, *(len(outline.path) for outline in outlines)]).tolist()
    areas, long = signed_areas(whole), lengths(whole)
    measured = {
        outline.id: (float(abs(areas[a:b][outline.path.closed].sum())), float(long[a:b].sum()))
        for outline, (a, b) in zip(outlines, itertools.pairwise(edges), strict=True)
    }
    return [_entry(item, workshop, measured.get(item.id, (0.0, 0.0)), counted=counted) for item in items]


def _entry(item: Item, workshop: Workshop, measured: tuple[float, float], *, counted: bool) -> Entry:
    if isinstance(item, Lettering):
        setting = set_lettering(item, workshop.shelf)
        box = setting.ink(item.placement)
        letters = [path for _, _, path in setting.letters(item.placement) if len(path)]
        picture = concat(letters) if letters else None
        return Entry(
            item.id,
            listed_name(item),
            "live text",
            _operation(item.runs[0].look, workshop),
            _size(box),
            "–",
            box,
            False,
            path=picture,
            live=True,
            colours=tuple(dict.fromkeys(run.look.colour for run in item.runs if run.look.colour)),
        )
    assert isinstance(item, Outline)
    what = _pieces(item, workshop) if counted else say_count("{count} subpath", "{count} subpaths", len(item.path))
    box = bounds(item.path)
    return Entry(
        item.id,
        listed_name(item),
        what,
        _operation(item.look, workshop),
        _size(box),
        str(item.path.node_count),
        box,
        item.origin is not None,
        *measured,
        item.path,
        item.look.fill is not None,
        left_open=not item.path.closed.all(),
        colours=(item.look.colour,) if item.look.colour else (),
    )


def _operation(look: Appearance, workshop: Workshop) -> str:
    operation = workshop.ticket.operation(look)
    return operation.value if operation else "not in key"


def _pieces(item: Outline, workshop: Workshop) -> str:
    count = figures([item], workshop.ticket.tolerance, workshop.ticket.is_cut)
    holes = say_count(", {count} counter", ", {count} counters", count.counters) if count.counters else ""
    return (
        say_count("{count} piece{holes}", "{count} pieces{holes}", count.pieces, holes=holes)
        if count.pieces
        else "line"
    )


def _size(box: Box | None) -> str:
    return f"{box[2] - box[0]:.1f} × {box[3] - box[1]:.1f}" if box else "–"


def sentence(name: str) -> str:
    """The first sentence of what a step promises."""
    promise = STEPS[name].promise.split("\n\n")[0].replace("\n", " ")
    return promise.split(". ")[0].rstrip(".") + "."
