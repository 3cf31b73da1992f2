"""The verdict on a written file."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path as FilePath

import shapely

from unkelt.geometry.measure import Box, bounds, join_boxes, lengths, remember_boxes
from unkelt.geometry.nesting import ring_nesting
from unkelt.geometry.path import concat
from unkelt.geometry.region import apart_mm2, clusters, parts, regions
from unkelt.proof.dry_run import cut_twice_mm
from unkelt.proof.imported import Body, Imported
from unkelt.proof.importer import import_file
from unkelt.proof.motion import STAND_IN, Device
from unkelt.sheet.appearance import Appearance, Operation
from unkelt.sheet.ticket import Ticket


@dataclass(frozen=True, slots=True)
class Proof:
    """What importing makes of a file. Bodies are compound paths, pieces connected regions of material."""

    path: str
    size_mm: tuple[float, float]
    box_mm: Box | None
    bodies: int
    pieces: int
    counters: int
    text_left: int
    subpaths: int
    nodes: int
    cut_length_mm: float
    cut_twice_mm: float
    seconds: float
    reasons: tuple[str, ...]

    @property
    def verdict(self) -> str:
        return "hold" if self.reasons else "clean"


def prove(path: FilePath, ticket: Ticket, device: Device = STAND_IN) -> Proof:
    """Reads the file back and judges it. Raises InputError when it can't be read at all."""
    return judge(str(path), import_file(path), ticket, device)


def judge(path: str, found: Imported, ticket: Ticket, device: Device = STAND_IN) -> Proof:
    """The verdict on what an importer made of a file."""
    tolerance = ticket.tolerance
    chord = tolerance.chord_mm / 2
    working = [body for body in found.bodies if _operation(body, ticket) is not Operation.LEAVE]
    cut = [body for body in working if _operation(body, ticket) in (Operation.CUT, None)]
    shapes = regions([(body.path, body.even_odd) for body in working], chord)
    material, _, holes, _ = parts(shapes, tolerance.sliver_mm2)
    remember_boxes([body.path for body in working])
    box = join_boxes([b for body in working if (b := bounds(body.path))])
    size = (box[2] - box[0], box[3] - box[1]) if box else (0.0, 0.0)
    twice = cut_twice_mm([body.path for body in cut], tolerance.same_shape_mm, chord)
    return Proof(
        path=path,
        size_mm=size,
        box_mm=box,
        bodies=len(working),
        pieces=len(clusters(material)),
        counters=len(holes),
        text_left=found.text_left,
        subpaths=sum(len(body.path) for body in working),
        nodes=sum(body.path.node_count for body in working),
        cut_length_mm=float(lengths(concat([body.path for body in working])).sum()),
        cut_twice_mm=twice,
        seconds=device.run(found.bodies, ticket).seconds,
        reasons=tuple(_reasons(found, working, shapes, size, twice, ticket)),
    )


def _operation(body: Body, ticket: Ticket) -> Operation | None:
    return ticket.operation(Appearance(fill=body.fill, stroke=body.stroke))


def _reasons(
    found: Imported,
    working: list[Body],
    shapes: list[shapely.Geometry],
    size: tuple[float, float],
    twice: float,
    ticket: Ticket,
) -> list[str]:
    tolerance = ticket.tolerance
    chord = tolerance.chord_mm / 2
    reasons: list[str] = []
    if found.text_left:
        reasons.append(
            f"{found.text_left} live {'text is' if found.text_left == 1 else 'texts are'} ignored and arrive blank"
        )
    if not working:
        reasons.append("there is nothing to cut, score or engrave")
    open_count = sum(int((~body.path.closed).sum()) for body in working if _operation(body, ticket) is Operation.CUT)
    if open_count:
        reasons.append(
            f"{open_count} open {'subpath' if open_count == 1 else 'subpaths'} would leave the part attached"
        )
    if twice > tolerance.joint_mm:
        reasons.append(f"{twice:.1f} mm would be cut twice")
    for body in working:
        nesting = ring_nesting(body.path, chord)[2]
        if nesting is not None and nesting.rules_agree():
            continue
        by_rule = regions([(body.path, rule) for rule in (False, True)], chord)
        if apart_mm2(*by_rule) > tolerance.sliver_mm2:
            reasons.append("what is hole and what is solid depends on the fill rule")
            break
    overlap = _overlap(working, shapes, ticket)
    if overlap > tolerance.sliver_mm2:
        reasons.append(f"bodies overlap by {overlap:.1f} mm², where the tool would cut through")
    for wanted, actual, word in ((ticket.width_mm, size[0], "wide"), (ticket.height_mm, size[1], "high")):
        # Text that is ignored has no size, so that a size is judged only without it.
        if wanted is not None and not found.text_left and abs(actual - wanted) > ticket.size_tolerance_mm:
            reasons.append(f"it is {actual:.2f} mm {word}, and the ticket wants {wanted:.2f} mm")
    return reasons


def _overlap(working: list[Body], shapes: list[shapely.Geometry], ticket: Ticket) -> float:
    """Area in mm² that lies under two filled bodies of one operation."""
    if not shapes:
        return 0.0
    first, second = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    total = 0.0
    for i, j in zip(first.tolist(), second.tolist(), strict=True):
        a, b = working[i], working[j]
        if i < j and a.fill and b.fill and _operation(a, ticket) == _operation(b, ticket):
            total += float(shapely.intersection(shapes[i], shapes[j]).area)
    return total
