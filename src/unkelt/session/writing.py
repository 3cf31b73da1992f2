"""Words as they are being typed on the table: which step they become, and where they stand meanwhile."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from unkelt.job.extent import measured_box
from unkelt.job.workshop import Workshop
from unkelt.lettering.setting import set_lettering
from unkelt.recipe import Call
from unkelt.sheet.model import Lettering, Sheet
from unkelt.steps.grip import written_mm
from unkelt.steps.lettering import line_texts

STANDARD_FACE = "Barlow"
DESCENT = 0.35
"""How far letters reach below their line, about, as a share of their size: the words are typed beneath that."""
USUAL_MM = 20.0
"""The height of capitals of the first words on a sheet."""


@dataclass(frozen=True, slots=True)
class Writing:
    """`step` takes the words with these options, on these items; `words` are those that are there already, `below` the
    place (mm) under which they are typed.
    """

    step: str
    items: tuple[str, ...]
    options: Mapping[str, object]
    words: str
    below: tuple[float, float]

    def call(self, words: str) -> Call:
        """The step with what is typed."""
        return Call(self.step, self.items, None, {"text": words, **self.options})

    def at(self, x: float, y: float) -> Writing:
        """New words that begin at another place (mm); words that are there stay where they are."""
        if self.items:
            return self
        options = {**self.options, "x": written_mm(x), "y": written_mm(y)}
        return replace(self, options=options, below=(x, y))


def begun(sheet: Sheet, workshop: Workshop) -> Writing:
    """New words: in the face, weight, size and colour of the last text on the sheet, else in a plain one; beneath what
    is there, else in the middle of the page.
    """
    texts = sheet.letterings()
    options: dict[str, object] = {"family": STANDARD_FACE}
    if texts:
        run = texts[-1].runs[0]
        face = workshop.shelf.match(run.face)
        if face is not None:
            options = {"family": face.family}
            options |= {"weight": face.weight} if face.weight != 400 else {}
            options |= {"italic": True} if face.italic else {}
        options["height"], options["of"] = f"{run.size_mm:g} mm", "em"
        if run.look.colour and run.look.colour != "#000000":
            options["colour"] = run.look.colour
    else:
        cut = next(iter(workshop.ticket.key), None)
        options |= {"colour": cut} if cut else {}
    width, height = sheet.page_mm
    boxes = [ink for text in texts if (ink := set_lettering(text, workshop.shelf).ink(text.placement))]
    box = measured_box(sheet, workshop.ticket)
    lowest = max([each[3] for each in [*boxes, *([box] if box else [])]], default=None)
    if lowest is None:
        return Writing("add-lettering", (), options, "", (width / 2, height / 2 + USUAL_MM / 2))
    size = texts[-1].runs[0].size_mm if texts else USUAL_MM
    y = lowest + 1.2 * size
    if y > height:  # no room beneath: the middle, where the person moves it from
        return Writing("add-lettering", (), options, "", (width / 2, height / 2))
    return Writing("add-lettering", (), {**options, "y": written_mm(y)}, "", (width / 2, y + DESCENT * size))


def corrected(sheet: Sheet, workshop: Workshop, item: str) -> Writing | None:
    """The words of live text, each line parted by a bar; None where it is no text."""
    text = sheet.find(item)
    if not isinstance(text, Lettering):
        return None
    ink = set_lettering(text, workshop.shelf).ink(text.placement) or text.place
    words = " | ".join(line_texts(text)) if text.guide is None and not text.vertical else text.text
    return Writing("set-text", (item,), {}, words, ((ink[0] + ink[2]) / 2, ink[3]))
