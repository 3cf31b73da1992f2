"""The inspection sheet, for a person to sign: one page or two, as HTML and as PDF, both from one record."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from xml.sax.saxutils import escape

from jinja2 import Environment
from markupsafe import Markup
from reportlab.lib import colors, pagesizes
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from unkelt.job.budget import since_received
from unkelt.lettering.shelves import bundled_faces
from unkelt.messages import listed, say
from unkelt.proof.proof import Proof, Work
from unkelt.release.picture import Dimensioned, picture_svg
from unkelt.release.record import FaceUsed, Record
from unkelt.steps.evidence import Evidence
from unkelt.steps.steps import STEPS
from unkelt.survey.finding import Level, Question

INK, MUTED, ACCENT, HOLD, RULE = (colors.HexColor(c) for c in ("#20262b", "#5c625f", "#0b5d4c", "#9a4b00", "#d8d3c7"))
PLAIN, BOLD = "Barlow", "Barlow-Bold"
Pair = tuple[str, str]
Triple = tuple[str, str, str]


@dataclass(frozen=True, slots=True)
class Content:
    """What both forms of the sheet say, as words."""

    verdict: str
    date: str
    questions: list[Triple]
    figures: list[Triple]
    steps: list[Pair]
    left: list[Pair]
    faces: list[Pair]
    files: list[Triple]


def content(record: Record) -> Content:
    """The record in words."""
    before, after = record.figures()
    proofs = {proof.path: proof for proof in record.proofs}
    first = record.whole
    rows = [
        ("nodes", f"{before.nodes:,}", f"{after.nodes:,}"),
        ("pieces", str(before.pieces), str(after.pieces)),
        ("counters", str(before.counters), str(after.counters)),
        ("to cut, m", f"{before.cut_length_mm / 1000:.2f}", f"{after.cut_length_mm / 1000:.2f}"),
    ]
    rows.append(("since received", "", since_received(record.sheet)))
    if first:
        came = record.received
        rows += [
            ("size, mm", _size(came), _size(first)),
            ("time, about", f"{came.seconds:.0f} s" if came and came.bodies else "", f"{first.seconds:.0f} s"),
        ]
        was = {each.operation: each for each in came.work} if came else {}
        rows += [(f"– {each.operation}", _work(was.get(each.operation)), _work(each)) for each in first.work]
    done = [stage for stage in record.stages if stage.outcome is not None]
    return Content(
        verdict="released over a hold" if record.holds else "clean",
        date=f"{record.made:%Y-%m-%d %H:%M}",
        questions=[
            (
                question.value,
                _counted(record.counts(record.before, question)),
                _counted(record.counts(record.after, question)),
            )
            for question in Question
        ],
        figures=rows,
        steps=[
            (STEPS[stage.call.name].title, _in_a_line(stage.outcome.evidence))
            for stage in done
            if stage.outcome is not None
        ],
        left=[
            (finding.code, say("{headline}: {detail}", headline=finding.headline, detail=finding.detail))
            for finding in record.after
        ],
        faces=[(used.name, _licence(used)) for used in record.faces()],
        files=[(name, _read_back(proofs.get(name)), total) for name, total in record.sums.items()],
    )


def _work(work: Work | None) -> str:
    return f"{work.length_mm / 1000:.2f} m, {work.seconds:.0f} s" if work else ""


def _licence(used: FaceUsed) -> str:
    if used.licence is None:
        return "its licence can't be read"
    words = used.licence.words or used.licence.description[:160]
    return listed("; ", filter(None, (words, say("embedding: {embedding}", embedding=used.licence.embedding))))


def _read_back(proof: Proof | None) -> str:
    return f"{_count(proof.bodies, 'body', 'bodies')}, {_count(proof.pieces, 'piece', 'pieces')}" if proof else ""


def inspection_html(record: Record) -> bytes:
    """The sheet as one HTML file that needs no other."""
    source = (files("unkelt") / "release" / "inspection.html.jinja").read_text(encoding="utf-8")
    template = Environment(autoescape=True).from_string(source)
    said = content(record)
    words = {name: getattr(said, name) for name in Content.__dataclass_fields__}
    # The picture is made here, from numbers and plain colours alone.
    return template.render(record=record, picture=Markup(picture_svg(record.sheet)), **words).encode()


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
        ("LEFTPADDING", (0, 0), (-1, -1), 0),
    ]
)
"""Two lines to write on."""


BODY = ParagraphStyle("body", fontName=PLAIN, fontSize=9, leading=12.5, textColor=INK)
SMALL = ParagraphStyle("small", parent=BODY, fontSize=8, leading=10.5)
TINY = ParagraphStyle("tiny", parent=BODY, fontSize=7.2, leading=9.5)
FAINT = ParagraphStyle("muted", parent=BODY, textColor=MUTED)
TITLE = ParagraphStyle("title", parent=BODY, fontName=BOLD, fontSize=17, leading=21)
HEAD = ParagraphStyle("head", parent=BODY, fontName=BOLD, fontSize=10, leading=13, spaceBefore=9, spaceAfter=3)


NOTHING_DONE = "Nothing: it goes out as it came in."


def inspection_pdf(record: Record, preview: bytes) -> bytes:
    """The same as PDF, A4, with the picture of the sheet as it is given."""
    said = content(record)
    _known()
    state = ParagraphStyle("state", parent=BODY, fontName=BOLD, alignment=2, textColor=HOLD if record.holds else ACCENT)
    width = pagesizes.A4[0] - 28 * mm - 12  # a frame keeps 6 pt on either side

    def text(words: str, style: ParagraphStyle = SMALL) -> Paragraph:
        return Paragraph(escape("".join(sign if ord(sign) in _known() else "?" for sign in words)), style)

    def table(rows: list[list[str]], shares: list[float], style: ParagraphStyle = SMALL) -> Table:
        cells = [[text(cell, style) for cell in row] for row in rows]
        return Table(cells, [share * width for share in shares], style=_RULED)

    page_w, page_h = record.sheet.page_mm
    high = min(64 * mm, width * page_h / page_w)
    story = [
        Table(
            [[text(record.title, TITLE), text(said.verdict, state)]],
            [0.7 * width, 0.3 * width],
            style=[("LEFTPADDING", (0, 0), (-1, -1), 0), ("VALIGN", (0, 0), (-1, -1), "MIDDLE")],
        ),
        text(
            listed(" · ", (record.workshop.ticket.in_one_line(), *_origin(record), said.date)),
            FAINT,
        ),
        Spacer(1, 4 * mm),
        Dimensioned(record.sheet, preview, high * page_w / page_h, high, PLAIN),
    ]
    if record.holds:
        story += [
            text("Released over what holds", HEAD),
            *[text(hold, BODY) for hold in record.holds],
            text(say("Reason: {reason}", reason=record.reason), BODY),
        ]
    rows = [["", "before", "after"], *[list(row) for row in (*said.questions, *said.figures)]]
    done = table([list(row) for row in said.steps], [0.28, 0.72]) if said.steps else text(NOTHING_DONE, BODY)
    story += [text("Before and after", HEAD), table(rows, [0.5, 0.25, 0.25]), text("What was done", HEAD), done]
    for name, pairs in (("Left as it is", said.left), ("Faces", said.faces)):
        story += [text(name, HEAD), table([list(row) for row in pairs], [0.28, 0.72])] if pairs else []
    story += [
        text("Files", HEAD),
        table([["file", "read back", "SHA-256"], *[list(row) for row in said.files]], [0.26, 0.17, 0.57], TINY),
    ]
    story += [
        Spacer(1, 9 * mm),
        Table(
            [[text("checked by", FAINT), "", text("date", FAINT)]],
            [0.45 * width, 0.1 * width, 0.45 * width],
            style=_SIGNED,
        ),
    ]
    file, margins = io.BytesIO(), dict.fromkeys(("leftMargin", "rightMargin", "topMargin", "bottomMargin"), 14 * mm)
    SimpleDocTemplate(
        file, pagesize=pagesizes.A4, title=say("Inspection sheet: {title}", title=record.title), **margins
    ).build(story)
    return file.getvalue()


def _origin(record: Record) -> Sequence[str]:
    return say("from {source}", source=record.source), say("revision {revision}", revision=record.revision)


def _counted(counts: dict[Level, int]) -> str:
    return ", ".join(f"{count} {level.value}" for level, count in counts.items() if count) or "nothing"


def _in_a_line(evidence: Evidence) -> str:
    """A step's evidence in words: "nodes from 2,696 to 2,475, max deviation 0.0098 mm"."""
    return ", ".join(f"{name} {value}" for name, value in evidence.rows())


def _size(proof: Proof | None) -> str:
    return f"{proof.size_mm[0]:.2f} × {proof.size_mm[1]:.2f}" if proof and proof.bodies else ""


def _count(number: int, thing: str, things: str) -> str:
    return f"{number} {thing if number == 1 else things}"
