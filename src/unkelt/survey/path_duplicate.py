"""`path.duplicate`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.anatomy.repeats import repeats_by_material
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.job.workshop import Workshop
from unkelt.messages import say, say_count
from unkelt.sheet.model import Sheet
from unkelt.sheet.naming import called
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("path.duplicate")
def path_duplicate(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """A subpath is there twice, whatever its start, direction or nodes. The tool runs the line twice."""
    for repeat in repeats_by_material(sheet.outlines(), workshop.ticket):
        marks = [box for part in repeat.again if (box := bounds(part))]
        count = len(marks)
        again = say_count("is there twice", "has {count} subpaths twice", count)
        yield Finding(
            code="path.duplicate",
            level=Level.HOLD,
            items=tuple(dict.fromkeys((repeat.first_id, repeat.again_id))),
            box=join_boxes(marks),
            value=repeat.apart_mm,
            unit="mm",
            headline=say("{name} {again}", name=_name(sheet, repeat.again_id), again=again),
            detail=say("a copy, {apart_mm:.3f} mm apart", apart_mm=repeat.apart_mm),
            message=say(
                "The tool cuts the same line twice, {apart_mm:.3f} mm apart, and may tear the edge.",
                apart_mm=repeat.apart_mm,
            ),
            marks=tuple(marks),
        )


def _name(sheet: Sheet, item_id: str) -> str:
    return called(sheet.find(item_id), item_id)
