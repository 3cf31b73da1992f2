"""PDF pages at random: matrices in matrices, forms, strokes, dashes, opacity, text, as ISO 32000 allows them.

`python -m tests.formats.random_pdf COUNT [FIRST]` reads any number of them, and says which PDFium paints otherwise than
they were read.
"""

from __future__ import annotations

import io
import random
from pathlib import Path
from tempfile import TemporaryDirectory

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import FILL_EVEN_ODD, FILL_NON_ZERO, Canvas

from tests.builders import SHELF, workshop
from tests.formats.random_svg import tell
from unkelt.formats.pdf.read import read_pdf
from unkelt.recipe import Call, Stage, apply
from unkelt.verdict.case import Case
from unkelt.verdict.painted import pictures_of

COLOURS = ((0.8, 0, 0), (0.04, 0.36, 0.3), (0, 0, 1), (1, 0.8, 0), (0, 0, 0))


class Made:
    """One page, with dashes or without."""

    def __init__(self, seed: int, *, dashes: bool = True) -> None:
        self.rnd = random.Random(seed)
        self.forms = 0
        self.dashes = dashes

    def page(self) -> bytes:
        face = next(each for each in SHELF.faces if each.family == "Pacifico")
        pdfmetrics.registerFont(TTFont("Pacifico", str(face.path)))
        file = io.BytesIO()
        canvas = Canvas(file, pagesize=(280, 280), invariant=1)
        for _ in range(self.rnd.randint(2, 5)):
            self.part(canvas, 0)
        if self.rnd.random() < 0.3:
            canvas.setPageRotation(self.rnd.choice([90, 180, 270]))
        canvas.showPage()
        canvas.save()
        return file.getvalue()

    def part(self, canvas: Canvas, depth: int) -> None:
        rnd = self.rnd
        canvas.saveState()
        self.look(canvas)
        kind = rnd.random()
        if kind < 0.7 or depth > 2:
            self.move(canvas)
            self.drawn(canvas)
        elif kind < 0.85 or depth:
            self.move(canvas)
            for _ in range(rnd.randint(1, 3)):
                self.part(canvas, depth + 1)
        else:
            self.forms += 1
            name = f"form{self.forms}"
            canvas.beginForm(name, -500, -500, 900, 900)
            for _ in range(rnd.randint(1, 2)):
                self.part(canvas, depth + 1)
            canvas.endForm()
            for _ in range(rnd.randint(1, 2)):
                canvas.saveState()
                self.move(canvas)
                canvas.doForm(name)
                canvas.restoreState()
        canvas.restoreState()

    def move(self, canvas: Canvas) -> None:
        rnd = self.rnd
        for _ in range(rnd.randint(0, 2)):
            rnd.choice(
                [
                    lambda: canvas.translate(rnd.uniform(0, 80), rnd.uniform(0, 80)),
                    lambda: canvas.rotate(rnd.choice([90, -30, 17])),
                    lambda: canvas.scale(rnd.uniform(0.5, 1.6), rnd.uniform(0.5, 1.6)),
                    lambda: canvas.skew(rnd.uniform(-25, 25), 0),
                    lambda: canvas.transform(-1, 0, 0, 1, 200, 0),
                ]
            )()

    def look(self, canvas: Canvas) -> None:
        rnd = self.rnd
        canvas.setFillColorRGB(*rnd.choice(COLOURS))
        canvas.setStrokeColorRGB(*rnd.choice(COLOURS))
        canvas.setLineWidth(rnd.choice([0.5, 2, 5, 9]))
        canvas.setLineJoin(rnd.randint(0, 2))
        canvas.setLineCap(rnd.randint(0, 2))
        if rnd.random() < 0.3 * self.dashes:
            canvas.setDash(rnd.choice([[9, 4], [6, 2, 1, 2], [5]]), rnd.choice([0, 3, 11]))
        if rnd.random() < 0.3:
            canvas.setFillAlpha(rnd.choice([0.4, 0.7]))
            canvas.setStrokeAlpha(rnd.choice([0.4, 1]))

    def drawn(self, canvas: Canvas) -> None:
        rnd = self.rnd
        fill, stroke = rnd.choice([(1, 0), (0, 1), (1, 1)])
        kind = rnd.random()

        def n() -> float:
            return rnd.uniform(0, 160)

        if kind < 0.2:
            canvas.rect(n(), n(), n(), n() / 2, fill=fill, stroke=stroke)
        elif kind < 0.35:
            canvas.ellipse(n(), n(), n(), n(), fill=fill, stroke=stroke)
        elif kind < 0.55:
            text = canvas.beginText()
            size = rnd.choice([1, 1, 30])
            k = 40 / size
            text.setFont("Pacifico", size)
            text.setTextTransform(k, 0, rnd.choice([0, 0.3]) * k, k * rnd.choice([1, 0.8]), n() / 2, n())
            text.setTextRenderMode(rnd.choice([0, 0, 1, 2]))
            text.setCharSpace(rnd.choice([0, 0, 0.05 * size]))
            text.setHorizScale(rnd.choice([100, 100, 80]))
            text.textOut(rnd.choice(["Te", "Sea", "o8"]))
            canvas.drawText(text)
        else:
            path = canvas.beginPath()
            for _ in range(rnd.randint(1, 3)):  # a move that nothing is drawn from is painted by each in its own way
                path.moveTo(n(), n())
                for _ in range(rnd.randint(2, 4)):
                    if rnd.random() < 0.6:
                        path.lineTo(n(), n())
                    else:
                        path.curveTo(n(), n(), n(), n(), n(), n())
                if rnd.random() < 0.6:
                    path.close()
            rule = rnd.choice([FILL_EVEN_ODD, FILL_NON_ZERO])
            canvas.drawPath(path, fill=fill, stroke=stroke, fillMode=rule)


def differences(seed: int, *, dashes: bool = True) -> tuple[str, ...]:
    """What PDFium paints otherwise than a page was read, in words; its text as outlines."""
    data = Made(seed, dashes=dashes).page()
    with TemporaryDirectory() as folder:
        path = Path(folder) / "made.pdf"
        path.write_bytes(data)
        read = read_pdf(path)
        stages = ()
        if read.letterings():
            outlined = apply(Call("outline-text"), read, workshop())
            stages = (Stage(Call("outline-text"), outlined.sheet, outlined),)
        pictures = pictures_of(Case(path, read, workshop(), stages, received=data))
    return tuple(each.words() for each in pictures.lost)


if __name__ == "__main__":
    tell(differences)
