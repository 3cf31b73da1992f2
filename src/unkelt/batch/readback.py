"""What was set for a line of a list, read back and compared with that line: the text as it stood, and its outlines' own
letters.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from unkelt.lettering.faces import Shelf
from unkelt.lettering.recognise import letter_by_letter
from unkelt.messages import say
from unkelt.recipe import Recipe, Stage
from unkelt.sheet.model import Lettering, Outline, Sheet

TEXT = "text"
"""The option that holds words, in every step that sets some."""


def asked_for(recipe: Recipe, filled: Recipe) -> list[str]:
    """The words that a recipe sets and takes from a list, as they are once a line of the list was put in."""
    pairs = [
        (call.options.get(TEXT), made.options.get(TEXT)) for call, made in zip(recipe.calls, filled.calls, strict=True)
    ]
    return [str(words) for asked, words in pairs if asked != words and words is not None]


def misread(asked: Sequence[str], original: Sheet, stages: Sequence[Stage], shelf: Shelf) -> str:
    """What doesn't say what it should, in a sentence; empty where all does.

    Words are looked for in the texts as they stood last: before they became outlines, or at the end. Where the face of
    such outlines is known, their letters are recognised and compared with the text.
    """
    sheets = [original, *(stage.outcome.sheet for stage in stages if stage.outcome)]
    texts: list[str] = []
    for before, after in zip(sheets, [*sheets[1:], None], strict=True):
        left = {text.id for text in after.letterings()} if after is not None else set()
        gone = [text for text in before.letterings() if text.id not in left]
        texts += [_squeezed(text.text) for text in gone]
        outlines = after.outlines() if after is not None else []
        for text in gone:
            if other := _read_otherwise(text, [o for o in outlines if o.origin is text], shelf):
                return say(
                    "its outlines read “{other}” where the text is “{text}”", other=other, text=text.text.strip()
                )
    for words in asked:
        if not _stands_in(_squeezed(words.replace(" | ", " ")), texts):
            return say("the list says “{words}”, and that is not what was set", words=words)
    return ""


def _squeezed(text: str) -> str:
    return "".join(text.split())


def _stands_in(words: str, texts: Sequence[str]) -> bool:
    """Whether words are one text, or several that follow each other."""
    for first in range(len(texts)):
        run = ""
        for text in texts[first:]:
            run += text
            if run == words:
                return True
            if not words.startswith(run):
                break
    return False


def _read_otherwise(text: Lettering, outlines: Sequence[Outline], shelf: Shelf) -> str:
    """What the outlines of a text read, where that can be told and is not the text. Letters that several shapes could
    be, or that the face has no character for, are taken at their word.
    """
    if text.drawn or not outlines:
        return ""
    told = [(outline.letters or "").strip() for outline in outlines]
    read = list(told)
    for run in dict.fromkeys(text.runs):
        face = shelf.match(run.face)
        if face is None:
            continue
        em = run.size_mm * math.sqrt(abs(text.placement.xx * text.placement.yy - text.placement.xy * text.placement.yx))
        for place, options in enumerate(letter_by_letter([outline.path for outline in outlines], face, em)):
            if options and told[place] not in options and read[place] == told[place]:
                read[place] = min(options)
            elif told[place] in options:
                told[place] = read[place] = ""  # one run's face says that it is as it should be
    if any(told) and read != told:
        return "".join(mine or (outline.letters or "") for mine, outline in zip(read, outlines, strict=True)).strip()
    said = "".join((outline.letters or "").strip() for outline in outlines)
    return "" if said == _squeezed(text.text) else said
