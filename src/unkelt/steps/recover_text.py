"""`recover-text`"""

from __future__ import annotations

import difflib
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Annotated

import numpy as np
from fontTools.misc.transform import Transform

from unkelt.account.changes import Reason
from unkelt.errors import StepRefused
from unkelt.geometry.distance import departure
from unkelt.geometry.flatten import lines as flat
from unkelt.geometry.path import Path, concat
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Face
from unkelt.lettering.identify import identify, joined_path, without
from unkelt.lettering.letters import Adjustment, adjusted, forms
from unkelt.lettering.matches import Letterform, Match, ordered, spaced, words
from unkelt.lettering.prints import kept_prints
from unkelt.lettering.setting import Glyph, set_lettering
from unkelt.messages import say
from unkelt.progress import Progress
from unkelt.sheet.model import Each, FaceQuery, Item, Lettering, Outline, Run, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import Field, On, Outcome, Purpose, step, targets

LEAST_SURE, LEAST_LETTERS = 0.5, 3
"""Letters that account for less than this share of the subpaths they touch are no answer; nor are fewer than so many,
unless they account for as much of all that is chosen.
"""

SAME_PLACE_MM = 0.01
"""A letter that the face's own spacing puts this near to where it stood is left to it."""


@dataclass(frozen=True, kw_only=True)
class Recovered(Evidence):
    """The face and words that outlines are, how sure that is (percent), and what else is as likely."""

    face: str
    words: str
    letters: int
    sure_percent: float
    subpaths_left: int
    as_well: str | None = None

    def caption(self) -> str:
        return f"“{self.words}” · {self.face}"

    def headline(self) -> Sequence[str]:
        return say("{face}, {sure_percent:.0f} % sure", face=self.face, sure_percent=self.sure_percent), say(
            "reads “{words}”", words=self.words
        )

    def proof_lines(self) -> tuple[str, ...]:
        return (*super().proof_lines(), *([say("as likely: {as_well}", as_well=self.as_well)] if self.as_well else []))


def _look_at_faces(workshop: Workshop, progress: Progress | None) -> None:
    """The prints of a whole shelf, which take long the first time."""
    kept_prints(workshop.shelf.faces, progress)


@step(
    "recover-text",
    "Identify the letters",
    on=On.OUTLINES,
    purpose=Purpose.LETTERING,
    redraws=Reason.LETTERING,
    prepare=_look_at_faces,
)
def recover_text(
    sheet: Sheet,
    items: tuple[str, ...],
    workshop: Workshop,
    *,
    text: Annotated[str, "the words, if some letters were not identified", Field("Words", first=True)] = "",
    family: Annotated[str, "another family than the most likely one", Field("Face")] = "",
) -> Outcome:
    """Finds the face of outlines among the installed faces, and sets the words as live text again, each letter in
    its old place. Outlines that are no letters of that face stay as they are.

    Unkelt knows letters by their curves: at any size, place, angle and noding, also mirrored, and also welded if
    half of each letter still shows. The evidence gives the certainty. Refused if no installed face matches, or if
    some letters were not identified and you give no words.
    """
    chosen: list[Outline] = targets("recover-text", sheet, items, Outline)
    path, origin = joined_path([outline.path for outline in chosen])
    matches = [match for match in identify(path, workshop.shelf) if _answers(match)]
    if family.strip():
        matches = [match for match in matches if match.face.family.casefold() == family.strip().casefold()]
    if not matches:
        whose = say(" of {text}", text=family.strip()) if family.strip() else " of any face on the shelf"
        raise StepRefused("recover-text", say("these are no letters{whose}", whose=whose))
    match = matches[0]
    if match.unclear and not text.strip():
        raise StepRefused(
            "recover-text",
            say(
                "these are letters of {name}, {sure:.0f} % sure, and read “{words}”, but not all could be made out; "
                "say the words in “text” to have them set",
                name=match.face.name,
                sure=100 * match.sure,
                words=words(match),
            ),
        )
    lead = chosen[int(origin[match.rings[0], 0])] if match.rings else chosen[0]
    said = text.strip() or words(match)
    lettering = _set(match, lead, sheet.fresh_id("lettering"), workshop, text.strip())
    changes: dict[str, tuple[Item, ...]] = {}
    for number, outline in enumerate(chosen):
        gone = [int(origin[ring, 1]) for ring in (*match.rings, *match.unclear) if origin[ring, 0] == number]
        rest = without(outline.path, gone) if gone else outline.path
        kept: tuple[Item, ...] = (replace(outline, path=rest),) if len(rest) else ()
        if gone:
            changes[outline.id] = kept
    placed: tuple[Item, ...] = (lettering,)
    changes[lead.id] = (*placed, *changes.get(lead.id, (lead,)))
    evidence = Recovered(
        face=match.face.name,
        words=said,
        letters=len(match.letters),
        sure_percent=round(100 * match.sure, 1),
        subpaths_left=int(len(path) - len(match.rings) - len(match.unclear)),
        max_deviation_mm=round(_off(match, lettering, path, workshop), 4),
    )
    if others := [other.face.name for other in matches[1:] if other.explained > 0.98 * match.explained]:
        evidence = replace(evidence, as_well=", ".join(others))
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


