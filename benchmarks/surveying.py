"""The survey of a large sheet, with the share of each check."""

from __future__ import annotations

import time
from dataclasses import replace

import numpy as np
from fontTools.misc.transform import Transform

from benchmarks.timing import Row
from unkelt.geometry.cache import Cache, use
from unkelt.geometry.measure import find_boxes
from unkelt.geometry.path import CUBIC, Path, concat
from unkelt.geometry.region import regions
from unkelt.job.ticket import parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shelves import bundled_faces
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Group, Lettering, Outline, Run, Sheet
from unkelt.survey.checks import CHECKS

TICKET = '[machine]\nsmallest_stroke = "0.4 mm"\nsmallest_gap = "0.3 mm"\n[key]\ncut = ["#000000"]'
NAMES = ("Kittiwake", "Sandpiper", "Bobolink", "Guillemot", "Sea Thrift", "Hollin Quay", "Oystercatcher", "Dunlin")


def sheet(outlines: int) -> Sheet:
    """Words in rows, every letter an outline of some forty segments."""
    shelf = Shelf(bundled_faces())
    groups, count, row = [], 0, 0
    while count < outlines:
        word = NAMES[row % len(NAMES)]
        query = FaceQuery((("Pacifico", "Dancing Script", "Sacramento")[row % 3],))
        lettering = Lettering("w", (Run(word, query, 40, Appearance(), at=(0, 0)),))
        shift = Transform(1, 0, 0, 1, 20 + 260 * (row % 8), 60 + 60 * (row // 8))
        letters = [glyph.path().transformed(shift) for glyph in set_lettering(lettering, shelf).glyphs]
        made = [Outline(f"{row}-{i}", path, Appearance()) for i, path in enumerate(letters) if len(path)]
        groups.append(Group(f"word-{row}", tuple(made)))
        count, row = count + len(made), row + 1
    return Sheet((2200.0, 100.0 + 60 * (row // 8 + 1)), tuple(groups))


def shapes(count: int) -> Sheet:
    """Shapes of forty curves that all differ, beside each other."""
    random = np.random.default_rng(1)
    columns, made = int(np.sqrt(count) * 1.4), []
    for index in range(count):
        angle = np.linspace(0, 2 * np.pi, 41)
        radius = 8 * (1 + 0.2 * np.cos(random.integers(2, 6) * angle + random.uniform(0, 6))) + random.normal(
            0, 0.02, 41
        )
        radius[-1] = radius[0]
        x, y = index % columns * 25 + 15, index // columns * 25 + 15
        nodes = np.stack([x + radius * np.cos(angle), y + radius * np.sin(angle)], 1)
        nodes[-1] = nodes[0]
        way = (np.roll(nodes[:-1], -1, 0) - np.roll(nodes[:-1], 1, 0)) / 6
        way = np.concatenate([way, way[:1]])
        points = np.stack([nodes[:-1], nodes[:-1] + way[:-1], nodes[1:] - way[1:], nodes[1:]], 1)
        path = Path(points, np.full(40, CUBIC, np.uint8), np.zeros(1, np.intp), np.array([True]))
        made.append(Outline(f"shape-{index}", path, Appearance(fill="#000000")))
    return Sheet((columns * 25 + 30.0, columns * 25 + 30.0), tuple(made))


def rows() -> list[Row]:
    return [surveyed(sheet(300)), surveyed(sheet(1200)), surveyed(shapes(5000), ""), surveyed(shapes(5000))]


def surveyed(large: Sheet, ticket: str = TICKET) -> Row:
    segments = len(concat([outline.path for outline in large.outlines()]).points)
    workshop = Workshop(parse_ticket(ticket), Shelf(bundled_faces()))
    use(Cache())
    start = time.process_time()
    outlines = large.outlines()
    find_boxes([outline.path for outline in outlines])
    regions([(each.path, each.look.even_odd) for each in outlines], workshop.ticket.tolerance.chord_mm / 2)
    total = time.process_time() - start
    shares = [(total, "rings and boxes")]
    for check in CHECKS:
        start = time.process_time()
        list(check.look(large, workshop))
        spent = time.process_time() - start
        total += spent
        shares.append((spent, ", ".join(check.codes)))
    for spent, codes in sorted(shares, reverse=True)[:12]:
        print(f"  {spent:6.2f} s  {codes}")
    again = replace(large, items=large.items)
    start = time.process_time()
    for check in CHECKS:
        list(check.look(again, workshop))
    print(f"  {time.process_time() - start:6.2f} s  the same again")
    return Row(
        "survey" + (", with a ticket" if ticket else ""),
        f"{segments:,} segments in {len(large.outlines()):,} outlines",
        total,
        "(no other)",
        float("nan"),
    )
