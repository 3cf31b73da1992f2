"""Writing DXF (R2010): millimetres or inches, one layer an operation, straight subpaths as polylines, all others as
exact splines (or, for machines that know no curves, as polylines within the ticket's chord tolerance). DXF has no
compound paths; what is one is a GROUP, so that it is picked and moved as one.

A chain of cubic Béziers is a cubic B-spline whose inner knots are threefold (L. Piegl and W. Tiller, The NURBS Book,
section 5.3), so that no curve is approximated.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import replace

import ezdxf
import ezdxf.colors
from ezdxf import units
from ezdxf.document import Drawing
from ezdxf.entities import DXFGraphic
from ezdxf.layouts import Modelspace

from unkelt.formats.plain import layer_of, outlines_only
from unkelt.geometry.flatten import straightened
from unkelt.geometry.path import LINE, Path
from unkelt.job.budget import chord_left_mm
from unkelt.job.cutting_order import in_order, inner_first
from unkelt.job.ticket import Ticket
from unkelt.sheet.change import counted_in
from unkelt.sheet.model import Outline, Sheet

WHITE = 7
"""The colour index that is black on white and white on black."""


INCH_MM = 25.4


def write_dxf(sheet: Sheet, ticket: Ticket, number_mm: float = 1.0) -> bytes:
    """The sheet's outlines as DXF, in inches where `number_mm` says that. Raises InputError where it holds live text or
    pictures.
    """
    sheet, chord = counted_in(sheet, number_mm), ticket.tolerance.chord_mm / number_mm
    outlines = outlines_only(sheet, "DXF")
    inches = number_mm == INCH_MM
    ezdxf.options.write_fixed_meta_data_for_testing = True  # the same sheet always gives the same file
    document = ezdxf.new("R2010", units=units.IN if inches else units.MM)
    document.header["$MEASUREMENT"] = 0 if inches else 1
    width, height = sheet.page_mm
    space = document.modelspace()
    space.reset_extents((0.0, 0.0, 0.0), (width, height, 0.0))
    document.header["$EXTMIN"], document.header["$EXTMAX"] = (0.0, 0.0, 0.0), (width, height, 0.0)
    for outline in in_order(outlines, ticket):
        path = outline.path
        if ticket.machine.lines_only:
            path = straightened(path, chord_left_mm(outline, ticket.tolerance.chord_mm / number_mm))
        path = inner_first(path, chord)
        _write(document, space, replace(outline, path=path), layer_of(outline, ticket), height)
    text = io.StringIO()
    document.write(text)
    return text.getvalue().encode(document.output_encoding)


def _write(document: Drawing, space: Modelspace, outline: Outline, layer: str, page_height: float) -> None:
    red, green, blue = bytes.fromhex((outline.look.colour or "#000000")[1:])
    true = ezdxf.colors.rgb2int((red, green, blue))
    if layer not in document.layers:  # in the colour of the key, that what reads the layers alone sees it too
        document.layers.add(layer, color=_index_of(red, green, blue), true_color=true)
    attributes = {"layer": layer, "true_color": true}
    drawn: list[DXFGraphic] = []
    for subpath in outline.path.subpaths():
        if (subpath.degrees == LINE).all():
            nodes = [*subpath.points[:, 0].tolist(), *([] if subpath.closed[0] else [subpath.points[-1, 3].tolist()])]
            places = [(x, page_height - y) for x, y in nodes]
            drawn.append(space.add_lwpolyline(places, close=bool(subpath.closed[0]), dxfattribs=attributes))
        else:
            spline = space.add_spline(degree=3, dxfattribs=attributes)
            spline.control_points = [(x, page_height - y, 0.0) for x, y in _controls(subpath)]
            count = len(subpath.points)
            spline.knots = [0.0] * 4 + [float(k) for k in range(1, count) for _ in range(3)] + [float(count)] * 4
            spline.closed = bool(subpath.closed[0])
            drawn.append(spline)
    if len(drawn) > 1:
        # A line end would end the value, and the DXF reference allows 255 characters.
        words = "".join(sign if sign.isprintable() else " " for sign in outline.label or outline.id)[:255]
        document.groups.new(description=words).extend(drawn)


def _index_of(red: int, green: int, blue: int) -> int:
    """The index of the table's colour that is nearest (DXF reference, AutoCAD Color Index)."""
    if red == green == blue == 0:
        return WHITE
    tabled = [ezdxf.colors.aci2rgb(index) for index in range(1, 256)]
    away = [(r - red) ** 2 + (g - green) ** 2 + (b - blue) ** 2 for r, g, b in tabled]
    return 1 + away.index(min(away))


def _controls(subpath: Path) -> Sequence[tuple[float, float]]:
    cubics = subpath.cubics()
    return [tuple(cubics[0, 0]), *[tuple(point) for cubic in cubics for point in cubic[1:]]]
