"""`text.face-versions`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import version_of
from unkelt.lettering.setting import set_lettering
from unkelt.messages import listed, say
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("text.face-versions", may_hold=False)
def text_face_versions(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Several versions of the face are installed, and their letters may differ."""
    for lettering in sheet.letterings():
        if lettering.drawn:
            continue
        for query in dict.fromkeys(run.face for run in lettering.runs):
            taken = workshop.shelf.match(query)
            others = workshop.shelf.rivals(taken) if taken else []
            if taken is None or not others:
                continue
            places = listed(
                "; ",
                (
                    say("version {version} in {path}", version=version_of(each) or "unknown", path=each.path)
                    for each in others
                ),
            )
            yield Finding(
                code="text.face-versions",
                level=Level.NOTE,
                items=(lettering.id,),
                box=set_lettering(lettering, workshop.shelf).ink(lettering.placement) or lettering.place,
                value=float(len(others) + 1),
                unit="versions",
                headline=say("{name} is here in {count} versions", name=taken.name, count=len(others) + 1),
                detail=say("version {value} is taken", value=version_of(taken) or say("unknown")),
                message=say(
                    "The word is set in version {value}, {path}. Also installed: {places}. Letters may differ "
                    "between versions; make sure that the design used this one.",
                    value=version_of(taken) or say("unknown"),
                    path=taken.path,
                    places=places,
                ),
            )
