"""Subpaths that draw nothing that anybody could have meant."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from unkelt.geometry.measure import lengths, signed_areas, subpath_bounds
from unkelt.geometry.path import Floats, Ints
from unkelt.job.ticket import Ticket
from unkelt.sheet.materials import is_thick
from unkelt.sheet.model import Outline, Sheet

ROUNDING_MM = 1e-6
"""What a file's decimals may add to a size."""

SMALL_PRINT = 15.0
"""A dot of small print is this part of the letters around it, at the least, and no farther from one than so many times
its size.
"""


@dataclass(frozen=True, slots=True)
class Scraps:
    """The indices of a path's scraps and their boxes (k, 4)."""

    indices: Ints
    boxes: Floats

    def __len__(self) -> int:
        return len(self.indices)

    @property
    def largest_mm(self) -> float:
        """The longer side of the largest."""
        return float((self.boxes[:, 2:] - self.boxes[:, :2]).max(initial=0))


def scraps(outline: Outline, ticket: Ticket) -> Scraps:
    """Points and specks no larger than a scrap both ways, and closed rings that run back on themselves.

    Where a stroke makes a dot or a bar of them that people see, they are none.
    """
    path, tolerance = outline.path, ticket.tolerance
    if not len(path):
        return Scraps(np.zeros(0, np.intp), np.zeros((0, 4)))
    boxes = subpath_bounds(path)
    size = (boxes[:, 2:] - boxes[:, :2]).max(axis=1)
    if _is_thick(outline, ticket):
        found = np.flatnonzero((size == 0) & (outline.look.line_cap == "butt"))
        return Scraps(found, boxes[found])
    speck = size <= tolerance.scrap_mm + ROUNDING_MM
    # A figure of eight may enclose as much on either side; only what is flat in fact is a scrap.
    flat = path.closed & (path.counts <= 2)
    if flat.any():
        flat &= np.abs(signed_areas(path)) <= tolerance.graze_mm2 * np.maximum(1.0, lengths(path))
    found = np.flatnonzero(speck | flat)
    return Scraps(found, boxes[found])


def doubtful(outline: Outline, sheet: Sheet, ticket: Ticket) -> Scraps:
    """Specks larger than a scrap and smaller both ways than the tool's own line: a scrap, or a dot that is meant.

    The dot of a small i or a full stop is none: other shapes near it are no more than so many times as large.
    """
    path = outline.path
    if not len(path) or _is_thick(outline, ticket):
        return Scraps(np.zeros(0, np.intp), np.zeros((0, 4)))
    boxes = subpath_bounds(path)
    size = (boxes[:, 2:] - boxes[:, :2]).max(axis=1)
    speck = (size > ticket.tolerance.scrap_mm + ROUNDING_MM) & (size < ticket.machine.hairline_mm)
    if speck.any():
        others = _all_boxes(sheet)
        speck[speck] = [not _in_small_print(box, others) for box in boxes[speck]]
    found = np.flatnonzero(speck)
    return Scraps(found, boxes[found])


def _is_thick(outline: Outline, ticket: Ticket) -> bool:
    """Whether a stroke is wider than the tool's own line."""
    return outline.look.stroke_paint is not None and is_thick(outline.look, ticket.machine.hairline_mm)


def _all_boxes(sheet: Sheet) -> Floats:
    return np.concatenate([subpath_bounds(outline.path) for outline in sheet.outlines() if len(outline.path)])


def _in_small_print(box: Floats, others: Floats) -> bool:
    """Whether something that is larger, but not much, lies near a speck."""
    size = float((box[2:] - box[:2]).max())
    gap = np.maximum(np.maximum(others[:, :2] - box[2:], box[:2] - others[:, 2:]), 0.0).max(axis=1)
    larger = (others[:, 2:] - others[:, :2]).max(axis=1)
    return bool(((gap <= SMALL_PRINT * size) & (larger > 1.5 * size) & (larger <= SMALL_PRINT * size)).any())
