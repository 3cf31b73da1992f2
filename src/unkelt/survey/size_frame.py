"""`size.frame`"""

from __future__ import annotations

from collections.abc import Iterator

from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.messages import say
from unkelt.sheet.model import Sheet
from unkelt.survey.check import check
from unkelt.survey.finding import Finding, Level


@check("size.frame", may_hold=False)
def size_frame(sheet: Sheet, workshop: Workshop) -> Iterator[Finding]:
    """The size shown for live text is that of its frame. The size of the ink counts."""
    for lettering in sheet.letterings():
        setting = set_lettering(lettering, workshop.shelf)
        ink = setting.ink(lettering.placement)
        if ink is None or setting.frame is None or not setting.complete:
            continue
        frame = setting.frame
        frame_size = (frame[2] - frame[0], frame[3] - frame[1])
        ink_size = (ink[2] - ink[0], ink[3] - ink[1])
        yield Finding(
            code="size.frame",
            level=Level.NOTE,
            items=(lettering.id,),
            box=ink,
            value=ink_size[0],
            unit="mm",
            headline=say("Ink is {ink_size:.1f} × {ink_size_2:.1f} mm", ink_size=ink_size[0], ink_size_2=ink_size[1]),
            detail=say(
                "the frame shows {frame_size:.1f} × {frame_size_2:.1f} mm",
                frame_size=frame_size[0],
                frame_size_2=frame_size[1],
            ),
            message=say(
                "The text frame of {frame_size:.1f} × {frame_size_2:.1f} mm includes room for ascenders and "
                "descenders that this text doesn't have. The size of the ink counts.",
                frame_size=frame_size[0],
                frame_size_2=frame_size[1],
            ),
        )