def _answers(match: Match) -> bool:
    return match.sure >= LEAST_SURE and (len(match.letters) >= LEAST_LETTERS or match.explained >= LEAST_SURE)


def _set(match: Match, lead: Outline, item_id: str, workshop: Workshop, text: str) -> Lettering:
    """Live text with every letter where it was found; letters that weren't made out stand where the face puts them."""
    lines = ordered(match)
    query = _query(match.face)
    em = float(np.median([form.em_mm for form in match.letters]))
    turn = float(np.angle(np.mean([np.exp(1j * form.turn) for line in lines for form in line])))
    cos, sin = math.cos(turn), math.sin(turn)
    first = lines[0][0].origin
    mirror = -1.0 if match.mirrored else 1.0
    placement = Transform(cos, sin, -mirror * sin, mirror * cos, first.real, first.imag)
    into = placement.inverse()
    look = replace(lead.look, even_odd=False)
    runs: list[Run] = []
    for line in [lines[0]] if text else lines:
        letters = spaced(match, line)
        wanted = text or "".join(part for _, part in letters)
        x, y = into.transformPoint((line[0].origin.real, line[0].origin.imag))
        runs.append(Run(wanted, query, em, look, at=(x, y)))
    plain = Lettering(item_id, tuple(runs), placement=placement)
    return _adjusted(_in_their_forms(plain, lines, workshop), match, lines, workshop)


def _in_their_forms(plain: Lettering, lines: list[list[Letterform]], workshop: Workshop) -> Lettering:
    """The text with the features under which its letters have the forms that were found."""
    before = 0
    for number, run in enumerate(plain.runs):
        stop = before + len(run.text)
        glyphs = [glyph for glyph in set_lettering(plain, workshop.shelf).glyphs if before <= glyph.first < stop]
        for glyph, form in _paired(lines[number], glyphs):
            if glyph.glyph == form.glyph:
                continue
            wanted = next((f for f in forms(plain, glyph.first, workshop.shelf) if f.glyphs[:1] == (form.glyph,)), None)
            if wanted is not None:
                plain = adjusted(plain, [glyph.first], Adjustment(features=wanted.features), workshop.shelf)
        before = stop
    return plain


def _adjusted(plain: Lettering, match: Match, lines: list[list[Letterform]], workshop: Workshop) -> Lettering:
    """The text with a shift and a turn for each letter that doesn't stand where the face's own spacing puts it."""
    glyphs: dict[int, Glyph] = {}
    for glyph in set_lettering(plain, workshop.shelf).glyphs:
        glyphs.setdefault(glyph.first, glyph)
    into = plain.placement.inverse()
    base = math.atan2(plain.placement.xy, plain.placement.xx)
    runs, before, number = [], 0, -1
    moved, pairs = 0j, []
    for run in plain.runs:
        if run.at != (None, None):  # a line of its own
            number, moved = number + 1, 0j
            pairs = _paired(lines[number], [glyph for first, glyph in glyphs.items() if first >= before])
        dx, dy, rotate = ([0.0] * len(run.text) for _ in range(3))
        for glyph, form in pairs:
            if not before <= glyph.first < before + len(run.text):
                continue
            found = complex(*into.transformPoint((form.origin.real, form.origin.imag)))
            offset = complex(*glyph.offset)
            turn = np.angle(np.exp(1j * (form.turn - base))) * (-1 if match.mirrored else 1)
            off = found - complex(glyph.x, glyph.y) - offset * np.exp(1j * turn) - moved
            if abs(off) > SAME_PLACE_MM:
                dx[glyph.first - before], dy[glyph.first - before] = float(off.real), float(off.imag)
                moved += off
            rotate[glyph.first - before] = math.degrees(turn) if abs(turn) > 1e-4 else 0.0
        each = Each(dx=tuple(dx), dy=tuple(dy), rotate=tuple(rotate))
        as_set = not any(dx) and not any(dy) and not any(rotate)
        runs.append(run if as_set else replace(run, each=each, shift=(dx[0], dy[0])))
        before += len(run.text)
    return replace(plain, runs=tuple(runs))


def _paired(line: list[Letterform], glyphs: list[Glyph]) -> list[tuple[Glyph, Letterform]]:
    """Glyphs of the set text with the letters found, in order, where they are the same glyph or stand for the same
    letters.
    """
    mine, theirs = [glyph for glyph in glyphs if glyph.letters.strip()], line
    blocks = difflib.SequenceMatcher(
        None, [glyph.letters.strip() for glyph in mine], [form.text for form in theirs], autojunk=False
    ).get_matching_blocks()
    return [(mine[block.a + k], theirs[block.b + k]) for block in blocks for k in range(block.size)]


def _query(face: Face) -> FaceQuery:
    stretch = "normal" if face.width == 100 else f"{face.width:g}%"
    return FaceQuery((face.family,), face.weight, face.italic, stretch)


def _off(match: Match, lettering: Lettering, path: Path, workshop: Workshop) -> float:
    """How far the outlines that were letters lie from the letters now set: what setting them again would move."""
    now = [shape for _, _, shape in set_lettering(lettering, workshop.shelf).letters(lettering.placement) if len(shape)]
    was = path.select(list(match.rings))
    if not now or not len(was):
        return match.off_mm
    chord = workshop.ticket.tolerance.chord_mm / 10
    return departure(flat(was, chord), flat(concat(now), chord))
