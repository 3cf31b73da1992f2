"""Blocks taken apart: every entity with its place on the drawing, and what it takes over from the blocks it is in."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field
from typing import Any

from ezdxf.entities import DXFEntity, Insert
from ezdxf.math import Matrix44
from ezdxf.protocols import SupportsVirtualEntities, virtual_entities
from ezdxf.xclip import XClip

from unkelt.formats.dxf.looks import BLACK, CONTINUOUS, colour_of, line_type_of, opacity_of

Entity = Any
"""Something of ezdxf, which has no types for what is in a file."""

DEEPEST = 64
"""Blocks within blocks; a file in which they go deeper is damaged."""

MOST_COPIES = 40_000
"""More copies of blocks than this, or more entities made by them, are an attack and not a drawing."""


@dataclass(frozen=True)
class Around:
    """What an entity takes over where it says so: colour, opacity and line type of the block's reference (`BYBLOCK`),
    and its layer where the entity lies on layer 0 (DXF reference, BLOCK). `matrix` leads from the block to the drawing;
    `inside` are the blocks that it is in.
    """

    layer: str = "0"
    colour: str = BLACK
    line_type: str = CONTINUOUS
    hidden: bool = False
    matrix: Matrix44 = field(default_factory=Matrix44)
    inside: tuple[str, ...] = ()
    opacity: float = 1.0


@dataclass(frozen=True)
class Placed:
    """An entity, the layer that it counts as being on, that layer's entry or None, and what is around it."""

    entity: Entity
    layer: str
    entry: Entity
    around: Around

    @property
    def hidden(self) -> bool:
        """Whether it isn't shown: by itself, by its layer, or by a block that it is in."""
        shown = self.entry is None or (self.entry.is_on() and not self.entry.is_frozen())
        unseen = self.entity.dxftype() == "ATTRIB" and self.entity.is_invisible
        return self.around.hidden or not shown or unseen or bool(self.entity.dxf.get("invisible", 0))


@dataclass
class Blocks:
    """Takes the blocks of one document apart, and counts references that are clipped, whose block is missing, is
    another file, or holds itself.
    """

    document: Entity
    clipped: int = 0
    missing: int = 0
    outside: int = 0
    endless: int = 0
    copies: int = 0

    def apart(self, entities: Iterable[DXFEntity], around: Around | None = None) -> Iterator[Placed]:
        """All entities, those of blocks as often as they are referred to. Raises what the library does on damaged
        ones.
        """
        around = around or Around()
        for entity in entities:
            name = str(entity.dxf.get("layer", "0"))
            layer = around.layer if name == "0" else name
            entry = self.document.layers.get(layer) if self.document.layers.has_entry(layer) else None
            placed = Placed(entity, layer, entry, around)
            if isinstance(entity, Insert):
                yield from self._of_reference(entity, placed)
            elif isinstance(entity, SupportsVirtualEntities):
                yield from self._within(virtual_entities(entity), placed, around.matrix, entity.dxftype())
            else:
                yield placed

    def _of_reference(self, insert: Insert, placed: Placed) -> Iterator[Placed]:
        block, outer = insert.block(), placed.around.matrix
        if block is None:
            self.missing += 1
            return
        if block.block is not None and block.block.is_xref:
            self.outside += 1
            return
        if block.name in placed.around.inside or len(placed.around.inside) >= DEEPEST:
            self.endless += 1
            return
        clip = XClip(insert)
        self.clipped += clip.has_clipping_path and clip.is_clipping_enabled
        yield from self._within(insert.attribs, placed, outer, block.name)
        # A block also says which texts its references fill in; what they filled in lies beside them.
        content = [entity for entity in block if entity.dxftype() != "ATTDEF"]
        if not content:
            return
        for single in insert.multi_insert() if insert.mcount > 1 else (insert,):
            self.copies += 1
            if self.copies > MOST_COPIES:
                raise ValueError("inserts its blocks without end")
            yield from self._within(content, placed, single.matrix44() * outer, block.name)

    def _within(self, entities: Iterable[DXFEntity], of: Placed, matrix: Matrix44, name: str) -> Iterator[Placed]:
        # A layer that is off hides what is on it; one that is frozen, all of a block that lies on it (DXF reference).
        frozen = of.entry is not None and of.entry.is_frozen()
        hidden = of.around.hidden or frozen or bool(of.entity.dxf.get("invisible", 0))
        colour = colour_of(of.entity, of.entry, of.around.colour)
        line_type = line_type_of(of.entity, of.entry, of.around.line_type)
        opacity = opacity_of(of.entity, of.entry, of.around.opacity)
        inside = (*of.around.inside, name)
        yield from self.apart(entities, Around(of.layer, colour, line_type, hidden, matrix, inside, opacity))
