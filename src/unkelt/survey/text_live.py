"""`text.live`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.messages import say
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("text.live")
def text_live(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """Text that is not converted to outlines arrives blank or in another face."""
    for lettering in sheet.letterings():
        setting = set_lettering(lettering, workshop.shelf)
        message = "A machine has no faces. This word would arrive blank or in another face."
        if setting.off_guide:
            message += say(" {off_guide} of its letters find no room on their guide.", off_guide=setting.off_guide)
        lacking = bool(setting.missing_faces or setting.missing_letters)
        ready = setting.complete and not lettering.beyond
        if lettering.beyond:
            message += say(" It uses {listed}, which can't be set here yet.", listed=", ".join(lettering.beyond))
        yield Finding(
            code="text.live",
            level=Level.HOLD,
            items=(lettering.id,),
            box=setting.ink(lettering.placement) or lettering.place,
            value=float(len(lettering.text)),
            unit="characters",
            headline=say("“{text}” is live text", text=lettering.text.strip()),
            detail="would arrive blank or in another face",
            message=message,
            case="ready" if ready else "lacking" if lacking else "beyond",
        )
