"""Draws a small picture of what each step does, by doing it: `src/unkelt/assets/steps/NAME.svg`.

Grey is what was there, the accent what is there afterwards. Run it after a step was added: `python
docs/make_step_pictures.py`.
"""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path as File

from fontTools.misc.transform import Transform

from unkelt.formats.svg.pathdata import format_path_data
from unkelt.geometry.arcs import ellipse, rounded
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.geometry.path import Path, concat, polygon
from unkelt.job.ticket import parse_ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering.faces import Shelf
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shelves import bundled_faces
from unkelt.recipe import Call, apply
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Group, Item, Lettering, Outline, Run, Sheet
from unkelt.steps.steps import STEPS

OUT = File(__file__).parents[1] / "src" / "unkelt" / "assets" / "steps"
WIDTH, HEIGHT, ROOM = 34.0, 24.0, 2.0
SHOP = Workshop(
    parse_ticket('[key]\ncut = ["#000000"]\nscore = ["#0000ff"]\nengrave = ["#20262b"]'), Shelf(bundled_faces())
)
INK, LINE = Appearance(fill="#000000"), Appearance(fill=None, stroke="#000000", stroke_width_mm=0.1)


def text(words: str, size: float = 30, family: str = "Barlow", weight: int = 500) -> Lettering:
    place = Transform(1, 0, 0, 1, 0, 40)
    return Lettering("text", (Run(words, FaceQuery((family,), weight), size, INK),), placement=place)


def glyphs(words: str, size: float = 30, family: str = "Barlow", weight: int = 600) -> list[Outline]:
    on = apply(Call("outline-text"), Sheet((300, 100), (text(words, size, family, weight),)), SHOP).sheet
    return on.outlines()


def box(x: float, y: float, w: float, h: float, name: str, look: Appearance = INK) -> Outline:
    return Outline(name, polygon((x, y), (x + w, y), (x + w, y + h), (x, y + h)), look, name)


def disc(x: float, y: float, r: float, name: str, look: Appearance = INK) -> Outline:
    return Outline(name, ellipse(x, y, r, r), look, name)


def line(name: str, *places: tuple[float, float]) -> Outline:
    return Outline(name, polygon(*places, closed=False), LINE, name)


PAIR = (box(10, 10, 26, 26, "a"), disc(38, 28, 14, "b"))
APART = (box(10, 10, 18, 18, "a"), box(44, 26, 12, 12, "b"))
ONE = (box(20, 20, 20, 20, "a"),)
WAVY = concat([polygon(*((x, 30 + 8 * (x % 8 > 3)) for x in range(10, 60, 2)), (58, 50), (10, 50))])
RINGED = Outline("ring", concat([ellipse(30, 30, 20, 20), ellipse(30, 30, 10, 10)]), INK, "ring")

