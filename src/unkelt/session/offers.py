"""What a step's options may be chosen from, with pictures: the faces of the shelf, the letters of a text, their
forms.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from functools import cached_property

from fontTools.misc.transform import Identity, Transform

from unkelt.errors import StepRefused
from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.geometry.path import EMPTY, Path, concat
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Axis, Face, Shelf, axes_of
from unkelt.lettering.letters import forms
from unkelt.lettering.licence import licence_of
from unkelt.lettering.likeness import Likeness, nearest_faces
from unkelt.lettering.nearest import alone, by_nearness, in_face
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shaping import glyph_path
from unkelt.messages import listed, say
from unkelt.session.colours import Named, to_choose
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.change import leaves
from unkelt.sheet.model import FaceQuery, Lettering, Run, Sheet
from unkelt.sheet.naming import name_of
from unkelt.steps.lettering import axes_asked

SAMPLE = Lettering("sample", (Run("Hollin Quay", FaceQuery(()), 20.0, Appearance(fill="#000000"), at=(0.0, 0.0)),))
"""What faces are shown with where no text is chosen."""


PICTURED_SEGMENTS = 4000
"""What has more goes without a picture in a list: while one is drawn, the window can't answer."""


@dataclass(frozen=True, slots=True)
class Specimen:
    """The words in a face: their curves and box in mm, and a line of words on width and what is lacking."""

    path: Path
    box: Box
    words: str
    lacks: str


@dataclass(frozen=True, slots=True)
class Choice:
    """Something to choose by its picture: curves and their box, what it is called, and the option's value."""

    path: Path
    box: Box
    words: str
    value: str
    filled: bool = True


@dataclass(frozen=True)
class Offers:
    """For one text, or for a new one where `lettering` is None; for a step on the items `chosen` of a sheet, whose
    other items may be its second target.
    """

    shelf: Shelf
    lettering: Lettering | None = None
    sheet: Sheet | None = None
    ticket: Ticket = field(default_factory=Ticket)
    chosen: tuple[str, ...] = ()

    @cached_property
    def faces(self) -> list[Face]:
        """The faces, nearest first to the one that the text asks for, by their curves where its file draws it itself;
        in the order of the alphabet for a new text.
        """
        if self.lettering is None:
            return sorted(self.shelf.faces, key=lambda face: (face.family.casefold(), face.italic, face.weight))
        rest = by_nearness(self.lettering.runs[0].face, self.shelf)
        return [*self._alike, *(face for face in rest if face not in self._alike)]

    @property
    def own_family(self) -> str:
        """The family that the text is set in; empty where it isn't there."""
        face = self.shelf.match(self.lettering.runs[0].face) if self.lettering is not None else None
        return face.family if face is not None else ""

    @cached_property
    def _alike(self) -> dict[Face, Likeness]:
        """How far the likeliest faces lie from the letters that the file draws itself, the nearest first."""
        if self.lettering is None or not self.lettering.drawn:
            return {}
        return {likeness.face: likeness for likeness in nearest_faces(self.lettering, self.shelf)}

    @cached_property
    def _now_mm(self) -> float | None:
        """The width of the text as it is set; as its file says it where its face isn't there."""
        if self.lettering is None:
            return None
        setting = set_lettering(self.lettering, self.shelf)
        ink = setting.ink(Identity) if setting.complete else None
        return ink[2] - ink[0] if ink else self.lettering.length_mm

    def specimen(self, face: Face) -> Specimen:
        """The words of the text in a face, without its guide, at the text's own size."""
        text = self.lettering or SAMPLE
        first = replace(text.runs[0], text=text.text[:40], at=(0.0, 0.0), shift=(0.0, 0.0), each=None, baseline_mm=0.0)
        plain = replace(text, runs=(first,), guide=None, vertical=False, drawn=(), length_mm=None, placement=Identity)
        setting = set_lettering(in_face(plain, face), alone(face))
        path = concat([glyph.path() for glyph in setting.glyphs if glyph.glyph])
        box = bounds(path) or (0.0, 0.0, 1.0, 1.0)
        width = box[2] - box[0]
        words: list[str] = [say("{width:.1f} mm wide", width=width)]
        if self._now_mm:
            words.append(f"{100 * (width / self._now_mm - 1):+.0f} %".replace("-", "−"))
        if likeness := self._alike.get(face):
            words = [say("{off:.2f} mm off at most", off=likeness.farthest_mm)]
        if self.lettering is None or self.sheet is None:  # of words that have no size yet it says nothing
            words = []
        return Specimen(path, box, listed(", ", words), setting.missing_letters)

    def about(self, face: Face) -> str:
        """What the face says of its own use, for whoever wants to know before choosing it."""
        licence = licence_of(face)
        off = self._alike.get(face)
        letters = say("\nOff by: {letters}", letters=listed(" · ", off.words())) if off else ""
        if licence is None:
            return f"{face.name}: {face.path.name}{letters}"
        parts = [licence.description[:240] or "It says nothing of its licence.", licence.address]
        return say(
            "{name}\n{listed}\nEmbedding: {embedding}{letters}",
            letters=letters,
            name=face.name,
            listed=" ".join(filter(None, parts)),
            embedding=licence.embedding,
        )

    def axes(
        self, family: str, weight: str, places: str, *, italic: bool = False
    ) -> tuple[tuple[Axis, ...], dict[str, float]]:
        """The axes of the face that is asked for, or else of the text's own, and where on them it lies."""
        query = self.lettering.runs[0].face if self.lettering is not None else FaceQuery()
        if family:
            query = FaceQuery((family,), int(weight) if weight.isdigit() else 400, italic)
        elif weight.isdigit():
            query = replace(query, weight=int(weight))
        face = self.shelf.match(query)
        if face is None:
            return (), {}
        try:
            turned = dict(axes_asked("set-face", places))
        except StepRefused:
            turned = {}
        return axes_of(face), dict(face.axes) | turned

    def items(self) -> list[Choice]:
        """The outlines that aren't chosen, topmost first, each by the name that people see."""
        if self.sheet is None:
            return []
        mine = leaves(self.sheet, self.chosen)
        return [
            Choice(
                outline.path if len(outline.path.points) <= PICTURED_SEGMENTS else EMPTY,
                bounds(outline.path) or (0.0, 0.0, 1.0, 1.0),
                name_of(outline),
                outline.id,
                outline.look.fill is not None,
            )
            for outline in reversed(self.sheet.outlines())
            if outline.id not in mine
        ]

    def colours(self) -> list[Named]:
        """The colours that something may be given."""
        return to_choose(self.sheet, self.ticket) if self.sheet is not None else []

    def letters(self) -> list[Choice]:
        """The letters of the text, each with the number by which `set-letters` knows it."""
        if self.lettering is None:
            return []
        setting = set_lettering(self.lettering, self.shelf)
        shown = []
        for glyph in setting.glyphs:
            path = replace(glyph, turn=0.0).path()
            if glyph.letters.strip() and len(path):
                shown.append(Choice(path, bounds(path) or (0.0, 0.0, 1.0, 1.0), glyph.letters, str(glyph.first + 1)))
        return sorted(shown, key=lambda choice: int(choice.value))

    def forms(self, letters: str) -> list[Choice]:
        """The forms that the face has for the first of these letters."""
        digits = "".join(part for part in letters.replace("-", ",").split(",")[0] if part.isdigit())
        if self.lettering is None or not digits or int(digits) > len("".join(r.text for r in self.lettering.runs)):
            return []
        result = []
        for form in forms(self.lettering, int(digits) - 1, self.shelf):
            shapes = [glyph_path(form.face, glyph) for glyph in form.glyphs]
            path = concat([shape for shape in shapes if len(shape)]).transformed(Transform(1, 0, 0, -1, 0, 0))
            name = ", ".join(tag if value == 1 else f"{tag}={value}" for tag, value in form.features)
            words = listed(", ", [form_title(tag, value) for tag, value in form.features]) if name else "as it is"
            result.append(Choice(path, bounds(path) or (0.0, 0.0, 1.0, 1.0), words, name))
        return result


