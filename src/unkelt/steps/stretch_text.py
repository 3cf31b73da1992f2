"""`stretch-text`"""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.job.workshop import Workshop
from unkelt.lettering.letters import with_runs
from unkelt.sheet.model import Lettering, Sheet
from unkelt.steps.lettering import WhichLetters, named_letters, set_again
from unkelt.steps.step import Field, On, Outcome, Purpose, step

STEEPEST_DEG = 60.0
LEAST, MOST = 10.0, 1000.0


@step(
    "stretch-text",
    "Slant or stretch letters",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    redraws=Reason.LETTERING,
)
def stretch_text(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    letters: WhichLetters = "",
    slant: Annotated[
        float | None, "how far stems lean to the right; without it, as now", "angle", Field("Slant", first=True)
    ] = None,
    width: Annotated[
        float | None, "in percent of the face's own width; without it, as now", "number", Field("Width, %", first=True)
    ] = None,
) -> Outcome:
    """Slants or stretches live text, or single letters of it. The text stays live: words, face and size can still be
    changed.

    SVG has no words for it, so such text is saved as outlines.
    """
    if slant is not None and abs(slant) > STEEPEST_DEG:
        raise StepRefused("stretch-text", "letters can lean by at most 60°")
    if width is not None and not LEAST <= width <= MOST:
        raise StepRefused("stretch-text", "the width must be from 10 to 1000 percent")
    if slant is None and width is None:
        raise StepRefused("stretch-text", "neither slant nor width is given")

    def changed(text: Lettering) -> Lettering:
        which = named_letters("stretch-text", text, letters)
        new = replace(text, drawn=())
        if slant is not None:
            new = with_runs(new, which, lambda run: replace(run, slant_deg=slant))
        if width is not None:
            new = with_runs(new, which, lambda run: replace(run, width=width / 100))
        return new

    return set_again("stretch-text", sheet, items, workshop, changed)
