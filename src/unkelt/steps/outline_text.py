"""`outline-text`"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from unkelt.errors import GeometryRefused, StepRefused
from unkelt.geometry.boolean.engine import Operand
from unkelt.geometry.boolean.weld import crosses_itself, operand_regions, weld
from unkelt.geometry.path import Path
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import version_of
from unkelt.lettering.setting import Setting, set_lettering
from unkelt.messages import say
from unkelt.sheet.model import Group, Item, Lettering, Outline, Run, Sheet
from unkelt.steps.evidence import Evidence
from unkelt.steps.step import On, Outcome, Purpose, step, targets
from unkelt.survey.text_missing import describe
from unkelt.tolerance import Tolerance


@dataclass(frozen=True, kw_only=True)
class Outlined(Evidence):
    """Texts that became outlines with so many nodes, and their faces."""

    texts: int
    outlines_after: int
    nodes_after: int
    face: str

    def caption(self) -> str:
        return say("{outlines_after} outlines · {face}", outlines_after=self.outlines_after, face=self.face)

    def headline(self) -> Sequence[str]:
        return (say("Curves as designed: {face}", face=self.face),)


@step(
    "outline-text",
    "Turn into outlines",
    on=On.TEXT,
    purpose=Purpose.LETTERING,
    likely=On.TEXT,
    safe=True,
)
def outline_text(sheet: Sheet, items: tuple[str, ...], workshop: Workshop) -> Outcome:
    """Turns live text into outlines: the exact curves of the face, one outline a glyph. Overlaps within a glyph are
    merged.

    The outlines form a group with the text's id. Several words form a group each. The outlines remember their text.
    Refused if the face or a character is missing, or if the text uses a setting that Unkelt doesn't understand:
    nothing is replaced silently.
    """
    chosen: list[Lettering] = targets("outline-text", sheet, items, Lettering)
    changes: dict[str, tuple[Item, ...]] = {}
    taken = {item.id for item in sheet.walk()}
    faces: dict[str, None] = {}
    glyphs = nodes = 0
    moved = 0.0
    for lettering in chosen:
        setting = _set(lettering, workshop)
        outlines: list[Outline] = []
        words: list[list[Outline]] = [[]]
        faces |= {f"{glyph.face.name} {version_of(glyph.face)}".strip(): None for glyph in setting.glyphs}
        faces |= {"as embedded in the file": None} if setting.drawn else {}
        line: Run | None = None
        placed = setting.letters(lettering.placement)
        operand_regions([Operand(path) for _, _, path in placed if len(path)], workshop.tolerance)  # all at once
        for letters, run, path in placed:
            if letters and run is not line and run is not None and run.at[1] is not None:
                words.append([])  # a new line
            line = run if letters else line
            if not len(path):
                if letters.isspace():
                    words.append([])
                continue
            path, off = _own_overlaps_merged(path, workshop.tolerance)
            moved = max(moved, off)
            name = _free(f"{lettering.id}-{len(outlines) + 1}", taken)
            look = replace((run or lettering.runs[0]).look, even_odd=False)  # faces draw by the nonzero rule
            outlines.append(Outline(name, path, look, letters or None, lettering, letters, reads=lettering.reads))
            words[-1].append(outlines[-1])
            nodes += path.node_count
        glyphs += len(outlines)
        inside = _by_word(lettering.id, [word for word in words if word], taken)
        changes[lettering.id] = (Group(lettering.id, inside, lettering.text.strip()),) if outlines else ()
    evidence = Outlined(
        texts=len(chosen),
        outlines_after=glyphs,
        nodes_after=nodes,
        face=", ".join(faces),
        max_deviation_mm=round(moved, 5),
    )
    return Outcome(sheet.replaced(changes), tuple(changes), evidence)


def _set(lettering: Lettering, workshop: Workshop) -> Setting:
    """The text as it is set. Raises StepRefused where anything of it can't be."""
    setting = set_lettering(lettering, workshop.shelf)
    why = ""
    bent = lettering.vertical or lettering.guide is not None
    beyond = list(lettering.beyond)
    if bent and any(run.decoration for run in lettering.runs):
        beyond.append("text-decoration on a curved or upright line")
    if beyond:
        why = say("“{text}” uses {listed}, not understood yet", text=lettering.text, listed=", ".join(beyond))
    elif setting.missing_faces:
        why = say("{describe}; nothing is put in its place", describe=describe(setting.missing_faces[0].face))
    elif setting.missing_letters:
        why = say("the face has no “{missing_letters}”", missing_letters=setting.missing_letters)
    elif setting.off_guide:
        why = say(
            "{off_guide} letters of “{text}” find no room on their guide",
            off_guide=setting.off_guide,
            text=lettering.text,
        )
    if why:
        raise StepRefused("outline-text", why)
    return setting


def _by_word(item_id: str, words: list[list[Outline]], taken: set[str]) -> tuple[Item, ...]:
    """The letters, in a group for each word where there are several."""
    if len(words) < 2:
        return tuple(outline for word in words for outline in word)
    named = [(word, "".join(outline.letters for outline in word)) for word in words]
    return tuple(
        Group(_free(f"{item_id}-word-{n}", taken), tuple(word), said) for n, (word, said) in enumerate(named, 1)
    )


def _own_overlaps_merged(path: Path, tolerance: Tolerance) -> tuple[Path, float]:
    """A few faces, variable ones above all, draw a letter in parts that cross. As drawn where no merging can be proven.
    With how far a line may have moved, in mm.
    """
    operand = Operand(path)
    if not crosses_itself(operand, tolerance):
        return path, 0.0
    try:
        merged, proof = weld([operand], tolerance)
        return merged, proof.max_deviation_mm
    except GeometryRefused:
        return path, 0.0


def _free(name: str, taken: set[str]) -> str:
    while name in taken:
        name += "x"
    taken.add(name)
    return name
