"""`text.licence`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.job.workshop import Workshop
from unkelt.lettering.licence import licence_of
from unkelt.lettering.setting import set_lettering
from unkelt.messages import say
from unkelt.sheet.model import Lettering, Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("text.licence", may_hold=False)
def text_licence(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The licence text of the face says personal use only. Work for a customer may need another licence."""
    for lettering in _letterings(sheet):
        for face in dict.fromkeys(workshop.shelf.match(run.face) for run in lettering.runs):
            licence = licence_of(face) if face else None
            if face is None or licence is None or not licence.personal_only:
                continue
            items = [item.id for item in sheet.walk() if getattr(item, "origin", None) == lettering]
            yield Finding(
                code="text.licence",
                level=Level.NOTE,
                items=tuple(items) or (lettering.id,),
                box=set_lettering(lettering, workshop.shelf).ink(lettering.placement) or lettering.place,
                value=None,
                unit=None,
                headline=say("{name} may be for personal use only", name=face.name),
                detail=say("its licence says “{words}”", words=licence.words),
                message=say(
                    "Its own licence text says “{words}”. Nothing on the sheet is wrong; ask before it is sold.",
                    words=licence.words,
                ),
            )


def _letterings(sheet: Sheet) -> list[Lettering]:
    """Live text, and the text that outlines were made from."""
    made_from = [outline.origin for outline in sheet.outlines() if outline.origin is not None]
    return list(dict.fromkeys([*sheet.letterings(), *made_from]))
