"""Single letters of a text: kerned by hand, shifted, raised, turned, switched to another form; and sizes by what is
seen.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Collection, Iterable, Iterator
from dataclasses import dataclass, replace
from typing import Literal

from unkelt.geometry.measure import Box, bounds, join_boxes
from unkelt.lettering.faces import Face, Shelf, open_face
from unkelt.lettering.setting import Glyph, capital_share, set_lettering, x_height_share
from unkelt.lettering.shaping import glyph_path, spelled_out
from unkelt.messages import say
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Each, Lettering, Run

HeightOf = Literal["capitals", "x-height", "ink", "em"]


@dataclass(frozen=True, slots=True)
class Adjustment:
    """What is done to one letter; lengths in mm, the angle in degrees clockwise.

    `kern` moves it and all that follow; `shift` and `raised` move it alone, along the line and up from it.
    """

    kern: float = 0.0
    shift: float = 0.0
    raised: float = 0.0
    turn: float = 0.0
    features: tuple[tuple[str, int], ...] = ()


def adjusted(lettering: Lettering, which: Iterable[int], change: Adjustment, shelf: Shelf) -> Lettering:
    """The characters at these places, counted from 0, adjusted. A ligature is adjusted as one letter.

    A letter turns about the middle of its ink.
    """
    glyphs = _leading(set_lettering(lettering, shelf).glyphs)
    firsts = sorted(glyphs)
    runs, before = [], 0
    wanted = {max((first for first in firsts if first <= place), default=place) for place in which}
    moves: dict[int, list[float]] = {}
    for place in wanted:
        after = next((first for first in firsts if first > place), None)
        dx, dy = _turned(glyphs[place], change.turn) if place in glyphs else (0.0, 0.0)
        dx, dy = dx + change.shift, dy - change.raised
        _add(moves, place, dx + change.kern, dy, change.turn)
        if after is not None:  # what follows stays where it was
            _add(moves, after, -dx, -dy, 0.0)
    for run in spelled_out(lettering).runs:
        places = range(before, before + len(run.text))
        before += len(run.text)
        assert run.each is not None
        added = [moves.get(place, [0.0, 0.0, 0.0]) for place in places]
        each = Each(
            dx=tuple(was + more[0] for was, more in zip(run.each.dx, added, strict=True)),
            dy=tuple(was + more[1] for was, more in zip(run.each.dy, added, strict=True)),
            rotate=tuple(was + more[2] for was, more in zip(run.each.rotate, added, strict=True)),
        )
        runs += list(_switched(replace(run, each=each, shift=(each.dx[0], each.dy[0])), places, wanted, change))
    return replace(lettering, runs=tuple(runs), drawn=())


def _leading(glyphs: Iterable[Glyph]) -> dict[int, Glyph]:
    """The first glyph of each cluster by the place of its first character."""
    table: dict[int, Glyph] = {}
    for glyph in glyphs:
        table.setdefault(glyph.first, glyph)
    return table


def _add(moves: dict[int, list[float]], place: int, dx: float, dy: float, turn: float) -> None:
    was = moves.setdefault(place, [0.0, 0.0, 0.0])
    was[0], was[1], was[2] = was[0] + dx, was[1] + dy, was[2] + turn


def _turned(glyph: Glyph, turn_deg: float) -> tuple[float, float]:
    """How far a glyph has to move for a turn about its origin to become one about the middle of its ink."""
    box = bounds(glyph_path(glyph.face, glyph.glyph))
    if not turn_deg or box is None:
        return 0.0, 0.0
    x, y = (box[0] + box[2]) / 2 * glyph.scale, -(box[1] + box[3]) / 2 * glyph.scale
    x, y = x * glyph.stretch - y * glyph.up[0], y * glyph.up[1]
    was, turn = glyph.turn, math.radians(turn_deg)
    middle = [x * math.cos(a) - y * math.sin(a) + 1j * (x * math.sin(a) + y * math.cos(a)) for a in (was, was + turn)]
    move = complex(middle[0] - middle[1])
    return move.real, move.imag


def _switched(run: Run, places: range, wanted: set[int], change: Adjustment) -> Iterator[Run]:
    """The run, parted round the letters whose features are switched."""
    if not change.features or run.each is None:
        yield run
        return
    for part, inside in _parted(run, places, wanted):
        features = dict(run.features) | (dict(change.features) if inside else {})
        yield replace(part, features=tuple(features.items()))


def _parted(run: Run, places: range, wanted: Collection[int]) -> Iterator[tuple[Run, bool]]:
    """A run that is spelled out, parted where its letters are wanted or not, each part with whether it is."""
    each = run.each
    assert each is not None
    start = 0
    for stop in range(1, len(places) + 1):
        if stop < len(places) and (places[stop] in wanted) == (places[start] in wanted):
            continue
        part = Each(dx=each.dx[start:stop], dy=each.dy[start:stop], rotate=each.rotate[start:stop])
        at = run.at if start == 0 else (None, None)
        cut = replace(run, text=run.text[start:stop], at=at, shift=(part.dx[0], part.dy[0]), each=part)
        yield cut, places[start] in wanted
        start = stop


def places_named(text: str, count: int) -> list[int]:
    """“2-4, 7” as places of a text of `count` characters, counted from 0; all of them where it is empty.

    Raises ValueError, in words for people.
    """
    if not text.strip():
        return list(range(count))
    places: list[int] = []
    for part in text.split(","):
        match = re.fullmatch(r"\s*(\d+)\s*(?:[-–]\s*(\d+)\s*)?", part)
        if not match:
            raise ValueError(say("“{text}” is no letter's number, such as “3” or “2-4”", text=part.strip()))
        first, last = int(match[1]), int(match[2] or match[1])
        if not 1 <= first <= last <= count:
            raise ValueError(say("the text has the letters 1 to {count}, not {text}", count=count, text=part.strip()))
        places += range(first - 1, last)
    return places


def with_look(lettering: Lettering, which: Collection[int], change: Callable[[Appearance], Appearance]) -> Lettering:
    """The text with the look of the characters at these places, counted from 0, changed. No letter moves."""
    return with_runs(lettering, which, lambda run: replace(run, look=change(run.look)))


def with_runs(lettering: Lettering, which: Collection[int], change: Callable[[Run], Run]) -> Lettering:
    """The text with the runs of the characters at these places, counted from 0, changed; runs are parted for it."""
    whole = sum(len(run.text) for run in lettering.runs)
    if len(set(which)) == whole:
        return replace(lettering, runs=tuple(change(run) for run in lettering.runs))
    runs, before = [], 0
    for run in spelled_out(lettering).runs:
        places = range(before, before + len(run.text))
        before += len(run.text)
        runs += [change(part) if inside else part for part, inside in _parted(run, places, which)]
    return replace(lettering, runs=tuple(runs))


def size_for(
    lettering: Lettering, height_mm: float, of: HeightOf, shelf: Shelf, which: Collection[int] | None = None
) -> float | None:
    """The size, in mm to the em, at which capitals, x-height or the ink of the whole text, or of the characters at some
    places, have a height on the sheet.

    None where the face is not there or has no such letter. The ink's height follows the size in proportion, since all
    positions of a plain text do; the caller measures what came out.
    """
    run, m = _run_at(lettering, min(which) if which else 0), lettering.placement
    scale = math.sqrt(abs(m.xx * m.yy - m.xy * m.yx))
    face = shelf.match(run.face)
    if face is None or not scale:
        return None
    if of == "em":
        return height_mm / scale
    if of == "ink":
        inks = [box for _, place, box in glyph_boxes(lettering, shelf) if box and (which is None or place in which)]
        ink = join_boxes(inks)
        height = ink[3] - ink[1] if ink else 0.0
        return run.size_mm * height_mm / height if height else None
    share = capital_share(face) if of == "capitals" else x_height_share(face)
    return height_mm / scale / share if share else None


def _run_at(lettering: Lettering, place: int) -> Run:
    """The run of the character at a place."""
    for run in lettering.runs:
        if place < len(run.text):
            return run
        place -= len(run.text)
    return lettering.runs[-1]


def scaled(lettering: Lettering, factor: float) -> Lettering:
    """The text with its size, and every distance that was given with it, times a factor; its start stays."""
    x0, y0 = lettering.runs[0].at

    def coordinate(value: float | None, start: float | None) -> float | None:
        return value if value is None or start is None else start + (value - start) * factor

    runs = []
    for run in spelled_out(lettering).runs:
        assert run.each is not None
        each = Each(
            dx=tuple(value * factor for value in run.each.dx),
            dy=tuple(value * factor for value in run.each.dy),
            rotate=run.each.rotate,
        )
        runs.append(
            replace(
                run,
                size_mm=run.size_mm * factor,
                capitals_mm=None,
                at=(coordinate(run.at[0], x0), coordinate(run.at[1], y0)),
                shift=(each.dx[0], each.dy[0]),
                each=each,
                letter_spacing_mm=run.letter_spacing_mm * factor,
                word_spacing_mm=run.word_spacing_mm * factor,
                baseline_mm=run.baseline_mm * factor if lettering.guide is None else run.baseline_mm,
            )
        )
    length = lettering.length_mm * factor if lettering.length_mm is not None else None
    return replace(lettering, runs=tuple(runs), drawn=(), length_mm=length)


def glyph_boxes(lettering: Lettering, shelf: Shelf) -> list[tuple[str, int, Box | None]]:
    """Each letter with the place of its first character, counted from 0, and the box of its ink on the sheet."""
    setting = set_lettering(lettering, shelf)
    return [
        (glyph.letters, glyph.first, bounds(glyph.path().transformed(lettering.placement)))
        for glyph in setting.glyphs
        if glyph.letters.strip()
    ]


@dataclass(frozen=True, slots=True)
class Form:
    """Another form of a letter: the features that give it, and its curves in font units, y up."""

    features: tuple[tuple[str, int], ...]
    face: Face
    glyphs: tuple[int, ...]


QUIET = frozenset(
    ["ccmp", "locl", "rlig", "mark", "mkmk", "kern", "liga", "clig", "calt", "rclt", "vert", "vrt2", "cpsp"]
)
"""Features that are on by themselves, or that move letters only."""

ON_BY_THEMSELVES = ("liga", "clig", "calt")
"""Of these, the ones that a person may switch off."""

LAST = "aalt"
"""All alternates: whatever no other feature gives."""

OF_THE_SCRIPT = 0xFFFF
"""Where OpenType's tables are asked for a language: the script's default."""

MOST_FORMS = 40


def forms(lettering: Lettering, place: int, shelf: Shelf) -> list[Form]:
    """The forms that the face has for the letter at a place, counted from 0: as it stands first, then what each feature
    of its substitution table gives in this very word; a form that looks like an earlier one is left out.
    """
    glyphs = [glyph for glyph in set_lettering(lettering, shelf).glyphs if glyph.first <= place]
    if not glyphs:
        return []
    first = max(glyph.first for glyph in glyphs)
    stands = next(glyph for glyph in glyphs if glyph.first == first)
    found = {glyphs_at(lettering, first, shelf): Form((), stands.face, glyphs_at(lettering, first, shelf))}
    plain = adjusted(
        lettering, [first], Adjustment(features=tuple((tag, 0) for tag, _ in _of(lettering, first))), shelf
    )
    unswitched = glyphs_at(plain, first, shelf)
    tries = [[(tag, 0)] for tag in ON_BY_THEMSELVES]
    tries += [[(tag, value) for value in range(1, MOST_FORMS)] for tag in substitutions(stands.face)]
    for values in tries:
        for feature in values:
            made = glyphs_at(adjusted(plain, [first], Adjustment(features=(feature,)), shelf), first, shelf)
            if made == unswitched or not made or len(found) >= MOST_FORMS:
                break  # the face has no more of these
            found.setdefault(made, Form((feature,), stands.face, made))
    return list(found.values())


def glyphs_at(lettering: Lettering, place: int, shelf: Shelf) -> tuple[int, ...]:
    """The glyphs that stand for the character at a place."""
    return tuple(glyph.glyph for glyph in set_lettering(lettering, shelf).glyphs if glyph.first == place)


def glyphs_between(lettering: Lettering, begin: int, end: int, shelf: Shelf) -> tuple[int, ...]:
    """The glyphs that stand for the characters from one place up to another."""
    return tuple(glyph.glyph for glyph in set_lettering(lettering, shelf).glyphs if begin <= glyph.first < end)


def _of(lettering: Lettering, place: int) -> tuple[tuple[str, int], ...]:
    return _run_at(lettering, place).features


def substitutions(face: Face) -> list[str]:
    """The features of a face's substitution table that a person may switch, in the order of the alphabet."""
    font = open_face(face).face
    tags: set[str] = set()
    for script in range(len(font.get_table_script_tags("GSUB"))):
        languages = len(font.get_script_language_tags("GSUB", script))
        for language in (*range(languages), OF_THE_SCRIPT):
            tags.update(font.get_language_feature_tags("GSUB", script, language))
    return sorted(tags - QUIET - {LAST}) + ([LAST] if LAST in tags else [])
