"""`fine.stroke` and `fine.gap`"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from unkelt.geometry.measure import join_boxes
from unkelt.geometry.offset.thickness import Thin, suspects, thin_parts
from unkelt.geometry.path import Ints
from unkelt.geometry.region import clusters
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Outline, Sheet
from unkelt.survey.areas import filled_areas
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("fine.stroke", "fine.gap", may_hold=False)
def fine(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """A part is thinner than the material holds, or a slit too narrow to weed. Only checked if the ticket gives
    limits.
    """
    ticket = workshop.ticket
    stroke, gap = ticket.machine.smallest_stroke_mm, ticket.machine.smallest_gap_mm
    precision = ticket.tolerance.chord_mm
    by_fill: dict[str, list[Outline]] = {}
    for outline in sheet.outlines():
        if outline.look.fill_paint and ticket.operation(outline.look) in (Operation.CUT, Operation.ENGRAVE):
            by_fill.setdefault(ticket.material(outline.look.fill_paint), []).append(outline)
    for outlines in by_fill.values():
        shapes = filled_areas(outlines, ticket)
        groups = clusters(shapes, gap) if gap else []
        alone = groups == [[index] for index in range(len(shapes))]  # nothing near anything else: one look serves both
        thin, slit = suspects(shapes, max(stroke or 0.0, gap or 0.0)) if stroke or alone else (NONE, NONE)
        for index in thin.tolist():
            if stroke and (narrow := thin_parts(shapes[index], stroke, precision)):
                yield _finding("fine.stroke", (outlines[index].id,), narrow, stroke)
        if gap:
            yield from _gaps(outlines, shapes, groups, gap, precision, slit if alone and stroke else None)


NONE = np.zeros(0, np.intp)


def _gaps(
    outlines: list[Outline],
    shapes: list[shapely.Geometry],
    groups: list[list[int]],
    gap_mm: float,
    precision_mm: float,
    slit: Ints | None,
) -> Iterator[Finding]:
    """One finding for all slits that the same outlines enclose; those that stand further apart can't enclose one.
    `slit` says which of the groups to look at, where that is known already.
    """
    found: dict[tuple[str, ...], list[Thin]] = {}
    materials = [
        shapes[cluster[0]] if len(cluster) == 1 else shapely.union_all([shapes[index] for index in cluster])
        for cluster in groups
    ]
    slit = suspects(materials, gap_mm)[1] if slit is None else slit
    for place in slit.tolist():
        cluster, material = groups[place], materials[place]
        room = shapely.box(*material.buffer(3 * gap_mm, quad_segs=1).bounds).difference(material)
        for thin in thin_parts(room, gap_mm, precision_mm):
            hole = shapely.box(*thin.box)
            beside = [i for i in cluster if shapely.dwithin(shapes[i], hole, gap_mm / 2)]
            found.setdefault(tuple(outlines[index].id for index in beside), []).append(thin)
    for items, slits in found.items():
        yield _finding("fine.gap", items, slits, gap_mm)


def _finding(code: str, items: tuple[str, ...], thin: list[Thin], limit_mm: float) -> Finding:
    least = min(thin, key=lambda each: each.width_mm)
    marks = tuple(each.box for each in thin)
    if code == "fine.stroke":
        headline = say_count("A part is too narrow", "{count} parts are too narrow", len(thin))
        result = "the material lifts, burns away or breaks there"
    else:
        headline = say_count("A slit is too narrow", "{count} slits are too narrow", len(thin))
        result = "it closes up, or can't be weeded"
    return Finding(
        code=code,
        level=Level.WARN,
        items=items,
        box=join_boxes(list(marks)),
        value=least.width_mm,
        unit="mm",
        headline=headline,
        detail=say(
            "{width_mm:.2f} mm where the ticket asks for {limit_mm:g}", width_mm=least.width_mm, limit_mm=limit_mm
        ),
        message=say(
            "{width_mm:.2f} mm wide, and {limit_mm:g} mm is the least for this material: {result}.",
            width_mm=least.width_mm,
            limit_mm=limit_mm,
            result=result,
        ),
        marks=marks,
        focus=least.box,
    )
