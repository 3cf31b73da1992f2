"""Whether two items are painted alike in the same place, and which of two sheets' items are."""

from __future__ import annotations

import dataclasses
import math
from bisect import bisect_left
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from fontTools.misc.transform import Identity

from unkelt.geometry.path import Path, same_shape
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Item, Lettering, Outline, Picture

SAME_MM = 1e-7
"""Coordinates that differ by less were computed in another order and nothing else."""

SAME_SHARE = 1e-9
"""Lengths of a text that differ by less were rounded otherwise and nothing else."""


def same_item(a: Item, b: Item) -> bool:
    """Whether two items are painted alike in the same place."""
    if a is b:
        return True
    match a, b:
        case Outline(), Outline():
            return _alike(a.look, b.look) and same_shape(a.path, b.path, SAME_MM)
        case Lettering(), Lettering():
            plain = replace(a, id="", label=None, placement=Identity, drawn=())
            other = replace(b, id="", label=None, placement=Identity, drawn=())
            return (
                _near(plain, other)
                and np.allclose(a.placement, b.placement, rtol=0, atol=SAME_MM)
                and len(a.drawn) == len(b.drawn)
                and all(same_shape(p, q, SAME_MM) for (_, p), (_, q) in zip(a.drawn, b.drawn, strict=True))
            )
        case Picture(), Picture():
            same_frame = bool(np.allclose(a.corners, b.corners, rtol=0, atol=SAME_MM))
            alike = replace(a, id=b.id, label=b.label, size=b.size, placement=b.placement)
            return same_frame and alike == b
    return False


def _near(a: object, b: object) -> bool:
    """Whether two texts, or what they are made of, are the same but for the rounding of lengths."""
    if a is b or a == b:
        return True
    if isinstance(a, float) and isinstance(b, float):
        return math.isclose(a, b, rel_tol=SAME_SHARE, abs_tol=SAME_SHARE)
    if isinstance(a, tuple) and isinstance(b, tuple):
        return len(a) == len(b) and all(_near(x, y) for x, y in zip(a, b, strict=True))
    if isinstance(a, Path) and isinstance(b, Path):
        return same_shape(a, b, SAME_MM)
    if dataclasses.is_dataclass(a) and type(a) is type(b):
        return all(_near(getattr(a, each.name), getattr(b, each.name)) for each in dataclasses.fields(a))
    return False


def _alike(a: Appearance, b: Appearance) -> bool:
    if a == b:
        return True
    near = abs(a.stroke_width_mm - b.stroke_width_mm) <= SAME_MM
    return near and a == replace(b, stroke_width_mm=a.stroke_width_mm)


def same_items(old: Sequence[Item], new: Sequence[Item]) -> dict[int, int]:
    """Places of items in the first list, each with that of the same item in the second, in an order that both share."""
    by_id = {item.id: place for place, item in enumerate(new)}
    by_path = {id(item.path): place for place, item in enumerate(new) if isinstance(item, Outline)}
    pairs: list[tuple[int, int]] = []
    taken: set[int] = set()
    for place, item in enumerate(old):
        candidates = [by_id.get(item.id), by_path.get(id(item.path)) if isinstance(item, Outline) else None]
        other = next((c for c in candidates if c is not None and c not in taken and same_item(item, new[c])), None)
        if other is not None:
            taken.add(other)
            pairs.append((place, other))
    return dict(_longest_in_order(pairs))


def _longest_in_order(pairs: Sequence[tuple[int, int]]) -> list[tuple[int, int]]:
    """The most pairs of which the second numbers rise as the first do (patience sorting; M. Fredman, 1975)."""
    ends: list[int] = []
    at: list[int] = []
    before: list[int] = [-1] * len(pairs)
    for index, (_, value) in enumerate(pairs):
        place = bisect_left(ends, value)
        before[index] = at[place - 1] if place else -1
        ends[place : place + 1] = [value]
        at[place : place + 1] = [index]
    chain, index = [], at[-1] if at else -1
    while index >= 0:
        chain.append(pairs[index])
        index = before[index]
    return chain[::-1]
