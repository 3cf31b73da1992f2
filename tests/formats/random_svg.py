"""SVG documents at random: groups, viewports, copies, styles and units, as the specification allows them.

`python -m tests.formats.random_svg COUNT [FIRST]` reads any number of them, and says which an independent renderer
paints otherwise than they were read.
"""

from __future__ import annotations

import random
import sys
from collections.abc import Callable
from pathlib import Path

from tests.builders import workshop
from unkelt.formats.svg.read import parse_svg
from unkelt.verdict.case import Case
from unkelt.verdict.painted import pictures_of

COLOURS = ("#c00", "#0b5d4c", "#00f8", "#ff000080", "rgb(0, 128, 0)", "rgba(255,204,0,.6)", "navy", "currentColor")
RULES = ("nonzero", "evenodd")


class Made:
    """One document; parts that are referred to are gathered in its `defs`."""

    def __init__(self, seed: int) -> None:
        self.rnd = random.Random(seed)
        self.defs: list[str] = []
        self.css: list[str] = []
        self.count = 0
        self.in_symbol = 0

    def document(self) -> str:
        rnd = self.rnd
        size = rnd.choice(["100mm", "100mm", "10cm", "4in"])
        box = rnd.choice(["0 0 100 100", "0 0 100 100", "-20 -10 150 150", "0 0 50 80", ""])
        said = f'viewBox="{box}" ' if box else ""
        if box and rnd.random() < 0.3:
            said += f'preserveAspectRatio="{rnd.choice(["xMinYMax", "xMidYMid"])} {rnd.choice(["meet", "slice"])}" '
        if rnd.random() < 0.3:
            said += self.looks()
        inside = "".join(self.part(0) for _ in range(rnd.randint(2, 5)))
        return (
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{size}" height="{size}" '
            f"{said}><style>{''.join(self.css)}</style><defs>{''.join(self.defs)}</defs>{inside}</svg>"
        )

    def part(self, depth: int) -> str:
        rnd = self.rnd
        kind = rnd.random()
        if depth > 3 or kind < 0.5:
            return self.shape()
        symbol = kind >= 0.9
        self.in_symbol += symbol
        inside = "".join(self.part(depth + 1) for _ in range(rnd.randint(1, 3)))
        self.in_symbol -= symbol
        own = f"{self.looks()} {self.transform()}"
        if kind < 0.7:
            return f"<g {own}>{inside}</g>"
        if kind < 0.8:
            box = f'viewBox="0 0 {rnd.randint(20, 90)} {rnd.randint(20, 90)}" ' if rnd.random() < 0.6 else ""
            place = " ".join(f'{name}="{self.length()}"' for name in ("x", "y"))
            unit = "" if self.in_symbol else "%"
            size = f'width="{rnd.randint(20, 90)}{unit}" height="{rnd.randint(20, 90)}{unit}"'
            return f'<svg {box}{place} {size} overflow="visible" {self.looks()}>{inside}</svg>'
        self.count += 1
        name = f"p{self.count}"
        if kind < 0.9:
            self.defs.append(f'<g id="{name}" {own}>{inside}</g>')
            place = f'x="{self.length()}" y="{self.length()}"'
            return f'<use href="#{name}" {place} {self.looks()} {self.transform()}/>' * rnd.randint(1, 2)
        self.defs.append(
            f'<symbol id="{name}" viewBox="0 0 {rnd.randint(20, 90)} {rnd.randint(20, 90)}" overflow="visible">'
            f"{inside}</symbol>"
        )
        size = (
            f'width="{rnd.randint(10, 60)}" height="{rnd.randint(10, 60)}"'
            if rnd.random() < 0.8 or self.in_symbol
            else ""
        )
        return f'<use href="#{name}" x="{rnd.randint(0, 40)}" {size} {self.looks()} {self.transform()}/>'

    def length(self) -> str:
        rnd = self.rnd
        said = rnd.choice(
            [f"{rnd.uniform(1, 40):.3g}", f"{rnd.uniform(1, 40):.3g}%", f"{rnd.uniform(0.2, 3):.2g}em", f"{rnd.uniform(1, 9):.2g}mm",
             f"{rnd.uniform(3, 20):.2g}pt"]
        )  # fmt: skip
        # The renderer takes percentages within a symbol of what lies around it; the specification, of the symbol.
        return said.rstrip("%") if self.in_symbol else said

    def transform(self) -> str:
        rnd = self.rnd
        if rnd.random() < 0.4:
            return ""
        steps = [
            f"translate({rnd.uniform(-20, 40):.3g} {rnd.uniform(-20, 40):.3g})",
            f"rotate({rnd.choice([90, -30, 17.5])},{rnd.randint(0, 50)},{rnd.randint(0, 50)})",
            f"scale({rnd.uniform(0.4, 1.8):.2g})",
            f"scale({rnd.uniform(0.4, 1.8):.2g},{rnd.uniform(0.4, 1.8):.2g})",
            f"skewX({rnd.randint(-30, 30)})",
            f"matrix(1 .2 -.3 .9 {rnd.randint(0, 9)} 5)",
            "scale(-1 1) translate(-60)",
        ]
        origin = f' transform-origin="{rnd.randint(0, 50)} {rnd.randint(0, 50)}"' if rnd.random() < 0.2 else ""
        return f'transform="{" ".join(rnd.sample(steps, rnd.randint(1, 2)))}"{origin}'

    def looks(self) -> str:
        """Presentation attributes, a style, or a class; some of each."""
        rnd = self.rnd
        said: dict[str, str] = {}
        for name, chance, values in (
            ("fill", 0.5, [*COLOURS, "none"]),
            ("stroke", 0.3, [*COLOURS, "none"]),
            ("stroke-width", 0.4, [self.length().replace("%", ""), "2", ".5", "0"]),
            ("stroke-linejoin", 0.3, ["round", "bevel", "miter"]),
            ("stroke-linecap", 0.3, ["round", "square", "butt"]),
            ("stroke-miterlimit", 0.2, ["1", "2", "9"]),
            ("stroke-dasharray", 0.15, ["4 2", "3", "6,1,2", "none"]),
            ("stroke-dashoffset", 0.1, ["3", "-2"]),
            ("fill-rule", 0.2, RULES),
            ("fill-opacity", 0.15, [".4", "70%"]),
            ("stroke-opacity", 0.15, [".4"]),
            ("color", 0.3, ["#808", "green"]),
            ("visibility", 0.06, ["hidden", "visible"]),
            ("display", 0.04, ["none", "inline"]),
            ("paint-order", 0.1, ["stroke", "normal"]),
            ("font-size", 0.15, ["12", "80%", "2em", "9pt"]),
        ):
            if rnd.random() < chance:
                said[name] = rnd.choice(values)
        how = rnd.random()
        if how < 0.5:
            return " ".join(f'{name}="{value}"' for name, value in said.items())
        css = ";".join(f"{name}:{value}" for name, value in said.items())
        if how < 0.8:
            return f'style="{css}"' + (' fill="#0ff"' if rnd.random() < 0.3 else "")
        self.count += 1
        self.css.append(f".c{self.count}{{{css}{' !important' if css and rnd.random() < 0.2 else ''}}}")
        return f'class="c{self.count}"' + (' style="stroke-width:1"' if rnd.random() < 0.3 else "")

    def shape(self) -> str:
        rnd = self.rnd
        own = f"{self.looks()} {self.transform()}"

        def n() -> str:
            return f"{rnd.uniform(0, 70):.4g}"

        kind = rnd.choice(["rect", "rect", "circle", "ellipse", "line", "polyline", "polygon", "path", "path", "path"])
        if kind == "rect":
            corner = rnd.choice(["", f'rx="{rnd.randint(1, 9)}"', 'rx="2em" ry="3"', 'ry="900"'])
            return f'<rect x="{self.length()}" y="{self.length()}" width="{self.length()}" height="{self.length()}" {corner} {own}/>'
        if kind == "circle":
            return f'<circle cx="{self.length()}" cy="{n()}" r="{self.length()}" {own}/>'
        if kind == "ellipse":
            return f'<ellipse cx="{n()}" cy="{self.length()}" rx="{self.length()}" ry="{self.length()}" {own}/>'
        if kind == "line":
            return f'<g stroke="#333"><line x1="{self.length()}" y1="{n()}" x2="{n()}" y2="{self.length()}" {own}/></g>'
        if kind in ("polyline", "polygon"):
            return f'<{kind} points="{" ".join(n() for _ in range(8))}" {own}/>'
        parts = [f"M{n()} {n()}"]
        for _ in range(rnd.randint(2, 7)):
            parts.append(
                rnd.choice(
                    [
                        f"L{n()} {n()}",
                        f"l{rnd.randint(-20, 20)}-{rnd.randint(0, 20)}",
                        f"h{rnd.randint(-20, 20)}",
                        f"V{n()}",
                        f"C{n()} {n()} {n()} {n()} {n()} {n()}",
                        f"s{rnd.randint(-9, 9)} 5 10 {rnd.randint(-20, 20)}",
                        f"Q{n()},{n()},{n()},{n()}",
                        f"t{rnd.randint(-20, 20)} 10",
                        f"a{rnd.randint(1, 20)} {rnd.randint(1, 20)} {rnd.randint(0, 90)} {rnd.choice('01')}{rnd.choice('01')}"
                        f"{rnd.randint(-20, 20)} {rnd.randint(1, 20)}",
                        "z",
                        f"zm{rnd.randint(-9, 9)} 3",
                    ]
                )
            )
        return f'<path d="{"".join(parts)}" {own}/>'


def differences(seed: int) -> tuple[str, ...]:
    """What an independent renderer paints otherwise than a document was read, in words; nothing where it can't."""
    data = Made(seed).document().encode()
    read = parse_svg(data)
    pictures = pictures_of(Case(Path("made.svg"), read, workshop(), (), received=data))
    return tuple(each.words() for each in pictures.lost)


def tell(differences: Callable[[int], tuple[str, ...]]) -> None:
    """By the numbers of the command line, which seeds differ, and how."""
    count, first = int(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 0
    for seed in range(first, first + count):
        if found := differences(seed):
            print(seed, *found[:3], sep="\n   ", flush=True)


if __name__ == "__main__":
    tell(differences)
