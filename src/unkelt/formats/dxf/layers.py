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

AT_ONCE = 1024
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
        under = below.of(place)
        if at < 0 or below.painted_on(place, under[layer_of[under] > at]):
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
        self._boxes = shapely.box(*np.array([_box(item) or NOWHERE for item in items]).T)
        self._tree = shapely.STRtree(self._boxes)
        self._reach = np.array([_reach(item) for item in items])
        self._known: list[np.ndarray] = []
        self._first = 0

    def of(self, place: int) -> np.ndarray:
        """The places of items before this one whose boxes overlap its own. Asked for one after another."""
        if not self._first <= place < self._first + len(self._known):
            one, other = self._tree.query(self._boxes[place : place + AT_ONCE])
            wanted = (other < one + place) & (self._look[other] != self._look[one + place])
            one, other = one[wanted], other[wanted]
            cuts = np.searchsorted(one, np.arange(1, min(AT_ONCE, len(self._items) - place)))
            self._known, self._first = np.split(other, cuts), place
        return self._known[place - self._first]

    def painted_on(self, place: int, others: np.ndarray) -> bool:
        """Whether an item lies on one of the others: lines where they meet, areas and text wherever they may."""
        if not len(others):
            return False
        reach = self._reach[place] + self._reach[others]
        if np.isnan(reach).any():
            return True
        return bool(shapely.dwithin(self._lines[place], self._lines[others], reach).any())

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
