"""A shelf of 2,000 faces opened, and letters named among 300; beside fontconfig's list and bare HarfBuzz."""

from __future__ import annotations

import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
from fontTools.ttLib import TTFont

from benchmarks.timing import Row, best
from unkelt.lettering.faces import Shelf
from unkelt.lettering.identify import identify, joined_path
from unkelt.lettering.index import font_files, index
from unkelt.lettering.prints import prints_of
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shelves import bundled_faces
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Lettering, Run


def drawn_out(folder: Path, count: int) -> None:
    """Faces that differ from the bundled ones and from each other: widened, slanted, under names of their own."""
    random = np.random.default_rng(7)
    sources = [face.path for face in bundled_faces()]
    for number in range(count):
        font = TTFont(sources[number % len(sources)])
        wide, slant = random.uniform(0.75, 1.3), random.uniform(-0.2, 0.3)
        table = font["glyf"]
        for name in font.getGlyphOrder():
            glyph = table[name]
            if glyph.isComposite() or not glyph.numberOfContours:
                continue
            glyph.coordinates.transform(((wide, 0), (slant, 1)))
            glyph.coordinates.toInt()
        for tag in ("GSUB", "GPOS", "kern", "fpgm", "prep", "cvt "):
            if tag in font:
                del font[tag]
        for record in font["name"].names:
            if record.nameID in (1, 4, 6, 16):
                record.string = f"Bench{number:04d}"
        font.save(folder / f"bench-{number:04d}.ttf")


def named_copies(folder: Path, count: int) -> None:
    """Many small files: a face of some letters, under other names."""
    from fontTools.subset import Subsetter

    font = TTFont(bundled_faces()[0].path)
    small = Subsetter()
    small.populate(text="abcdefgh")
    small.subset(font)
    for number in range(count):
        for record in font["name"].names:
            if record.nameID in (1, 4, 6, 16):
                record.string = f"Bench{number:04d}"
        font.save(folder / f"bench-{number:04d}.ttf")


def wall(function: Callable[[], object]) -> float:
    """Seconds by the clock, for work that other processes do."""
    start = time.perf_counter()
    function()
    return time.perf_counter() - start


def rows() -> list[Row]:
    made = []
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        (folder / "many").mkdir()
        named_copies(folder / "many", 2000)
        files = font_files([folder / "many"])
        start = time.perf_counter()
        index(files, folder)
        first = time.perf_counter() - start
        scan = wall(
            lambda: subprocess.run(
                ["fc-scan", "--format", "%{family}", *map(str, files[:200])], capture_output=True, check=False
            )
        )
        made.append(Row("shelf, the first time", "2,000 files", first, "fc-scan, 200 of them, times 10", 10 * scan))
        bare = (
            "import uharfbuzz as hb, sys; [hb.Face(hb.Blob.from_file_path(each)).get_name(1) for each in sys.argv[1:]]"
        )
        opened = wall(lambda: subprocess.run([sys.executable, "-c", bare, *map(str, files)], check=True))
        made.append(
            Row(
                "shelf, the second time",
                "2,000 files",
                best(lambda: index(files, folder), 3),
                "HarfBuzz, names of all",
                opened,
            )
        )
        (folder / "other").mkdir()
        drawn_out(folder / "other", 300 - len(bundled_faces()))
        faces = (*bundled_faces(), *index(font_files([folder / "other"]), folder).faces)
        start = time.perf_counter()
        prints_of(faces, folder / "prints")
        first = time.perf_counter() - start
        made.append(Row("prints, the first time", "300 faces", first, "", 0.0))
        start = time.perf_counter()
        prints = prints_of(faces, folder / "prints")
        load = time.perf_counter() - start
        shelf = Shelf(faces)
        for words, family in (
            ("Kittiwake", "Pacifico"),
            ("Sea Thrift", "Dancing Script"),
            ("Hollin Quay 27", "Barlow"),
        ):
            run = Run(words, FaceQuery((family,)), 40.0, Appearance(fill="#000000"), at=(0.0, 0.0))
            setting = set_lettering(Lettering("one", (run,)), shelf)
            path, _ = joined_path([glyph.path() for glyph in setting.glyphs])
            assert identify(path, shelf, prints)[0].face.family == family
            seconds = best(lambda path=path: identify(path, shelf, prints), 3)
            made.append(Row(f"“{words}” named", "300 faces", seconds, "reading the prints", load))
    return made
