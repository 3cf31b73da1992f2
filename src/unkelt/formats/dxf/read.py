"""Reading DXF: what modelspace draws, in mm, layers as groups, text as live text. What isn't understood is counted."""

from __future__ import annotations

import logging
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from pathlib import Path as FilePath
from typing import Any

import ezdxf
import ezdxf.recover
import numpy as np
from ezdxf.entities import DXFEntity
from ezdxf.reorder import ascending
from fontTools.misc.transform import Transform

from unkelt.errors import InputError
from unkelt.formats.dxf.blocks import MOST_COPIES, Blocks, Placed
from unkelt.formats.dxf.curves import entity_path, lies_flat, plane_of
from unkelt.formats.dxf.layers import by_layer
from unkelt.formats.dxf.looks import SAYS, Effect, colour_of, effects_of, has_width, line_type_of, look_of, opacity_of
from unkelt.formats.dxf.texts import text_effects, text_of
from unkelt.formats.files import read_bytes
from unkelt.formats.limits import FARTHEST
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.geometry.nesting import ring_nestings
from unkelt.geometry.path import concat
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Appearance, uneven_pen
from unkelt.sheet.change import scaled_look, transformed
from unkelt.sheet.model import (
    LEFT_OUT,
    Group,
    Item,
    Lettering,
    Outline,
    Reads,
    Remark,
    Scale,
    Sheet,
    Source,
)

Entity = Any
"""Something of ezdxf, which has no types for what is in a file."""

# $INSUNITS, group code 70, in mm (the DXF reference; inches by definition 25.4).
MM = {
    1: 25.4,
    2: 304.8,
    4: 1.0,
    5: 10.0,
    6: 1000.0,
    8: 25.4e-6,
    9: 0.0254,
    10: 914.4,
    13: 1e-3,
    14: 100.0,
    15: 1e4,
    16: 1e5,
}
NAMES = {1: "in", 2: "ft", 4: "mm", 5: "cm", 6: "m", 8: "µin", 9: "mil", 10: "yd", 13: "µm", 14: "dm"}
ARC_ERROR_MM = 0.002
MARGIN_MM = 5.0
"""DXF has no page: one is laid around the drawing, with this margin."""


def read_dxf(path: FilePath) -> Sheet:
    """The sheet of a DXF file, ASCII or binary, any release. Raises InputError when it is not one."""
    data = read_bytes(path)
    logging.getLogger("ezdxf").setLevel(logging.CRITICAL)
    repaired = False
    # On damaged files the library raises whatever its parser stumbles over; all of it means the same here.
    try:
        try:
            document = ezdxf.readfile(str(path))
        except Exception:
            document, _ = ezdxf.recover.readfile(str(path))
            repaired = True
    except Exception as problem:
        begins = b"SECTION" in data[:400]
        said = str(problem).splitlines()[0][:120] if str(problem) else type(problem).__name__
        raise InputError(str(path), f"{'is too damaged to be read' if begins else 'is not DXF'} ({said})") from problem
    reader = _Reader(document, str(path))
    if repaired:
        reader.remark("the file was damaged, and was repaired as it was read: compare it with what was meant", LEFT_OUT)
    return reader.sheet()


def _reach(item: Item | None) -> float:
    """How far from the origin an item reaches, in drawing units; not a number where a coordinate isn't one."""
    if isinstance(item, Lettering):
        return max(map(abs, item.placement))
    return float(np.abs(item.path.points).max(initial=0)) if isinstance(item, Outline) else 0.0


def _bound(grouped: Sequence[list[Outline]], chord: float) -> dict[str, Outline | None]:
    """Closed lines that a GROUP holds together, alike and apart from each other, as the one compound path that they
    stand for: it by the first one's id, nothing by those of the others. `chord` is in drawing units.
    """
    alike = [each for each in grouped if len(each) > 1 and len({one.look for one in each}) == 1]
    paths = [concat([one.path for one in each]) for each in alike]
    found: dict[str, Outline | None] = {}
    for members, path, rings in zip(alike, paths, ring_nestings(paths, chord), strict=True):
        if rings.nesting is not None and path.closed.all():
            found |= dict.fromkeys([one.id for one in members]) | {members[0].id: replace(members[0], path=path)}
    return found


