"""What is seen of items, in paint order: an area for each paint, and the lines that a tool would follow without any
width.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

import shapely

from unkelt.geometry.flatten import lines
from unkelt.geometry.measure import Box, bounds, find_boxes, join_boxes
from unkelt.geometry.path import EMPTY, Path, concat
from unkelt.geometry.region import regions
from unkelt.job.ticket import Ticket
from unkelt.lettering.faces import Shelf
from unkelt.lettering.setting import set_lettering
from unkelt.sheet.appearance import Paint, has_visible_stroke, stroke_reach
from unkelt.sheet.materials import is_thick
from unkelt.sheet.model import Item, Lettering, Outline, Picture
from unkelt.sheet.pens import stroke_region

LONGEST_REFERENCE = 60
"""Characters of a picture's reference that people read in full: longer ones hold the picture itself."""


@dataclass(frozen=True, slots=True)
class Layer:
    """One paint of one item: its material, whether it hides what lies beneath, and the area (mm)."""

    material: str
    opaque: bool
    area: shapely.Geometry


@dataclass(frozen=True, slots=True)
class Painted:
    """What is seen of one item: its layers from below upwards, and by material the lines that are drawn without a
    width.

    A tool also follows the edges of what is only filled: `edges`, of which `left_open` are the open subpaths.
    """

    layers: tuple[Layer, ...]
    lines: tuple[tuple[str, Path], ...]
    edges: tuple[tuple[str, Path], ...] = ()
    left_open: tuple[tuple[str, Path], ...] = ()


def as_outlines(item: Item, shelf: Shelf) -> list[Outline]:
    """An item as outlines: live text by its letters, where its face is to be had, a picture by its frame; groups are
    none.
    """
    match item:
        case Outline():
            return [item]
        case Lettering():
            setting = set_lettering(item, shelf)
            return [
                Outline(item.id, path, replace((run or item.runs[0]).look, even_odd=False))
                for _, run, path in setting.letters(item.placement)
                if len(path)
            ]
        case _:
            return []


def reach(item: Item, shelf: Shelf) -> Box | None:
    """The box of all that is seen of an item, with the width of strokes and the length of their mitres; None for
    nothing.
    """
    if isinstance(item, Picture):
        return item.box if item.visible else None
    boxes = []
    for outline in as_outlines(item, shelf):
        if (box := bounds(outline.path)) is not None:
            grow = stroke_reach(outline.look)
            boxes.append((box[0] - grow, box[1] - grow, box[2] + grow, box[3] + grow))
    return join_boxes(boxes)


def painted(items: Sequence[Item], ticket: Ticket, shelf: Shelf, chord_mm: float) -> list[Painted]:
    """What is seen of each item, flattened to a chord error in mm. Raises GeometryRefused for dashes without number."""
    shown = [[each for each in as_outlines(item, shelf) if each.look.shown] for item in items]
    areas = iter(_fills(shown, chord_mm))
    found = []
    for item, outlines in zip(items, shown, strict=True):
        layers: list[Layer] = []
        drawn: list[tuple[str, Path]] = []
        edges: list[tuple[str, Path]] = []
        for outline in outlines:
            layers += _layers(outline, next(areas) if outline.look.fill_paint else None, ticket, chord_mm)
            drawn += _lines(outline, ticket)
            edges += _edges(outline, ticket)
        if isinstance(item, Picture) and item.visible:
            opaque, frame = item.opacity == 1, shapely.Polygon(item.corners)
            layers.append(Layer(_picture_material(item), opaque, frame))
        left_open = [(material, opened) for material, path in edges if len(opened := _open_subpaths(path, ticket))]
        found.append(Painted(tuple(layers), tuple(drawn), tuple(edges), tuple(left_open)))
    return found


def look_ahead(items: Sequence[Item], shelf: Shelf, chord_mm: float) -> None:
    """Finds what `painted` will ask of many items one by one: all at once takes a fraction of the time."""
    _fills([[each for each in as_outlines(item, shelf) if each.look.shown] for item in items], chord_mm)


def _fills(shown: Sequence[Sequence[Outline]], chord_mm: float) -> list[shapely.Geometry]:
    """The areas of those that are filled."""
    filled = [each for outlines in shown for each in outlines if each.look.fill_paint]
    find_boxes([each.path for each in filled])
    return regions([(each.path, each.look.even_odd) for each in filled], chord_mm)


def _picture_material(picture: Picture) -> str:
    """The material that a raster picture stands for: another picture, or the same turned round on its frame or shown
    otherwise, is another material.
    """
    reference = picture.reference
    if len(reference) > LONGEST_REFERENCE:
        reference = hashlib.sha256(reference.encode()).hexdigest()[:8]
    m = picture.placement
    turned = round(math.degrees(math.atan2(m.xy, m.xx)), 1)
    words = [
        reference,
        "mirrored" if m.xx * m.yy < m.xy * m.yx else "",
        f"turned by {turned:g}°" if turned else "",
        f"at {picture.opacity:.0%}" if picture.opacity < 1 else "",
        picture.fit,
        picture.smoothing if picture.smoothing != "auto" else "",
    ]
    return f"a picture ({', '.join(word for word in words if word)})"


def _layers(outline: Outline, area: shapely.Geometry | None, ticket: Ticket, chord_mm: float) -> list[Layer]:
    look = outline.look
    layers = [_layer(look.fill_paint, area, ticket)] if look.fill_paint and area is not None else []
    if look.stroke_paint and is_thick(look, ticket.machine.hairline_mm):
        band = stroke_region(outline.path, look, chord_mm)
        layers.insert(0 if look.stroke_below else 1, _layer(look.stroke_paint, band, ticket))
    if len(layers) == 2 and look.opacity < 1 and (look.fill_opacity if look.stroke_below else look.stroke_opacity) == 1:
        # Painted first and made translucent then: the upper hides the lower, and lets what lies beneath the item shine
        # through.
        layers[0] = replace(layers[0], area=shapely.difference(layers[0].area, layers[1].area))
    return [layer for layer in layers if not layer.area.is_empty]


def _layer(paint: Paint, area: shapely.Geometry, ticket: Ticket) -> Layer:
    return Layer(ticket.material(paint), paint.opaque, area)


def _lines(outline: Outline, ticket: Ticket) -> list[tuple[str, Path]]:
    """All subpaths of a line that has no width to speak of."""
    paint = outline.look.stroke_paint
    if paint is None or has_visible_stroke(outline.look, ticket.machine.hairline_mm, bool(ticket.key)):
        return []
    return [(ticket.material(paint), outline.path)]


def _edges(outline: Outline, ticket: Ticket) -> list[tuple[str, Path]]:
    """All subpaths of what is filled and has no stroke."""
    look = outline.look
    if look.fill_paint is None or look.stroke_paint is not None:
        return []
    return [(ticket.material(look.fill_paint), outline.path)]


def _open_subpaths(path: Path, ticket: Ticket) -> Path:
    """Those whose ends lie apart; one whose ends meet is as good as closed."""
    left_open = ~path.closed & (path.end_gaps_mm() > ticket.tolerance.same_point_mm)
    return path.select(left_open) if left_open.any() else EMPTY


def line_areas(drawn: Iterable[tuple[str, Path]], chord_mm: float) -> dict[str, shapely.Geometry]:
    """Lines by material, as multi-lines within a chord error in mm."""
    found: dict[str, list[Path]] = {}
    for material, path in drawn:
        found.setdefault(material, []).append(path)
    return {material: lines(concat(paths), chord_mm) for material, paths in found.items()}