SCENES: dict[str, tuple[tuple[Item, ...], Call]] = {
    "add-lettering": ((), Call("add-lettering", options={"text": "Aa", "family": "Barlow", "weight": 600})),
    "set-text": ((text("Ab"),), Call("set-text", options={"text": "Abc"})),
    "set-face": ((text("Aa"),), Call("set-face", options={"family": "Pacifico"})),
    "set-spacing": ((text("lll"),), Call("set-spacing", options={"letters": "9 mm"})),
    "set-letters": ((text("abc"),), Call("set-letters", options={"letters": "2", "lift": "9 mm", "turn": 12})),
    "stretch-text": ((text("abc"),), Call("stretch-text", options={"letters": "2", "slant": 24.0, "width": 130.0})),
    "set-paragraph": ((text("ab cd ef", 16),), Call("set-paragraph", options={"width": "26 mm", "lines": "16 mm"})),
    "set-stroke": (tuple(glyphs("o", 60)), Call("thicken", options={"amount": "2 mm"})),
    "set-on-guide": ((text("abcdef", 26),), Call("set-on-guide", options={"radius": "34 mm"})),
    "split-text": ((text("ab"),), Call("split-text", options={"by": "letters"})),
    "join-text": ((text("ab"),), Call("split-text", options={"by": "letters"})),
    "outline-text": ((text("a", 60),), Call("outline-text")),
    "recover-text": (tuple(glyphs("ae", 40)), Call("move", options={"right": "0.01 mm"})),
    "add-shape": ((), Call("add-shape", options={"shape": "rectangle", "width": "40 mm", "height": "24 mm", "corner": "6 mm"})),
    "weld": (PAIR, Call("weld")),
    "thicken": (tuple(glyphs("a", 50, weight=400)), Call("thicken", options={"amount": "1.4 mm"})),
    "expand-stroke": ((Outline("a", polygon((10, 40), (30, 12), (50, 40), closed=False), Appearance(fill="#20262b", stroke="#20262b", stroke_width_mm=6)),), Call("expand-stroke", ("a",))),
    "knock-out": ((box(10, 10, 44, 32, "a"), disc(32, 26, 10, "b")), Call("knock-out", ("b",), options={"out_of": "a"})),
    "let-in": ((Outline("a", concat([rounded(5, 5, 75, 45, 4), rounded(11, 11, 69, 39, 3).reversed()]), INK, "a"), replace(glyphs("H", 56)[0], id="b")), Call("let-in", ("b",), options={"frame": "a", "loose": True})),
    "backing": (tuple(glyphs("a", 44)), Call("backing", options={"distance": "5 mm"})),
    "border": (tuple(glyphs("ab", 36)), Call("border", options={"margin": "8 mm"})),
    "hang-ring": ((disc(40, 40, 14, "a"),), Call("hang-ring", ("a",))),
    "close-joint": ((Group("w", (box(10, 16, 20, 20, "a"), box(30.15, 22, 20, 20, "b"))),), Call("close-joint", options={"width": "6 mm"})),
    "bridge": ((Outline("a", concat([rounded(5, 5, 75, 45, 4), rounded(11, 11, 69, 39, 3).reversed()]), INK, "a"), disc(40, 25, 6, "b")), Call("bridge", options={"width": "4 mm"})),
    "ease-corners": ((box(10, 10, 40, 28, "a"),), Call("ease-corners", options={"radius": "11 mm"})),
    "edit-nodes": ((box(10, 10, 36, 26, "a"),), Call("edit-nodes", ("a",), options={"edits": "move 1:2 60 4"})),
    "move": (ONE, Call("move", ("a",), options={"right": "24 mm", "down": "8 mm"})),
    "rotate": ((box(14, 20, 34, 14, "a"),), Call("rotate", ("a",), options={"angle": -35})),
    "scale": (ONE, Call("scale", ("a",), options={"by": 1.9, "fixed": "bottom-left"})),
    "resize": ((box(14, 18, 26, 14, "a"),), Call("resize", options={"width": "52 mm"})),
    "shear": ((box(14, 14, 26, 24, "a"),), Call("shear", ("a",), options={"angle": 24})),
    "mirror": ((Outline("a", polygon((10, 38), (28, 38), (28, 10)), INK, "a"),), Call("spokes", ("a",), options={"count": 2, "mirrored": True, "x": "32 mm", "y": "24 mm"})),
    "align": (APART, Call("align", ("a", "b"), options={"upright": "bottom", "across": "stay"})),
    "duplicate": (ONE, Call("duplicate", ("a",), options={"right": "12 mm", "down": "9 mm"})),
    "spokes": ((box(38, 18, 5, 14, "a"),), Call("spokes", ("a",), options={"count": 6, "x": "40 mm", "y": "40 mm"})),
    "grid": ((box(10, 10, 12, 10, "a"),), Call("grid", options={"columns": 3, "rows": 2, "gap": "4 mm"})),
    "fit-page": (ONE, Call("border", options={"margin": "7 mm", "shape": "rectangle"})),
    "state-units": (ONE, Call("scale", ("a",), options={"by": 1.6, "fixed": "top-left"})),
    "set-operation": ((box(10, 12, 24, 24, "a"), disc(50, 24, 12, "b")), Call("set-operation", ("b",), options={"operation": "cut"})),
    "set-colour": ((box(10, 12, 24, 24, "a"), disc(50, 24, 12, "b")), Call("set-colour", ("b",), options={"colour": "#ff0000"})),
    "stack": ((PAIR[1], PAIR[0]), Call("stack", ("b",))),
    "rename": (tuple(glyphs("ab", 36)), Call("rename", ("text-2",), options={"name": "n"})),
    "group": ((*APART, box(4, 4, 58, 40, "g", LINE)), Call("scale", ("g",), options={"by": 1.02})),
    "ungroup": ((*APART, box(4, 4, 58, 40, "g", LINE)), Call("drop-item", ("g",))),
    "bind": (tuple(glyphs("i j", 44)), Call("bind", options={"by": "all"})),
    "unbind": ((Outline("a", concat([ellipse(18, 26, 10, 10), ellipse(46, 26, 10, 10)]), INK, "a"),), Call("unbind")),
    "drop-item": (APART, Call("drop-item", ("b",))),
    "hairline": ((Outline("a", polygon((10, 40), (30, 12), (50, 40), closed=False), Appearance(fill=None, stroke="#000000", stroke_width_mm=5)),), Call("hairline")),
    "join-ends": ((line("a", (8, 40), (28, 12)), line("b", (28.15, 12), (50, 40))), Call("join-ends")),
    "close-subpath": ((line("a", (10, 40), (30, 10), (54, 36)),), Call("close-subpath")),
    "reduce-nodes": ((RINGED,), Call("scale", ("ring",), options={"by": 1.01})),
    "merge-nodes": ((RINGED,), Call("scale", ("ring",), options={"by": 1.01})),
    "blunt-spikes": ((Outline("a", polygon((10, 22), (60, 25), (10, 28)), INK, "a"),), Call("blunt-spikes", options={"width": "3 mm"})),
    "drop-scraps": ((box(10, 10, 30, 26, "a"), box(52, 14, 0.05, 0.05, "b")), Call("drop-scraps")),
    "drop-duplicate": ((box(10, 10, 30, 24, "a"), box(10, 10, 30, 24, "b")), Call("drop-duplicate")),
    "drop-shared-edge": ((box(10, 12, 22, 22, "a", LINE), box(32, 12, 22, 22, "b", LINE)), Call("drop-shared-edge")),
    "unify-colours": ((disc(20, 26, 11, "a"), disc(46, 26, 11, "b", Appearance(fill="#010101"))), Call("unify-colours")),
    "orient-rings": ((RINGED,), Call("scale", ("ring",), options={"by": 0.99})),
}  # fmt: skip
"""What each step is shown with; where its own effect can't be seen so small, a step that looks like it."""


