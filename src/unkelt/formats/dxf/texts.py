"""TEXT, ATTRIB and MTEXT as live text.

Their height is that of capitals, so that the size is open until a face is known.
"""

from __future__ import annotations

import math
import re
from dataclasses import replace
from pathlib import Path as FilePath
from typing import Any

from fontTools.misc.transform import Transform

from unkelt.formats.dxf.looks import Effect
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Lettering, Run

Entity = Any
"""Something of ezdxf, which has no types for what is in a file."""

CAP_HEIGHT = 0.7
"""A DXF text height is that of its capitals; a size is about this much larger, by common practice, until a face tells.
"""

NARROW = 0.5
"""A letter is at least this wide on average, as a share of the height of capitals, by common practice: what is longer
than its column even so is wrapped.
"""

ALIGNED, MIDDLE, FIT = 3, 4, 5
"""DXF reference, TEXT group code 72: words put to size, or only as wide, between two points."""

BACKWARD, UPSIDE_DOWN = 2, 4
"""DXF reference, TEXT group code 71."""

_FORMATTING = re.compile(r"\\\\|\\[ACcFfHKkLlOoQSTWp]")


def text_of(entity: Entity, name: str, style: Entity, look: Appearance, unit_mm: float) -> Lettering | None:
    """A text with its place in drawing units, in the plane it is drawn in; None where it has no letters."""
    lines = [line for line in entity.plain_text().splitlines() if line.strip()]
    if not lines:
        return None
    font = FilePath(style.dxf.font).stem if style is not None and style.dxf.font else ""
    own = entity.dxftype() != "MTEXT"
    text, height, first, pitch = (
        _of_text(entity, name, unit_mm) if own else _of_mtext(entity, name, len(lines), unit_mm)
    )
    paint = Appearance(fill=look.stroke or look.fill, visible=look.visible)
    says = entity if own else style  # a TEXT says it itself, or means 1 and 0; an MTEXT leaves it to its style
    width, slant = (
        float(says.dxf.get(key, usual)) if says is not None else usual
        for key, usual in (("width", 1.0), ("oblique", 0.0))
    )
    runs = tuple(
        Run(
            line,
            FaceQuery((font,) if font else ()),
            height / CAP_HEIGHT * unit_mm,
            paint,
            at=(0.0, (first + number * pitch) * unit_mm),
            capitals_mm=height * unit_mm,
            width=width,
            slant_deg=slant,
        )
        for number, line in enumerate(lines)
    )
    return replace(text, runs=runs)


def text_effects(entity: Entity) -> list[Effect]:
    """What of a text is dropped."""
    if entity.dxftype() != "MTEXT":
        return [Effect.ALIGNED] if entity.dxf.halign == ALIGNED else []
    found = []
    if any(code[0] != "\\\\" for code in _FORMATTING.finditer(entity.text)):
        found.append(Effect.FORMATTING)
    column = float(entity.dxf.get("width", 0.0))
    longest = max(map(len, entity.plain_text().splitlines()), default=0)
    if 0 < column < longest * float(entity.dxf.char_height) * NARROW:
        found.append(Effect.WRAPPED)
    return found


Laid = tuple[Lettering, float, float, float]
"""A text without its runs; the height of capitals, how far down the first baseline lies, and the distance of baselines,
in drawing units."""


def _of_mtext(entity: Entity, name: str, count: int, unit_mm: float) -> Laid:
    """Lines lie 5/3 of the height apart, times their own factor (DXF reference, MTEXT group code 44)."""
    height = float(entity.dxf.char_height)
    pitch = height * 5 / 3 * float(entity.dxf.get("line_spacing_factor", 1.0))
    column, row = (entity.dxf.attachment_point - 1) % 3, (entity.dxf.attachment_point - 1) // 3
    first = height - row / 2 * (height + pitch * (count - 1))
    placement = _placed(entity.dxf.insert, float(entity.get_rotation()), unit_mm)
    return Lettering(name, (), ("start", "middle", "end")[column], placement), height, first, pitch


def _of_text(entity: Entity, name: str, unit_mm: float) -> Laid:
    height, turn = float(entity.dxf.height), float(entity.dxf.rotation)
    across, where = entity.dxf.halign, entity.dxf.insert
    column, first = {1: 1, 2: 2, MIDDLE: 1}.get(across, 0), {2: height / 2, 3: height}.get(entity.dxf.valign, 0.0)
    length_mm = None
    if entity.dxf.hasattr("align_point"):
        end = entity.dxf.align_point
        if across in (ALIGNED, FIT):
            turn = math.degrees(math.atan2(end.y - where.y, end.x - where.x))
            length_mm = math.hypot(end.x - where.x, end.y - where.y) * unit_mm if across == FIT else None
        elif across or entity.dxf.valign:
            where = end
    placement = _placed(where, turn, unit_mm)
    flags = entity.dxf.get("text_generation_flag", 0)
    placement = placement.scale(-1 if flags & BACKWARD else 1, -1 if flags & UPSIDE_DOWN else 1)
    anchor = ("start", "middle", "end")[column]
    text = Lettering(name, (), anchor, placement, length_mm=length_mm, stretch_glyphs=length_mm is not None)
    return text, height, first, 0.0


def _placed(where: Entity, turn_deg: float, unit_mm: float) -> Transform:
    """From mm in the text's own axes, y down, to drawing units, y up."""
    return Transform(1 / unit_mm, 0, 0, -1 / unit_mm, where.x, where.y).rotate(-math.radians(turn_deg))
