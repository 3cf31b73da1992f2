"""Draws what the jobs of the guide start from and what comes of them: `docs/guide/pictures/NAME.svg`.

Run it after a demonstration job or its recipe was changed: `python docs/make_guide_pictures.py`.
"""

from __future__ import annotations

import tempfile
from pathlib import Path as File

from unkelt.demo.compositions import NAMES
from unkelt.demo.hollin_quay import make_demo
from unkelt.formats.formats import read_sheet
from unkelt.formats.svg.pathdata import format_path_data
from unkelt.job.beside import ticket_beside
from unkelt.job.workshop import Workshop
from unkelt.lettering.shelves import standard_shelf
from unkelt.outgoing import outgoing
from unkelt.recipe import Call, apply, read_recipe, run
from unkelt.sheet.model import Sheet

OUT = File(__file__).parent / "guide" / "pictures"
WIDE, HIGH, ROOM = 270.0, 190.0, 10.0
"""The most that either half of a picture takes, in px, and the margin within it."""


def picture(before: Sheet, after: Sheet) -> str:
    """Both sheets side by side, each as large as its half allows."""
    inside = WIDE - 2 * ROOM
    high = min(HIGH, max(inside * sheet.page_mm[1] / sheet.page_mm[0] for sheet in (before, after)) + 2 * ROOM)
    halves = [_half(before, 0.0, high), _half(after, WIDE + 2 * ROOM, high)]
    wide = 2 * WIDE + 2 * ROOM
    arrow = f"M{WIDE + 4:.1f} {high / 2:.1f}h8m-4 -4l4 4l-4 4"
    size = f'width="{wide:.0f}" height="{high:.0f}"'
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" {size} viewBox="0 0 {wide:.0f} {high:.0f}">'
        f'<rect {size} fill="#f4f2ec"/>{"".join(halves)}'
        f'<path d="{arrow}" fill="none" stroke="#20262b" stroke-width="1.5"/></svg>\n'
    )


def _half(sheet: Sheet, x: float, room: float) -> str:
    wide, high = sheet.page_mm
    scale = min((WIDE - 2 * ROOM) / wide, (room - 2 * ROOM) / high)
    left, top = x + (WIDE - wide * scale) / 2, (room - high * scale) / 2
    said = [f'<g transform="translate({left:.2f} {top:.2f}) scale({scale:.5f})">']
    said += [f'<rect width="{wide:.1f}" height="{high:.1f}" fill="#ffffff"/>']
    for outline in sheet.outlines():
        look = outline.look
        if look.shown:
            line = f' stroke="{look.stroke}" stroke-width="{1 / scale:.3f}"' if look.stroke else ""
            rule = ' fill-rule="evenodd"' if look.even_odd else ""
            said.append(f'<path d="{format_path_data(outline.path, 2)}" fill="{look.fill or "none"}"{rule}{line}/>')
    return "".join([*said, "</g>"])


def main() -> None:
    """Draws all of them."""
    OUT.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        make_demo(File(folder))
        for name in NAMES:
            path = File(folder) / f"{name}.svg"
            workshop = Workshop(ticket_beside(path).ticket, standard_shelf())
            received = read_sheet(path)
            stages = run(read_recipe(path.with_name(f"{name}-recipe.toml")), received, workshop)
            drawn = picture(outgoing(_as_outlines(received, workshop), workshop), outgoing(stages[-1].sheet, workshop))
            (OUT / f"{name}.svg").write_text(drawn, encoding="utf-8")


def _as_outlines(sheet: Sheet, workshop: Workshop) -> Sheet:
    """Live text as it looks."""
    return apply(Call("outline-text"), sheet, workshop).sheet


if __name__ == "__main__":
    main()
