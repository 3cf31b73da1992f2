"""Entities in groups by their layers, painted over each other as they were: a layer lies there more than once where
another comes between.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property
from itertools import groupby

import numpy as np
import shapely

from unkelt.geometry.flatten import flatten
from unkelt.geometry.measure import Box, bounds, find_boxes
from unkelt.geometry.path import concat
from unkelt.sheet.change import growth
from unkelt.sheet.model import Item, Lettering, Outline

Drawn = tuple[str, Item]
"""What is drawn, with the name of its layer."""

AT_ONCE = 64
"""So many lines are measured together, those painted last first."""

MANY = 1024
"""Boxes of more than so many are looked up in a tree."""

NOWHERE = (np.nan, np.nan, np.nan, np.nan)
WIDEST_LETTER = 1.5
"""A letter is no wider than so many times the size of its text."""


def by_layer(drawn: Sequence[Drawn], chord_mm: float) -> list[tuple[str, list[Item]]]:
    """The layers from below, each with what is on it, in the order of painting; `drawn` is in that order, in mm.
    `chord_mm` is the chord error of lines when they are asked whether they meet.
    """
    runs = [name for name, _ in groupby(name for name, _ in drawn)]
    if len(set(runs)) == len(runs):
        return [(name, [item for _, item in run]) for name, run in groupby(drawn, key=lambda each: each[0])]
    below = _Below([item for _, item in drawn], chord_mm)
    layers: list[tuple[str, list[Item]]] = []
    last: dict[str, int] = {}
    layer_of = np.full(len(drawn), -1)
    for place, (name, item) in enumerate(drawn):
        at = last.get(name, -1)
        if at < 0 or below.painted_on(place, layer_of > at):
            at = last[name] = len(layers)
            layers.append((name, []))
        layers[at][1].append(item)
        layer_of[place] = at
    return layers


class _Below:
    """What lies below each of many items, where they look otherwise."""

    def __init__(self, items: Sequence[Item], chord_mm: float) -> None:
        self._items, self._chord_mm = items, chord_mm
        looks: dict[tuple[object, ...], int] = {}
        self._look = np.array([looks.setdefault(_look(item), len(looks)) for item in items])
        find_boxes([item.path for item in items if isinstance(item, Outline)])
        self._boxes = np.array([_box(item) or NOWHERE for item in items])
        self._reach = np.array([_reach(item) for item in items])

    def painted_on(self, place: int, asked: np.ndarray) -> bool:
        """Whether an item lies on one of those asked for, a truth for each item: lines where they meet, areas and text
        wherever they may.
        """
        others = self._near(place, asked)
        others = others[self._look[others] != self._look[place]]
        if not len(others):
            return False
        reach = self._reach[place] + self._reach[others]
        if np.isnan(reach).any():
            return True
        latest_first = range(len(others), 0, -AT_ONCE)  # what was painted last is the likeliest
        parts = (slice(max(0, stop - AT_ONCE), stop) for stop in latest_first)
        return any(shapely.dwithin(self._lines[place], self._lines[others[k]], reach[k]).any() for k in parts)

    def _near(self, place: int, asked: np.ndarray) -> np.ndarray:
        """The places of those asked for whose boxes overlap an item's own, in their order."""
        if np.count_nonzero(asked) > MANY:
            near = np.sort(self._tree.query(self._tree.geometries[place]))
            return np.asarray(near[asked[near]])
        others = np.flatnonzero(asked)
        own, theirs = self._boxes[place], self._boxes[others]
        return np.asarray(others[(theirs[:, :2] <= own[2:]).all(axis=1) & (theirs[:, 2:] >= own[:2]).all(axis=1)])

    @cached_property
    def _tree(self) -> shapely.STRtree:
        return shapely.STRtree(shapely.box(*self._boxes.T))

    @cached_property
    def _lines(self) -> np.ndarray:
        """All lines, each at its place."""
        places = np.flatnonzero(~np.isnan(self._reach))
        paths = [item.path for place in places.tolist() if isinstance(item := self._items[place], Outline)]
        vertices, part = flatten(concat(paths), self._chord_mm)
        of_part = np.repeat(places, [len(path) for path in paths])
        drawn = np.full(len(self._items), None)
        shapely.multilinestrings(shapely.linestrings(vertices, indices=part), indices=of_part, out=drawn)
        return drawn


def _look(item: Item) -> tuple[object, ...]:
    looks = [run.look for run in item.runs] if isinstance(item, Lettering) else []
    looks += [item.look] if isinstance(item, Outline) else []
    return tuple((look.fill, look.stroke, look.shown) for look in looks)


def _reach(item: Item) -> float:
    """How far a line reaches to each side, in mm; not a number for what is no line."""
    if not isinstance(item, Outline) or not len(item.path) or item.look.fill is not None:
        return math.nan
    return item.look.stroke_width_mm / 2


def _box(item: Item) -> Box | None:
    """A box that surely holds an item, in mm."""
    if isinstance(item, Outline):
        box, reach = bounds(item.path), item.look.stroke_width_mm / 2
    elif isinstance(item, Lettering):
        at = item.placement.dx, item.placement.dy
        long = [WIDEST_LETTER * run.size_mm * (len(run.text) + 1) + abs(run.at[1] or 0.0) for run in item.runs]
        box, reach = (*at, *at), growth(item.placement) * sum(long)
    else:
        return None
    return (box[0] - reach, box[1] - reach, box[2] + reach, box[3] + reach) if box else None
