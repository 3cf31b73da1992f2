"""How DXF entities are painted, and what of it can't be kept."""

from __future__ import annotations

from enum import Enum
from typing import Any

from ezdxf.colors import BYBLOCK, BYLAYER, aci2rgb, int2rgb
from ezdxf.lldxf.const import LINEWEIGHT_BYLAYER

from unkelt.formats.dxf.curves import FILLED
from unkelt.sheet.appearance import DEFAULT_STROKE_MM, Appearance

Entity = Any
"""Something of ezdxf, which has no types for what is in a file."""


class Effect(Enum):
    """What of an entity's look importing drops."""

    LINE_TYPE = "line type"
    TAPER = "taper"
    PATTERN = "pattern"
    FORMATTING = "formatting"
    WRAPPED = "wrapped"
    ALIGNED = "aligned"
    TILTED = "tilted"
    WEIGHT = "weight"


SAYS = {
    Effect.LINE_TYPE: (
        "{count} line is dashed or dotted by its line type: Unkelt takes it as continuous",
        "{count} lines are dashed or dotted by their line type: Unkelt takes them as continuous",
    ),
    Effect.TAPER: (
        "{count} polyline changes its width: Unkelt takes it as a line without width",
        "{count} polylines change their width: Unkelt takes them as lines without width",
    ),
    Effect.PATTERN: (
        "{count} hatch has a pattern or a gradient: Unkelt fills it with one colour",
        "{count} hatches have patterns or gradients: Unkelt fills them with one colour",
    ),
    Effect.FORMATTING: (
        "{count} text mixes faces, sizes or widths: Unkelt takes all of it alike",
        "{count} texts mix faces, sizes or widths: Unkelt takes all letters of each alike",
    ),
    Effect.WRAPPED: (
        "{count} text is longer than its column: Unkelt keeps its lines as they are written",
        "{count} texts are longer than their columns: Unkelt keeps their lines as they are written",
    ),
    Effect.ALIGNED: (
        "{count} text is fitted between two points: Unkelt sets it in the height that it names",
        "{count} texts are fitted between two points: Unkelt sets them in the heights that they name",
    ),
    Effect.TILTED: (
        "{count} entity doesn't lie flat on the drawing: Unkelt takes it as it is seen from above",
        "{count} entities don't lie flat on the drawing: Unkelt takes them as they are seen from above",
    ),
    Effect.WEIGHT: (
        "{count} line is shown with a line weight: Unkelt takes it as a line without width",
        "{count} lines are shown with line weights: Unkelt takes them as lines without width",
    ),
}


BLACK, CONTINUOUS = "#000000", "CONTINUOUS"


def look_of(entity: Entity, colour: str, opacity: float, unit_mm: float, *, hidden: bool) -> Appearance:
    """How an entity of a colour and an opacity is drawn; a polyline may have a width, in mm."""
    filled = entity.dxftype() in FILLED
    widths = _widths(entity)
    return Appearance(
        fill=colour if filled else None,
        stroke=None if filled else colour,
        stroke_width_mm=max(widths) * unit_mm if has_width(entity) else DEFAULT_STROKE_MM,
        even_odd=filled,
        opacity=opacity,
        visible=not hidden,
    )


def has_width(entity: Entity) -> bool:
    """Whether it is a polyline of one width."""
    widths = _widths(entity)
    return len(widths) == 1 and max(widths) > 0


def effects_of(entity: Entity, layer: Entity, line_type: str, document: Entity) -> list[Effect]:
    """What of its look is dropped; its layer and the name of its line type are known."""
    found = []
    if entity.dxftype() == "HATCH":
        return [] if entity.dxf.solid_fill and not entity.has_gradient_data else [Effect.PATTERN]
    if _is_broken(line_type, document):
        found.append(Effect.LINE_TYPE)
    if len(_widths(entity)) > 1:
        found.append(Effect.TAPER)
    if document.header.get("$LWDISPLAY", 0) and entity.dxftype() not in FILLED and not has_width(entity):
        found += [Effect.WEIGHT] * _has_weight(entity, layer)
    return found


def _has_weight(entity: Entity, layer: Entity) -> bool:
    """Whether an entity, or its layer, names a line weight; the usual one is none."""
    weight = entity.dxf.get("lineweight", LINEWEIGHT_BYLAYER)
    if weight == LINEWEIGHT_BYLAYER and layer is not None:
        weight = layer.dxf.get("lineweight", LINEWEIGHT_BYLAYER)
    return bool(weight > 0)


def _widths(entity: Entity) -> set[float]:
    """The widths along a polyline, in drawing units; a constant one overrides all others."""
    kind = entity.dxftype()
    if kind == "LWPOLYLINE":
        if entity.dxf.hasattr("const_width"):
            return {float(entity.dxf.const_width)}
        points = list(entity.lwpoints)
        used = points if entity.closed else points[:-1]
        return {float(width) for _, _, start, end, _ in used for width in (start, end)}
    if kind == "POLYLINE" and entity.is_2d_polyline:
        usual = entity.dxf.get("default_start_width", 0.0), entity.dxf.get("default_end_width", 0.0)
        vertices = list(entity.vertices)
        used = vertices if entity.is_closed else vertices[:-1]
        return {
            float(vertex.dxf.get(name, width))
            for vertex in used
            for name, width in zip(("start_width", "end_width"), usual, strict=True)
        }
    return set()


def line_type_of(entity: Entity, layer: Entity, of_block: str) -> str:
    """The name of its line type: its own, its layer's, or that of the block it is in."""
    name = str(entity.dxf.get("linetype", "BYLAYER"))
    if name.upper() == "BYLAYER":
        name = str(layer.dxf.get("linetype", CONTINUOUS)) if layer is not None else CONTINUOUS
    return of_block if name.upper() == "BYBLOCK" else name


def _is_broken(line_type: str, document: Entity) -> bool:
    if line_type.upper() == CONTINUOUS or not document.linetypes.has_entry(line_type):
        return False
    pattern = document.linetypes.get(line_type).pattern_tags.tags
    return any(tag.code == 49 for tag in pattern)  # the length of a dash, a gap or a dot


IN_LAYER = "AcCmTransparency"
SAID, OF_BLOCK = 0x02000000, 0x01000000
"""Bits of a transparency that says how opaque something is, in its last byte, or that its block does (DXF reference,
group 440).
"""


def opacity_of(entity: Entity, layer: Entity, of_block: float) -> float:
    """The entity's own opacity, its layer's, or that of the block it is in; 1 where nothing is said."""
    said = int(entity.dxf.get("transparency", 0))
    if not said & (SAID | OF_BLOCK) and layer is not None and layer.has_xdata(IN_LAYER):
        said = next((int(tag.value) for tag in layer.get_xdata(IN_LAYER) if tag.code == 1071), 0)
    elif said & OF_BLOCK:
        return of_block
    return (said & 0xFF) / 255 if said & SAID else 1.0


def colour_of(entity: Entity, layer: Entity, of_block: str) -> str:
    """The entity's own colour, its layer's, or that of the block it is in; "white", which is black on paper, is
    black.
    """
    for source in (entity, layer):
        if source is None:
            continue
        if source.dxf.hasattr("true_color"):
            return "#{:02x}{:02x}{:02x}".format(*int2rgb(source.dxf.true_color))
        index = abs(source.dxf.get("color", BYLAYER if source is entity else 7))
        if index == BYBLOCK and source is entity:
            return of_block
        if index not in (BYLAYER, BYBLOCK):
            return BLACK if index == 7 or index > 255 else "#{:02x}{:02x}{:02x}".format(*aci2rgb(index))
    return BLACK
