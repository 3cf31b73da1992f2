"""Shapes and sheets for the tests, and one way to say that two paths are the same."""

from __future__ import annotations

import math

import numpy as np
from fontTools.misc.transform import Transform

from unkelt.geometry.distance import line_distance
from unkelt.geometry.flatten import lines
from unkelt.geometry.path import Path, PathBuilder, concat, polygon
from unkelt.job.ticket import Ticket, parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shelves import bundled_faces
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Item, Lettering, Outline, Run, Sheet

SHELF = Shelf(bundled_faces())


def square(mm: float = 10, x: float = 0, y: float = 0) -> Path:
    return polygon((x, y), (x + mm, y), (x + mm, y + mm), (x, y + mm))


def circle(r: float = 10, x: float = 0, y: float = 0, arcs: int = 4) -> Path:
    """A circle of cubics with handles 4/3 tan(angle/4): for four arcs the usual κ = 0.5522847498."""
    k, builder = 4 / 3 * math.tan(math.pi / 2 / arcs), PathBuilder()
    builder.move_to(x + r, y)
    for index in range(arcs):
        a, b = 2 * math.pi * index / arcs, 2 * math.pi * (index + 1) / arcs
        builder.cubic_to(
            x + r * (math.cos(a) - k * math.sin(a)), y + r * (math.sin(a) + k * math.cos(a)),
            x + r * (math.cos(b) + k * math.sin(b)), y + r * (math.sin(b) - k * math.cos(b)),
            x + r * math.cos(b), y + r * math.sin(b),
        )  # fmt: skip
    builder.close()
    return builder.path()


def ring(outer: float = 10, inner: float = 5, x: float = 0, y: float = 0) -> Path:
    return concat([circle(outer, x, y), circle(inner, x, y).reversed()])


def rolled(path: Path, by: int) -> Path:
    """A closed subpath that starts at another node."""
    return Path(np.roll(path.points, -by, axis=0), np.roll(path.degrees, -by), path.starts, path.closed)


def moved(path: Path, dx: float, dy: float = 0) -> Path:
    return path.transformed(Transform(1, 0, 0, 1, dx, dy))


def lettering(text: str = "Kitti", family: str = "Pacifico", size: float = 100, fill: str = "#000000") -> Lettering:
    return Lettering("name", (Run(text, FaceQuery((family,)), size, Appearance(fill=fill), at=(20, 150)),))


def glyph_paths(text: str, family: str, size: float = 100) -> list[Path]:
    paths = [glyph.path() for glyph in set_lettering(lettering(text, family, size), SHELF).glyphs]
    return [path for path in paths if len(path)]


def outline(item_id: str, path: Path, fill: str | None = "#000000", stroke: str | None = None) -> Outline:
    return Outline(item_id, path, Appearance(fill=fill, stroke=stroke, stroke_width_mm=0.1))


def sheet(*items: Item, page: tuple[float, float] = (300, 200)) -> Sheet:
    return Sheet(page, items)


def workshop(ticket: str | Ticket = "") -> Workshop:
    if isinstance(ticket, str):
        ticket = parse_ticket(ticket) if ticket else Ticket()
    return Workshop(ticket, SHELF)


def assert_same_shape(a: Path, b: Path, within_mm: float) -> None:
    assert len(a) == len(b)
    assert line_distance(lines(a, within_mm / 10), lines(b, within_mm / 10)) <= within_mm
