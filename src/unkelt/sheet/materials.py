"""Materials: a colour is a sheet of material of its own until the ticket says that several are one.

Two colours are two films, or a cut and an engraving, or two layers of wood. No check and no step works across them.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from unkelt.messages import say
from unkelt.sheet.appearance import Appearance, Operation, Paint, Side

Pen = tuple[float, str, str, float, tuple[float, ...], float, tuple[float, float, float, float] | None, bool, Side]


@dataclass(frozen=True, slots=True)
class Family:
    """What outlines must have in common before they can become one outline.

    `fill` and `line` name materials, None where there is no such paint. `pen` says how a stroke wider than a hairline
    is drawn; thinner ones are lines, whatever their width.
    """

    fill: str | None
    line: str | None
    operation: Operation | None
    pen: Pen | None


def material_of(paint: Paint, named: Mapping[str, str]) -> str:
    """The material of a paint: the ticket's name for its colour, or the colour itself. A translucent paint is another
    one.
    """
    name = named.get(paint.colour, paint.colour)
    return name if paint.opaque else say("{name} at {opacity:.3g} %", name=name, opacity=100 * paint.opacity)


def materials_of(look: Appearance, named: Mapping[str, str]) -> tuple[str, ...]:
    """The materials that an item is seen as, the fill's first, each once."""
    paints = (look.fill_paint, look.stroke_paint)
    return tuple(dict.fromkeys(material_of(paint, named) for paint in paints if paint is not None))


def family_of(look: Appearance, named: Mapping[str, str], operation: Operation | None, hairline_mm: float) -> Family:
    """The family of items painted so. Strokes up to the hairline (mm) count as lines."""
    fill, line = look.fill_paint, look.stroke_paint
    thick = line is not None and is_thick(look, hairline_mm)
    pen: Pen | None = None
    if thick:
        pen = (
            round(look.stroke_width_mm, 6),
            look.line_join,
            look.line_cap,
            look.mitre_limit,
            look.dashes_mm,
            look.dash_offset_mm,
            look.pen,
            look.stroke_below,
            look.stroke_side,
        )
    return Family(
        material_of(fill, named) if fill else None, material_of(line, named) if line else None, operation, pen
    )


def is_thick(look: Appearance, hairline_mm: float) -> bool:
    """Whether a stroke is wider than the machine's hairline (mm)."""
    return look.stroke_width_mm > hairline_mm * 1.001
