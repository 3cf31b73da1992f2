"""`text.font-missing` and `text.glyph-missing`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.messages import say
from unkelt.sheet.model import FaceQuery, Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("text.font-missing", "text.glyph-missing")
def text_missing(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """A face, or a character of a face, is missing. Unkelt never replaces it silently."""
    for lettering in sheet.letterings():
        setting = set_lettering(lettering, workshop.shelf)
        box = setting.ink(lettering.placement) or lettering.place
        for query in dict.fromkeys(run.face for run in setting.missing_faces):
            stand_in = workshop.shelf.stands_in(query)
            message = "Unkelt can't make outlines of this word without its face, and never replaces a face silently."
            if stand_in:
                message += say(
                    " The file names {stand_in} as a stand-in, which is here; it would look different.",
                    stand_in=stand_in,
                )
            yield Finding(
                code="text.font-missing",
                level=Level.HOLD,
                items=(lettering.id,),
                box=box,
                value=None,
                unit=None,
                headline=describe(query),
                detail="nothing is put in its place",
                message=message,
            )
        if setting.missing_letters:
            yield Finding(
                code="text.glyph-missing",
                level=Level.HOLD,
                items=(lettering.id,),
                box=box,
                value=float(len(setting.missing_letters)),
                unit="characters",
                headline=say("The face has no “{missing_letters}”", missing_letters=setting.missing_letters),
                detail="would come out as empty boxes",
                message="These characters would be cut as empty boxes.",
            )


def describe(query: FaceQuery) -> str:
    """A sentence on the face that isn't there."""
    if not query.families:
        return "The text names no face"
    style = [str(query.weight)] if query.weight != 400 else []
    style += ["italic"] if query.italic else []
    return say("{listed} is not here", listed=" ".join([query.families[0], *style]))
