"""Reading path data and SVG files, beside the general-purpose libraries."""

from __future__ import annotations

import random
import re
import tracemalloc

import svgelements
from fontTools.pens.recordingPen import RecordingPen
from fontTools.svgLib.path import parse_path
from lxml import etree

from benchmarks.timing import Row, best
from unkelt.formats.svg.pathdata import parse_path_data
from unkelt.formats.svg.read import parse_svg

NUMBER = re.compile(r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?")


def curves(count: int, seed: int = 7) -> str:
    """One path of `count` relative cubics."""
    draw = random.Random(seed)
    numbers = " ".join
    parts = ["M100 100"]
    parts += ["c" + numbers(f"{draw.uniform(-5, 5):.3f}" for _ in range(6)) for _ in range(count)]
    return "".join(parts)


def rows() -> list[Row]:
    result = []
    for count in (1_000, 10_000, 100_000):
        d = curves(count)
        ours = best(lambda d=d: parse_path_data(d))
        raw_d = curves(min(count, 10_000))
        share = count / min(count, 10_000)  # the libraries grow linearly; they are not made to wait for
        result.append(
            Row(
                "path data",
                f"{count:,} segments",
                ours,
                "svgelements.Path",
                share * best(lambda d=raw_d: svgelements.Path(d), 1),
            )
        )
        result.append(
            Row(
                "path data",
                f"{count:,} segments",
                ours,
                "fontTools.svgLib",
                share * best(lambda d=raw_d: parse_path(d, RecordingPen()), 1),
            )
        )
    d = curves(1_000_000)
    result.append(
        Row(
            "path data",
            "1,000,000 segments",
            best(lambda: parse_path_data(d), 1),
            "str.split + float",
            best(lambda: [float(w) for w in d.replace("c", " ").replace("M", "").replace("-", " -").split()], 1),
        )
    )
    contents = {
        "4,000 × 51 segments": "".join(path(n, 50) for n in range(4_000)),
        "20,000 objects": "".join(
            f'<rect id="r{n}" x="{n % 100}" width="1" height="1" fill="#0b5d4c"/>' for n in range(20_000)
        ),
        "20,000 × 13 segments": "".join(path(n, 12) for n in range(20_000)),
        "1,000,000 segments": f'<path d="{d}"/>',
    }
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="1m" height="1m" viewBox="0 0 1000 1000">'
    for size, inside in contents.items():
        large = f"{head}{inside}</svg>".encode()
        ours, raw = best(lambda f=large: parse_svg(f), 1), best(lambda f=large: bare(f), 1)
        result.append(Row("SVG file", size, ours, "lxml + bare tokeniser", raw))
    tracemalloc.start()
    parse_svg(large)
    print(
        f"peak memory reading 1,000,000 segments: {tracemalloc.get_traced_memory()[1] / len(large):.1f} times the file"
    )
    tracemalloc.stop()
    return result


def path(number: int, count: int) -> str:
    return f'<path id="p{number}" fill="#0b5d4c" d="{curves(count, number)}z"/>'


def bare(data: bytes) -> None:
    """The least that any reader must do: the tree, and every number of every attribute taken apart and converted."""
    for element in etree.fromstring(data, etree.XMLParser(huge_tree=True)).iter():
        for value in element.attrib.values():
            [float(number) for number in NUMBER.findall(value)]
