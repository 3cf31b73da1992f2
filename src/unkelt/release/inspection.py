"""The inspection sheet, for a person to sign: a few pages, as HTML and as PDF, both from one record, in one language or
in several, one after the other.

Nothing is said by colour alone, so that it can be printed in grey.
"""

from __future__ import annotations

import io
from collections.abc import Callable, Sequence
from functools import cache
from importlib.resources import files
from xml.sax.saxutils import escape

from jinja2 import Environment
from markupsafe import Markup
from reportlab.graphics.barcode.qrencoder import QRCode, QRErrorCorrectLevel
from reportlab.lib import colors, pagesizes
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import (
    Flowable,
    KeepTogether,
    PageBreak,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
    TableStyle,
)

from unkelt.language import in_language
from unkelt.lettering.shelves import bundled_faces
from unkelt.messages import say
from unkelt.release.content import Content, content
from unkelt.release.picture import Dimensioned, picture_svg
from unkelt.release.record import ENGLISH, Record

INK, MUTED, RULE = (colors.HexColor(c) for c in ("#20262b", "#4b514e", "#b9b4a8"))
PLAIN, BOLD = "Barlow", "Barlow-Bold"
CODE_MM = 24.0
SEAL_WORDS = say("The code holds the check sum of all files")
Tell = Callable[[str], str]


def inspection_html(record: Record, languages: Sequence[str] = ENGLISH) -> bytes:
    """The sheet as one HTML file that needs no other."""
    source = (files("unkelt") / "release" / "inspection.html.jinja").read_text(encoding="utf-8")
    template = Environment(autoescape=True).from_string(source)
    said = content(record)
    # The pictures are made here, from numbers and plain colours alone.
    pictures = {"picture": Markup(picture_svg(record.sheet)), "code": Markup(_code_svg(_sealed(said)))}
    sheets = [(code, in_language(code)) for code in languages]
    return template.render(said=said, sheets=sheets, seal_words=SEAL_WORDS, **pictures).encode()


def _sealed(said: Content) -> str:
    """What the code says."""
    return f"unkelt {said.title} sha256 {said.seal}"


def _modules(words: str) -> list[list[bool]]:
    code = QRCode(None, QRErrorCorrectLevel.M)
    code.addData(words)
    code.make()
    return [[bool(cell) for cell in row] for row in code.modules]


def _code_svg(words: str) -> str:
    modules = _modules(words)
    cells = "".join(f"M{x} {y}h1v1h-1z" for y, row in enumerate(modules) for x, dark in enumerate(row) if dark)
    size = len(modules)
    return (
        f'<svg class="code" xmlns="http://www.w3.org/2000/svg" viewBox="-4 -4 {size + 8} {size + 8}" role="img" '
        f'aria-label="QR code"><path d="{cells}"/></svg>'
    )


class _Code(Flowable):  # type: ignore[misc]  # reportlab has no type hints
    """The code, so many points wide, with the quiet zone of four modules around it (ISO/IEC 18004; from memory)."""

    def __init__(self, words: str, width: float) -> None:
        super().__init__()
        self.modules, self.width = _modules(words), width

    def wrap(self, *_room: float) -> tuple[float, float]:
        return self.width, self.width

    def draw(self) -> None:
        cell = self.width / (len(self.modules) + 8)
        self.canv.setFillColor(colors.black)
        for y, row in enumerate(reversed(self.modules)):
            for x, dark in enumerate(row):
                if dark:
                    self.canv.rect((x + 4) * cell, (y + 4) * cell, cell, cell, stroke=0, fill=1)


@cache
def _known() -> frozenset[int]:
    """Makes the bundled interface face known to the PDF library; the characters that it has."""
    faces = {face.weight: face.path for face in bundled_faces() if face.family == "Barlow"}
    for name, weight in ((PLAIN, 400), (BOLD, 700)):
        pdfmetrics.registerFont(TTFont(name, str(faces[weight])))
    return frozenset(pdfmetrics.getFont(PLAIN).face.charToGlyph)


_RULED = TableStyle(
    [
        ("LINEBELOW", (0, 0), (-1, -2), 0.4, RULE),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 0),
        ("TOPPADDING", (0, 0), (-1, -1), 1.2),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 1.2),
    ]
)
"""Rows with a line between them."""

_SIGNED = TableStyle(
    [
        ("LINEABOVE", (0, 0), (0, 0), 0.6, INK),
        ("LINEABOVE", (2, 0), (2, 0), 0.6, INK),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 0),
    ]
)
"""Two lines to write on, and the code."""