def drawn(sheet: Sheet) -> list[tuple[Path, bool, object]]:
    """Each item as one path, whether it is filled, and what else makes it what it is."""
    found: list[tuple[Path, bool, object]] = []
    for order, item in enumerate(sheet.walk()):
        if isinstance(item, Outline):
            found.append((item.path, item.look.fill is not None, (item.look, item.label, order)))
        elif isinstance(item, Lettering):
            letters = [path for _, _, path in set_lettering(item, SHOP.shelf).letters(item.placement)]
            found.append((concat([path for path in letters if len(path)]), True, "text"))
    return found


def picture(before: Sheet, after: Sheet) -> str:
    """What was there in grey, and what is there then in the accent where it differs."""
    was, now = drawn(before), drawn(after)
    frame = join_boxes([each for path, *_ in (*was, *now) if (each := bounds(path))]) or (0, 0, 1, 1)
    scale = min((WIDTH - 2 * ROOM) / max(frame[2] - frame[0], 1), (HEIGHT - 2 * ROOM) / max(frame[3] - frame[1], 1))
    dx = WIDTH / 2 - scale * (frame[0] + frame[2]) / 2
    dy = HEIGHT / 2 - scale * (frame[1] + frame[3]) / 2
    place = Transform(scale, 0, 0, scale, dx, dy)

    def shape(path: Path, style: str) -> str:
        return f'<path {style} d="{format_path_data(path.transformed(place), 2)}"/>'

    filled = 'fill="#before" fill-opacity="0.4"'
    lined = 'fill="none" stroke="#before" stroke-opacity="0.7"'
    parts = [shape(path, filled if fill else lined) for path, fill, _ in was]
    for path, fill, own in now:
        if (path, fill, own) not in was:
            inside = 'fill="currentColor" fill-opacity="0.22" fill-rule="nonzero"' if fill else 'fill="none"'
            parts.append(shape(path, f'{inside} stroke="currentColor" stroke-width="1.3"'))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{WIDTH:g}" height="{HEIGHT:g}" '
        f'viewBox="0 0 {WIDTH:g} {HEIGHT:g}">{"".join(parts)}</svg>\n'
    )


def main() -> None:
    OUT.mkdir(exist_ok=True)
    for name in STEPS:
        if name in SCENES:
            items, call = SCENES[name]
            before = Sheet((80, 60), items)
            (OUT / f"{name}.svg").write_text(picture(before, apply(call, before, SHOP).sheet), encoding="utf-8")
        else:
            print(f"no picture: {name}")


if __name__ == "__main__":
    main()