class _Reader:
    """One pass over one document's modelspace."""

    def __init__(self, document: Entity, name: str) -> None:
        self.document, self.name = document, name
        self.remarks: list[Remark] = []
        self.missed: Counter[str] = Counter()
        self.effects: dict[Effect, list[str]] = {}
        units = int(document.header.get("$INSUNITS", 0))
        self.unit_mm = MM.get(units, 1.0)
        self.units = NAMES.get(units, "none")
        self.sure = units in MM
        self.used: set[str] = set()
        self.blocks = Blocks(document)

    def remark(
        self, words: str, code: str | None = None, items: tuple[str, ...] = (), *, outside: bool = False
    ) -> None:
        self.remarks.append(Remark(words, code, items, outside))

    def sheet(self) -> Sheet:
        drawn: list[tuple[str, Item]] = []
        group_of = self._groups()
        grouped: dict[tuple[str, str], list[Outline]] = {}
        count = 0
        for placed in self._entities():
            count += bool(placed.around.inside)
            if count > MOST_COPIES:
                raise InputError(
                    self.name,
                    say("makes more than {most_copies:,} entities by inserting its blocks", most_copies=MOST_COPIES),
                )
            entity = placed.entity
            try:
                item = self._item(placed)
                if not _reach(item) * self.unit_mm <= FARTHEST:
                    raise ValueError("beyond all drawing")
            except (ezdxf.DXFError, ValueError, ArithmeticError, AttributeError, LookupError, TypeError):
                self.remark(say("a {dxftype} entity is damaged and was left out", dxftype=entity.dxftype()), LEFT_OUT)
                continue
            if item is not None:
                drawn.append((placed.layer, item))
                name = group_of.get(entity.dxf.get("handle")) if not placed.around.inside else None
                if isinstance(item, Outline) and name is not None:
                    grouped.setdefault((name, placed.layer), []).append(item)
        self._remark_blocks()
        bound = _bound(list(grouped.values()), ARC_ERROR_MM / self.unit_mm)
        for kind, number in self.missed.items():
            self.remark(
                say_count(
                    "{count} {kind} entity is not supported and left out",
                    "{count} {kind} entities are not supported and left out",
                    number,
                    kind=kind,
                ),
                LEFT_OUT,
            )
        for effect, names in self.effects.items():
            self.remark(say_count(*SAYS[effect], len(names)), "content.effect", tuple(names))
        self._remark_paper()
        drawn = [(name, kept) for name, item in drawn if (kept := bound.get(item.id, item)) is not None]
        flat = self._laid_out(tuple(item for _, item in drawn))
        layers = by_layer([(name, item) for (name, _), item in zip(drawn, flat.items, strict=True)], ARC_ERROR_MM)
        groups = [Group(self._id(f"layer-{name}"), tuple(items), name, is_layer=True) for name, items in layers]
        return replace(flat, items=tuple(groups))

    def _groups(self) -> dict[str, str]:
        """The GROUP that entities are of, by their handles."""
        try:
            return {handle: name for name, group in self.document.groups for handle in group.handles()}
        except (ezdxf.DXFError, ValueError, AttributeError, LookupError, TypeError):
            self.remark("a group is damaged: what the file's groups hold together is taken as single lines")
            return {}

    def _entities(self) -> Iterator[Placed]:
        """All of modelspace, blocks taken apart; a block that can't be is said, and ends the list."""
        try:
            yield from self.blocks.apart(self._in_order())
        except (
            ezdxf.DXFError,
            ValueError,
            ArithmeticError,
            AttributeError,
            LookupError,
            TypeError,
            RecursionError,
        ) as problem:
            self.remark(
                say("a block is damaged, and what comes after it was left out ({name})", name=type(problem).__name__),
                LEFT_OUT,
            )

    def _in_order(self) -> list[DXFEntity]:
        """What modelspace holds in the order of painting, which is the file's unless a table says another."""
        space = self.document.modelspace()
        try:
            order = dict(space.get_redraw_order())
            return list(ascending(space, order)) if order else list(space)
        except (ezdxf.DXFError, ValueError, AttributeError, LookupError, TypeError):
            self.remark("the order of painting is damaged: what lies on what is taken from the order in the file")
            return list(space)

    def _remark_paper(self) -> None:
        """A layout shows the model on paper; what is drawn on the paper itself is no part of the drawing."""
        for layout in self.document.layouts:
            drawn = 0 if layout.name == "Model" else sum(entity.dxftype() != "VIEWPORT" for entity in layout)
            if drawn:
                self.remark(
                    say_count(
                        "{count} entity on the paper of layout “{layout}” was left out: Unkelt reads the model only",
                        "{count} entities on the paper of layout “{layout}” were left out: Unkelt reads the model only",
                        drawn,
                        layout=layout.name,
                    ),
                    "content.effect",
                )

    def _laid_out(self, items: tuple[Item, ...]) -> Sheet:
        """From drawing units, y up, to a page around the drawing, y down."""
        scale = Scale(self.sure, None, "" if self.sure else "the file has no $INSUNITS")
        source = Source(self.name, self.units, tuple(self.remarks), "DXF", scale)
        raw = Sheet((1.0, 1.0), items, source)
        boxes = [box for outline in raw.outlines() if (box := bounds(outline.path))]
        boxes += [(t.placement.dx, t.placement.dy, t.placement.dx, t.placement.dy) for t in raw.letterings()]
        box = join_boxes(boxes) or (0.0, 0.0, 0.0, 0.0)
        k = self.unit_mm
        if max(map(abs, box)) * k > FARTHEST:
            raise InputError(self.name, say("has coordinates beyond {farthest:g} mm", farthest=FARTHEST))
        matrix = Transform(k, 0, 0, -k, MARGIN_MM - box[0] * k, MARGIN_MM + box[3] * k)
        moved = transformed(raw, matrix, strokes=False).mapped(_as_it_reads)
        page = ((box[2] - box[0]) * k + 2 * MARGIN_MM, (box[3] - box[1]) * k + 2 * MARGIN_MM)
        return Sheet(page, moved.items, source)

    def _item(self, placed: Placed) -> Item | None:
        entity, kind = placed.entity, placed.entity.dxftype()
        if kind in ("TEXT", "MTEXT", "ATTRIB"):
            return self._text(placed, kind)
        if kind == "IMAGE":
            self.remark("a raster picture is referred to outside the file", "content.reference", outside=True)
            return None
        path = entity_path(entity, ARC_ERROR_MM / self.unit_mm, placed.around.matrix)
        if path is None:
            self.missed[kind] += 1
            return None
        if not len(path):
            return None
        name = self._id(f"{kind.lower()}-{entity.dxf.get('handle') or len(self.used)}")
        line_type = line_type_of(entity, placed.entry, placed.around.line_type)
        effects = effects_of(entity, placed.entry, line_type, self.document)
        if not lies_flat(entity, placed.around.matrix):
            effects.append(Effect.TILTED)
        for effect in effects:
            self.effects.setdefault(effect, []).append(name)
        look = self._look(placed)
        if has_width(entity):
            plane = plane_of(entity, placed.around.matrix)
            look = replace(scaled_look(look, plane), pen=uneven_pen(*plane[:4]))
        return Outline(name, path, look)

    def _look(self, placed: Placed) -> Appearance:
        colour = colour_of(placed.entity, placed.entry, placed.around.colour)
        opacity = opacity_of(placed.entity, placed.entry, placed.around.opacity)
        return look_of(placed.entity, colour, opacity, self.unit_mm, hidden=placed.hidden)

    def _text(self, placed: Placed, kind: str) -> Lettering | None:
        entity = placed.entity
        name = self._id(f"{kind.lower()}-{entity.dxf.get('handle') or len(self.used)}")
        style = self.document.styles.get(entity.dxf.style) if self.document.styles.has_entry(entity.dxf.style) else None
        text = text_of(entity, name, style, self._look(placed), self.unit_mm)
        if text is None:
            self.remark("a text without letters", "text.empty")
            return None
        matrix = placed.around.matrix
        for effect in (*text_effects(entity), *(() if lies_flat(entity, matrix) else (Effect.TILTED,))):
            self.effects.setdefault(effect, []).append(name)
        if kind != "MTEXT":  # which alone isn't placed in a plane of its own
            return replace(text, placement=plane_of(entity, matrix).transform(text.placement))
        (ax, ay, *_), (bx, by, *_), _, (x, y, *_) = matrix.rows()
        return replace(text, placement=Transform(ax, ay, bx, by, x, y).transform(text.placement))

    def _remark_blocks(self) -> None:
        """What of blocks can't be kept."""
        blocks = self.blocks
        if blocks.clipped:
            self.remark(
                say_count(
                    "{count} block is clipped: Unkelt shows all of it",
                    "{count} blocks are clipped: Unkelt shows all of them",
                    blocks.clipped,
                ),
                "content.effect",
            )
        if blocks.outside:
            self.remark("a block is another file, which is referred to", "content.reference", outside=True)
        for count, one, many in (
            (
                blocks.missing,
                "{count} block that is referred to is missing, and was left out",
                "{count} blocks that are referred to are missing, and were left out",
            ),
            (
                blocks.endless,
                "{count} block lies in itself or too deep in others, and was left out",
                "{count} blocks lie in themselves or too deep in others, and were left out",
            ),
        ):
            if count:
                self.remark(say_count(one, many, count), LEFT_OUT)

    def _id(self, stem: str) -> str:
        number, name = 1, stem
        while name in self.used:
            number += 1
            name = f"{stem}-{number}"
        self.used.add(name)
        return name


def _as_it_reads(item: Item) -> Item:
    """DXF has no word for which way round something reads."""
    return replace(item, reads=Reads.UNKNOWN) if isinstance(item, Outline) else item
