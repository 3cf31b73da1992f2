"""DXF as importing software reads it: entity by entity, with ezdxf's own path tool and nothing of our reader."""

from __future__ import annotations

from pathlib import Path as FilePath

import ezdxf
import ezdxf.path
from ezdxf import units
from ezdxf.disassemble import recursive_decompose
from ezdxf.entities import DXFEntity, DXFGraphic
from ezdxf.enums import InsertUnits
from ezdxf.path import Curve3To, Curve4To, LineTo

from unkelt.errors import InputError
from unkelt.geometry.path import PathBuilder
from unkelt.proof.imported import Body, Imported

CLOSED_MM = 1e-6
ABSURD = 1e9
CURVES = frozenset(["LINE", "LWPOLYLINE", "POLYLINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"])


def import_dxf(path: FilePath) -> Imported:
    """One body an entity, coloured by its true colour; y down. Raises InputError in one sentence."""
    try:
        document = ezdxf.readfile(str(path))
    except (OSError, ezdxf.DXFError, UnicodeDecodeError, ValueError) as problem:
        raise InputError(str(path), f"the independent reader can't read it: {problem}") from problem
    scale = units.conversion_factor(InsertUnits(document.units), InsertUnits.Millimeters) if document.units else 1.0
    # Without extents (which are then absurdly large or missing) sizes are told from the curves alone.
    right, upper = (float(value) for value in tuple(document.modelspace().dxf.extmax)[:2])
    width, top = (right * scale, upper * scale) if max(abs(right), abs(upper)) < ABSURD else (0.0, 0.0)
    bodies: list[Body] = []
    text_left = 0
    by_layer: dict[tuple[str, str], PathBuilder] = {}
    for entity in recursive_decompose(document.modelspace()):
        if entity.dxftype() in ("TEXT", "MTEXT", "ATTRIB"):
            text_left += 1
        elif entity.dxftype() in CURVES:
            colour = _colour(entity, document)
            builder = by_layer.setdefault((entity.dxf.layer, colour), PathBuilder())
            _draw(ezdxf.path.make_path(entity), builder, scale, top)
    for (_, colour), builder in by_layer.items():
        bodies.append(Body(builder.path(), None, colour, True))
    return Imported((width, top), tuple(bodies), text_left)


def _draw(found: ezdxf.path.Path, builder: PathBuilder, scale: float, top: float) -> None:
    def place(point: ezdxf.math.Vec3) -> tuple[float, float]:
        return point.x * scale, top - point.y * scale

    if not len(found):
        return
    start = place(found.start)
    builder.move_to(*start)
    for command in found.commands():
        end = place(command.end)
        match command:
            case LineTo():
                builder.line_to(*end)
            case Curve4To():
                builder.cubic_to(*place(command.ctrl1), *place(command.ctrl2), *end)
            case Curve3To():
                builder.quad_to(*place(command.ctrl), *end)
    if max(abs(a - b) for a, b in zip(place(found.end), start, strict=True)) <= CLOSED_MM:
        builder.close()
    else:
        builder.end()


def _colour(entity: DXFEntity, document: ezdxf.document.Drawing) -> str:
    if isinstance(entity, DXFGraphic) and entity.rgb is not None:
        red, green, blue = entity.rgb
    else:
        index = entity.dxf.color if 0 < entity.dxf.color < 256 else document.layers.get(entity.dxf.layer).color
        red, green, blue = ezdxf.colors.aci2rgb(max(1, min(255, abs(index))))
    return f"#{red:02x}{green:02x}{blue:02x}"