FORMS = {
    "aalt": "alternate",
    "c2sc": "small capital",
    "calt": "form in context",
    "case": "form for capitals",
    "dlig": "rare ligature",
    "fina": "final form",
    "hist": "historical form",
    "init": "initial form",
    "isol": "form alone",
    "liga": "ligature",
    "lnum": "lining figure",
    "medi": "middle form",
    "onum": "old-style figure",
    "ornm": "ornament",
    "salt": "alternate",
    "smcp": "small capital",
    "swsh": "swash",
    "titl": "form for titles",
    "zero": "slashed zero",
}
"""What features of a face give, for people (OpenType layout tag registry, in our words)."""


def form_title(tag: str, value: int) -> str:
    """A form by the feature that gives it: "swash", "alternate 3", "set 2", "without form in context"."""
    kind, number = tag[:2], tag[2:]
    title: str = FORMS.get(tag, tag)
    if kind in ("ss", "cv") and number.isdigit():
        words = "set {number}" if kind == "ss" else "variant {number}"
        title = say(words, number=int(number))
    if value == 0:
        return say("without {title}", title=title)
    return say("{title} {value}", title=title, value=value) if value > 1 else title


def words_alone(words: str) -> Lettering | None:
    """Words that stand on no sheet yet, to be seen in each face; None where there are none."""
    run = Run(words[:40], FaceQuery(("Barlow",)), 20.0, Appearance(fill="#000000"), at=(0.0, 0.0))
    return Lettering("words", (run,)) if words else None


def offers(sheet: Sheet, items: Sequence[str], workshop: Workshop) -> Offers:
    """For the first text among the items; for a new one where there is none."""
    texts = {each.id: each for each in reversed(sheet.letterings())}
    first = next((texts[name] for name in items if name in texts), None) if texts else None
    return Offers(workshop.shelf, first, sheet, workshop.ticket, tuple(items))


def common_box(choices: Sequence[Choice]) -> Box:
    """One box as high as all of them and as wide as the widest, so that pictures are to one scale."""
    box = join_boxes([choice.box for choice in choices]) or (0.0, 0.0, 1.0, 1.0)
    width = max((choice.box[2] - choice.box[0] for choice in choices), default=1.0)
    return 0.0, box[1], width, box[3]
