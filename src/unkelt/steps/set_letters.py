"""`set-letters`"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Annotated, Literal

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.job.workshop import Workshop
from unkelt.lettering.letters import Adjustment, adjusted, glyph_boxes, substitutions
from unkelt.lettering.setting import set_lettering
from unkelt.messages import say
from unkelt.sheet.model import Lettering, Sheet
from unkelt.steps.grip import Grip, Handle, Handles, InHand, written_mm
from unkelt.steps.lettering import WhichLetters, joins_opened, named_letters, saying, set_again
from unkelt.steps.step import Field, On, Outcome, Pictured, Purpose, step, targets

_ALWAYS = ("liga", "clig", "calt", "kern", "dlig", "hlig")
"""Features that may be asked for whether the face has them or not."""


def _this_letter(held: InHand) -> Handles:
    text = held.chosen[0]
    if not isinstance(text, Lettering):
        return Handles()
    boxes = {str(first + 1): box for _, first, box in glyph_boxes(text, held.workshop.shelf)}
    letter = boxes.get(str(held["letters"]).strip())
    if letter is None:
        return Handles()
    x, y = (letter[0] + letter[2]) / 2 + held["shift"], (letter[1] + letter[3]) / 2 - held["lift"]
    return Handles((Handle("letter", x, y, "this letter alone"),))


def _letter_dragged(held: InHand, handle: Handle, to: tuple[float, float], _along: Sequence[Handle]) -> dict[str, str]:
    dx, dy = to[0] - handle.x, to[1] - handle.y
    return {"shift": written_mm(held["shift"] + dx), "lift": written_mm(held["lift"] - dy)}


Ligatures = Literal["as now", "off", "on", "rare too"]
_LIGATURES: dict[Ligatures, tuple[tuple[str, int], ...]] = {
    "as now": (),
    "off": (("liga", 0), ("clig", 0), ("dlig", 0), ("hlig", 0)),
    "on": (("liga", 1), ("clig", 1)),
    "rare too": (("liga", 1), ("clig", 1), ("dlig", 1), ("hlig", 1)),
}
"""The features that switch ligatures (OpenType layout tag registry): usual, contextual, discretionary, historical."""


@step(
    "set-letters",
    "Kern, move or swap letters",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    redraws=Reason.LETTERING,
    grip=Grip(_this_letter, _letter_dragged),
)
def set_letters(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    letters: WhichLetters = "",
    features: Annotated[
        str, "features of the face, such as “ss01” or “swsh=2, liga=0”", Pictured("forms"), Field("Form", first=True)
    ] = "",
    ligatures: Annotated[
        Ligatures,
        "two letters drawn as one where the face has such: as now, off, on, or rare ones too",
        Field("Ligatures"),
    ] = "as now",
    kern: Annotated[float, "space before each letter; all later letters move along", Field("Kern", first=True)] = 0.0,
    shift: Annotated[float, "moves the letters along the line; later letters stay", Field("Shift along")] = 0.0,
    lift: Annotated[float, "raises the letters; negative lowers them", Field("Raise")] = 0.0,
    turn: Annotated[float, "turns each letter clockwise about the middle of its ink", "angle", Field("Turn")] = 0.0,
) -> Outcome:
    """Adjusts single letters of live text: kerns, shifts, raises or turns them, or uses another form from the face.
    Earlier adjustments stay, and new ones are added.

    The evidence says how many joins between letters are open now. Refused if the face has no such feature, or if the
    text doesn't have the named letter.
    """
    change = Adjustment(kern, shift, lift, turn, (*_LIGATURES[ligatures], *_features(features)))
    for lettering in targets("set-letters", sheet, items, Lettering):
        for run in dict.fromkeys(run.face for run in lettering.runs):
            face = workshop.shelf.match(run)
            known = {*substitutions(face), *_ALWAYS} if face else set()
            if face and (unknown := [tag for tag, _ in change.features if tag not in known]):
                raise StepRefused(
                    "set-letters", say("{name} has no feature “{unknown}”", name=face.name, unknown=unknown[0])
                )

    def changed(lettering: Lettering) -> Lettering:
        which = named_letters("set-letters", lettering, letters)
        return adjusted(lettering, which, change, workshop.shelf) if change != Adjustment() else lettering

    # A letter that is moved by itself moves no other.
    alone = bool(shift or lift or turn)
    outcome = set_again("set-letters", sheet, items, workshop, changed, keep_ink=not alone)
    swapped = 0
    for name in outcome.items:
        before, after = sheet.find(name), outcome.sheet.find(name)
        if isinstance(before, Lettering) and isinstance(after, Lettering):
            was, now = ([g.glyph for g in set_lettering(text, workshop.shelf).glyphs] for text in (before, after))
            swapped += sum(a != b for a, b in zip(was, now, strict=False)) + abs(len(was) - len(now))
    if change.features and not swapped and change == Adjustment(features=change.features):
        raise StepRefused("set-letters", say("“{features}” changes nothing in these letters", features=features))
    return saying(outcome, letters_swapped=swapped, joins_opened=joins_opened(sheet, outcome, workshop))


def _features(text: str) -> tuple[tuple[str, int], ...]:
    found = []
    for part in filter(None, re.split(r"[,\s]+", text)):
        match = re.fullmatch(r"([a-z0-9]{4})(?:=(\d+))?", part, re.IGNORECASE)
        if not match:
            raise StepRefused("set-letters", say("“{part}” is no feature such as “ss01” or “swsh=2”", part=part))
        found.append((match[1], int(match[2] or 1)))
    return tuple(found)
