"""Sheets at random: colours, layers, strokes, open lines, words and faces, mended and judged from outside.

`python -m tests.account.random_art COUNT [FIRST]` runs any number of them, and says which seeds went wrong.
"""

from __future__ import annotations

import math
import os
import random
import sys
from concurrent.futures import ProcessPoolExecutor
from dataclasses import replace
from functools import lru_cache

from fontTools.misc.transform import Transform

from tests.account.art import damage, held, mended, reasons_of, verdicts
from tests.builders import SHELF, circle, glyph_paths, ring, sheet
from unkelt.account.changes import Reason
from unkelt.geometry.path import concat, polygon
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import Group, Outline
from unkelt.verdict.judge import findings_of

COLOURS = ("#000000", "#0b5d4c", "#ff0000", "#ffcc00", "#0000ff", "#ffffff")
WORDS = ("Tern", "Sea", "quay", "Bo8", "o", "fi", "88", "Ålg")
FAMILIES = sorted({face.family for face in SHELF.faces})
ALLOWED = {
    Reason.COPY,
    Reason.INNER_LINES,
    Reason.SLIT,
    Reason.SCRAP,
    Reason.JOINED,
    Reason.SHARED_EDGE,
    Reason.EVENED,
    Reason.COUNTER,
}


@lru_cache(maxsize=512)
def _letters(text, family):
    return tuple(glyph_paths(text, family, 30))


def _word(rnd, few):
    """Of few words and faces where much is tried in little time: their letters are reduced once."""
    return _letters(rnd.choice(WORDS[:3] if few else WORDS), rnd.choice(FAMILIES[:3] if few else FAMILIES))


def _shape(rnd, few):
    kind = rnd.choice(["rect", "rect", "circle", "ring", "star", "letter", "two", "eight"])
    w, h = rnd.uniform(4, 40), rnd.uniform(4, 40)
    if kind == "rect":
        return polygon((0, 0), (w, 0), (w, h), (0, h))
    if kind == "circle":
        return circle(w / 2, w / 2, w / 2)
    if kind == "ring":
        made = ring(w / 2, w / 4, w / 2, w / 2)
        return made if rnd.random() < 0.7 else concat([circle(w / 2, w / 2, w / 2), circle(w / 4, w / 2, w / 2)])
    if kind == "star":
        turns = [2 * k * 2 * math.pi / 5 for k in range(5)]
        return polygon(*((w / 2 + w / 2 * math.cos(t), w / 2 + w / 2 * math.sin(t)) for t in turns))
    if kind == "letter":
        return rnd.choice(_word(rnd, few))
    if kind == "two":
        return concat([polygon((0, 0), (w, 0), (w, 8), (0, 8)), circle(5, w / 2, rnd.uniform(0, 20))])
    return polygon((0, 0), (w, h), (w, 0), (0, h))


def _look(rnd, colours):
    kind = rnd.random()
    fill, stroke, even = rnd.choice(colours), rnd.choice(colours), rnd.random() < 0.3
    opacity = 1.0 if rnd.random() < 0.85 else rnd.choice([0.25, 0.5])
    if kind < 0.5:
        return Appearance(fill=fill, even_odd=even, fill_opacity=opacity)
    if kind < 0.65:
        return Appearance(fill=None, stroke=stroke, stroke_width_mm=0.1)
    if kind < 0.8:
        width, join, cap = (
            rnd.choice([0.5, 1.0, 2.5]),
            rnd.choice(["miter", "round", "bevel"]),
            rnd.choice(["butt", "round", "square"]),
        )
        return Appearance(fill=None, stroke=stroke, stroke_width_mm=width, line_join=join, line_cap=cap)
    pale = 1.0 if rnd.random() < 0.8 else 0.4
    return Appearance(
        fill=fill,
        even_odd=even,
        fill_opacity=opacity,
        stroke=stroke,
        stroke_opacity=pale,
        opacity=1.0 if rnd.random() < 0.85 else 0.5,
        stroke_width_mm=rnd.choice([0.1, 1.0, 2.0]),
        stroke_below=rnd.random() < 0.3,
    )


def art(seed, most=6):
    """One sheet of up to so many things, the same for the same seed."""
    rnd, few = random.Random(seed), most < 4
    colours = rnd.sample(COLOURS, rnd.randint(1, 4))
    items = []
    for number in range(rnd.randint(2, most)):
        look, kind = _look(rnd, colours), rnd.random()
        if seed % 7 == 3 and look.stroke_width_mm >= 0.5:
            look = replace(look, dashes_mm=(3.0, 1.5, 0.5)[: 2 + number % 2], dash_offset_mm=float(number))
        place = Transform(1, 0, 0, 1, rnd.uniform(5, 100), rnd.uniform(5, 90))
        turn = rnd.uniform(0, 6.28) if rnd.random() < 0.15 else 0.0
        if not few:  # letters that are turned are reduced anew
            place = place.rotate(turn)
        name = f"i{number}"
        if kind < (0.1 if few else 0.2):
            place = Transform(1, 0, 0, 1, rnd.uniform(-15, 60), rnd.uniform(-140, -60))
            letters = _word(rnd, few)
            made = [Outline(f"{name}-{n}", path.transformed(place), look) for n, path in enumerate(letters)]
            items += [Group(name, tuple(made))] if rnd.random() < 0.5 else made
        elif kind < 0.32:
            corners = [(rnd.uniform(0, 50), rnd.uniform(0, 40)) for _ in range(rnd.randint(2, 5))]
            items.append(Outline(name, polygon(*corners, closed=False).transformed(place), look))
        elif kind < 0.42 and items and isinstance(items[-1], Outline):
            again = items[-1].path if rnd.random() < 0.6 else items[-1].path.transformed(Transform(1, 0, 0, 1, 1e-6, 0))
            items.append(Outline(name, again, look if rnd.random() < 0.5 else items[-1].look))
        elif kind < 0.52 and items and isinstance(items[-1], Outline):
            items.append(Outline(name, _shape(rnd, few).transformed(place), items[-1].look))
        else:
            items.append(Outline(name, _shape(rnd, few).transformed(place), look))
    return sheet(*items, page=(160, 140))


def objections(seed, most=6, every=5):
    """What went wrong with one sheet; empty where all that was received goes out. Of so many sheets one is released,
    too, and all verdicts on it must be one.
    """
    case = mended(art(seed, most))
    asked = seed % every == 0
    found = damage(case, pictures=asked or every == 5, pixels=seed % (every // 5) == 0)
    if more := reasons_of(case) - ALLOWED:
        found.append(f"declared: {more}")
    if "ink.lost" in held(findings_of(case)):
        found.append("ink.lost")
    if asked:
        job, checked, proven, released = verdicts(case)
        if not job == checked == proven == released:
            found.append(f"verdicts: {job} {checked} {proven} {released}")
    return found


def tried(seed):
    try:
        return seed, objections(seed)
    except Exception as problem:
        return seed, [f"{type(problem).__name__}: {problem}"]


def main(count, first=0):
    wrong = 0
    with ProcessPoolExecutor(os.cpu_count()) as pool:
        for seed, found in pool.map(tried, range(first, first + count), chunksize=8):
            if found:
                wrong += 1
                print(seed, *found, flush=True)
    print(f"{count} sheets, {wrong} went wrong")
    return wrong


if __name__ == "__main__":
    sys.exit(bool(main(*map(int, sys.argv[1:]))))