BODY = ParagraphStyle("body", fontName=PLAIN, fontSize=9, leading=12.5, textColor=INK)
SMALL = ParagraphStyle("small", parent=BODY, fontSize=8, leading=10.5)
HEADS = ParagraphStyle("heads", parent=SMALL, textColor=MUTED)
TINY = ParagraphStyle("tiny", parent=BODY, fontSize=7.2, leading=9.5)
FAINT = ParagraphStyle("muted", parent=BODY, textColor=MUTED)
TITLE = ParagraphStyle("title", parent=BODY, fontName=BOLD, fontSize=17, leading=21)
HEAD = ParagraphStyle("head", parent=BODY, fontName=BOLD, fontSize=10, leading=13, spaceBefore=9, spaceAfter=3)
STATE = ParagraphStyle("state", parent=BODY, fontName=BOLD, alignment=2, fontSize=11)

WIDTH = pagesizes.A4[0] - 28 * mm - 12
"""A frame keeps 6 pt on either side."""


def inspection_pdf(record: Record, preview: bytes, languages: Sequence[str] = ENGLISH) -> bytes:
    """The same as PDF, A4, with the picture of the sheet as it is given."""
    said = content(record)
    _known()
    story: list[Flowable] = []
    for code in languages:
        story += [PageBreak()] if story else []
        story += _Sheet(record, said, preview, in_language(code)).story()
    file, margins = io.BytesIO(), dict.fromkeys(("leftMargin", "rightMargin", "topMargin", "bottomMargin"), 14 * mm)
    title = str(say("Inspection sheet: {title}", title=record.title))
    SimpleDocTemplate(file, pagesize=pagesizes.A4, title=title, **margins).build(story)
    return file.getvalue()


_PLAINER = str.maketrans({"\u2009": "\u00a0", "→": "to"})
"""What the sheet's face has no characters for, and what says the same."""


class _Sheet:
    """The sheet in one language."""

    def __init__(self, record: Record, said: Content, preview: bytes, tell: Tell) -> None:
        self.record, self.said, self.preview, self.tell = record, said, preview, tell

    def story(self) -> list[Flowable]:
        """From the title to the lines that are signed."""
        said = self.said
        page_w, page_h = self.record.sheet.page_mm
        high = min(64 * mm, WIDTH * page_h / page_w)
        story = [
            Table(
                [[self.text(said.title, TITLE), self.text(said.verdict, STATE)]],
                [0.7 * WIDTH, 0.3 * WIDTH],
                style=[("LEFTPADDING", (0, 0), (-1, -1), 0), ("VALIGN", (0, 0), (-1, -1), "MIDDLE")],
            ),
            self.text(said.origin, FAINT),
            Spacer(1, 4 * mm),
            Dimensioned(self.record.sheet, self.preview, high * page_w / page_h, high, PLAIN),
        ]
        if said.holds:
            story += [
                self.text(say("Released over what holds"), HEAD),
                *[self.text(hold, BODY) for hold in said.holds],
                self.text(say("Reason: {reason}", reason=said.reason), BODY),
            ]
        for table in said.tables:
            heads = [[self.text(head, HEADS) for head in table.heads]] if table.heads else []
            cells = [[self.text(cell, TINY if _is_sum(cell) else SMALL) for cell in row] for row in table.rows]
            widths = [share * WIDTH for share in table.shares]
            rows = Table([*heads, *cells], widths, style=_RULED, repeatRows=len(heads))
            story.append(KeepTogether([self.text(table.title, HEAD), rows]))
        return [*story, Spacer(1, 9 * mm), self._signed()]

    def _signed(self) -> Flowable:
        code = [_Code(_sealed(self.said), CODE_MM * mm), self.text(SEAL_WORDS, TINY)]
        lines = [self.text(say("checked by"), FAINT), "", self.text(say("date"), FAINT), "", code]
        shares = (0.33, 0.04, 0.25, 0.12, 0.26)
        return Table([lines], [share * WIDTH for share in shares], style=_SIGNED)

    def text(self, words: str, style: ParagraphStyle = SMALL) -> Paragraph:
        """Words in the sheet's language."""
        return paragraph(self.tell(words), style)


def paragraph(words: str, style: ParagraphStyle) -> Paragraph:
    """Words as the sheet's face has their characters."""
    plain = words.translate(_PLAINER)
    return Paragraph(escape("".join(sign if ord(sign) in _known() else "?" for sign in plain)), style)


def _is_sum(cell: str) -> bool:
    return len(cell) == 64 and " " not in cell
