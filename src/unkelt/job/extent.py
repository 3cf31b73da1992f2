"""How large a drawing is, in the sense that the ticket means."""

from __future__ import annotations

from collections.abc import Collection

from unkelt.geometry.measure import Box, bounds, find_boxes, join_boxes
from unkelt.job.ticket import Ticket
from unkelt.sheet.appearance import Operation
from unkelt.sheet.model import Sheet


def measured_box(sheet: Sheet, ticket: Ticket, only: Collection[str] | None = None) -> Box | None:
    """The box of what counts, of all outlines or of those named only: `ink` all that is painted or cut (strokes by
    their centre line), `cut` the cut lines, `visible` with the strokes' thickness.
    """
    boxes: list[Box] = []
    outlines = sheet.outlines()
    find_boxes([outline.path for outline in outlines])
    for outline in outlines:
        if only is not None and outline.id not in only:
            continue
        operation = ticket.operation(outline.look)
        if operation is Operation.LEAVE or (ticket.size_of == "cut" and operation is not Operation.CUT):
            continue
        box = bounds(outline.path)
        if box is None:
            continue
        look = outline.look
        beyond = {"inside": 0.0, "outside": look.stroke_width_mm}.get(look.stroke_side, look.stroke_width_mm / 2)
        grow = beyond if ticket.size_of == "visible" and look.stroke else 0.0
        boxes.append((box[0] - grow, box[1] - grow, box[2] + grow, box[3] + grow))
    return join_boxes(boxes)
