"""Writes docs/conformance.md: W3C's SVG tests, read by us and drawn by an independent renderer, against the original.

    python docs/make_conformance.py FOLDER     a folder with W3C's SVG 1.1 test files

Each file is drawn twice by resvg: as it is, without its text; and as our Sheet, written plain. Text is compared
elsewhere (tests/lettering), and what a cutting machine has no use for (gradients, filters, masks) is listed apart.
"""

from __future__ import annotations

import re
import sys
from collections import defaultdict
from pathlib import Path

import numpy as np
import resvg_py
from lxml import etree
from PySide6.QtGui import QImage

from unkelt.errors import InputError
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.sheet.model import Lettering, Sheet

OUT_OF_SCOPE = (
    "animate",
    "color",
    "filters",
    "fonts",
    "interact",
    "linking",
    "masking",
    "metadata",
    "pservers",
    "script",
    "text",
    "extend",
    "conform",
)
REASONS = {
    "struct-cond-03": "SVG 2 takes requiredFeatures as always met; SVG 1.1 allows either answer here",
    "types-basic-02": "Unkelt accepts units in capitals in attributes, where the test wants it to ignore them",
    "painting-stroke-08": "a stroke and a fill of different opacity share one: importing knows no more",
}


def drawn(svg: bytes) -> np.ndarray:
    png = bytes(
        resvg_py.svg_to_bytes(svg_string=svg.decode(), width=480, dpi=96, skip_system_fonts=True, background="#ffffff")
    )
    image = QImage.fromData(png).convertToFormat(QImage.Format.Format_RGB888)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return rows[:, : 3 * image.width()].reshape(image.height(), image.width(), 3).astype(int)


def without_text(data: bytes) -> bytes:
    root = etree.fromstring(
        data, etree.XMLParser(resolve_entities=True, load_dtd=False, no_network=True, remove_comments=True)
    )
    for element in list(root.iter("{*}text", "{*}image", "{*}script", "{*}font", "{*}font-face")):
        element.getparent().remove(element)
    root.attrib.pop("onload", None)
    return etree.tostring(root)


def stripped(sheet: Sheet) -> Sheet:
    texts = {item.id: () for item in sheet.walk() if isinstance(item, Lettering)}
    return sheet.replaced(texts)


def compare(path: Path) -> tuple[str, str]:
    """Whether the two pictures agree, and how far: the share of pixels that differ by more than antialiasing does."""
    data = path.read_bytes()
    try:
        sheet = stripped(parse_svg(without_text(data), path.name))
        a, b = drawn(without_text(data)), drawn(write_svg(sheet))
    except (InputError, ValueError, etree.XMLSyntaxError) as problem:
        return "not compared", str(problem)[:110]
    if a.shape != b.shape:
        return "differs", f"sizes {a.shape[:2]} and {b.shape[:2]}"
    share = float((np.abs(a - b).max(axis=2) > 96).mean())
    effects = sorted({remark.code for remark in sheet.source.remarks if remark.code == "content.effect"})
    if share <= 5e-4:
        return "agrees", f"{share:.4%}"
    return ("effect reported" if effects else "differs"), f"{share:.3%} of pixels"


def main(folder: Path) -> None:
    rows: dict[str, list[tuple[str, str, str]]] = defaultdict(list)
    for path in sorted(folder.glob("*.svg")):
        chapter = re.match(r"[a-z]+", path.stem)
        rows[chapter[0] if chapter else "other"].append((path.stem, *compare(path)))
    lines = [
        "# Agreement with W3C's SVG tests",
        "",
        "`docs/make_conformance.py` makes this page. An independent renderer (resvg) draws each of W3C's SVG 1.1 test",
        "files twice, without text: as it is, and as Unkelt reads it.",
        "",
        "- *agree*: at most 0.05 % of the pixels differ by more than antialiasing does;",
        "- *effect reported*: the file uses something that Unkelt does not draw (a clip, a mask, a filter,",
        "  a gradient …). Unkelt reports it as a finding.",
        "",
        "| chapter | files | agree | effect reported | differ | not compared |",
        "| --- | --- | --- | --- | --- | --- |",
    ]
    for chapter, found in rows.items():
        counts = [
            sum(verdict == word for _, verdict, _ in found)
            for word in ("agrees", "effect reported", "differs", "not compared")
        ]
        lines.append(f"| {chapter} | {len(found)} | {' | '.join(map(str, counts))} |")
    lines += ["", "## Those that differ", "", "| file | by | why |", "| --- | --- | --- |"]
    for chapter, found in rows.items():
        for name, verdict, how in found:
            if verdict in ("differs", "not compared"):
                why = next((reason for start, reason in REASONS.items() if name.startswith(start)), "")
                why = why or ("out of scope for outlines" if chapter in OUT_OF_SCOPE else "")
                lines.append(f"| {name} | {how} | {why} |")
    (Path(__file__).parent / "conformance.md").write_text("\n".join([*lines, ""]), encoding="utf-8")
    print("\n".join(lines))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
