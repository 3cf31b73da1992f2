"""PDF, written by a general-purpose library and by hand, against known figures and a second reader."""

import io

import numpy as np
import pypdf
import pytest
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen import canvas

from tests.builders import workshop
from unkelt.errors import InputError
from unkelt.formats.pdf.read import read_pdf
from unkelt.geometry.measure import bounds, signed_areas
from unkelt.lettering.faces import open_face
from unkelt.lettering.setting import glyph_path
from unkelt.lettering.shelves import bundled_faces
from unkelt.recipe import Call, apply
from unkelt.sheet.model import Group, Picture
from unkelt.survey.checks import survey

PT = 25.4 / 72  # ISO 32000: a unit is 1/72 in
PACIFICO = next(face for face in bundled_faces() if face.family == "Pacifico")


def pdf(draw, tmp_path, size=(200, 100), pages=1):
    path = tmp_path / "a.pdf"
    made = canvas.Canvas(str(path), pagesize=size, pageCompression=0)
    for number in range(pages):
        draw(made) if pages == 1 else draw(made, number)
        made.showPage()
    made.save()
    return path


def test_curves_rules_widths_and_colours(tmp_path):
    def draw(page):
        page.setStrokeColorRGB(1, 0, 0)
        page.setLineWidth(2)
        page.setDash(3, 1)
        page.circle(50, 50, 20, stroke=1, fill=0)
        page.setFillColorRGB(0, 0, 1)
        path = page.beginPath()
        path.rect(100, 10, 60, 60)
        path.rect(110, 20, 20, 20)
        page.drawPath(path, stroke=0, fill=1, fillMode=0)  # even-odd

    found = read_pdf(pdf(draw, tmp_path))
    assert found.page_mm == pytest.approx((200 * PT, 100 * PT))
    circle, square = found.outlines()
    assert bounds(circle.path) == pytest.approx(tuple(v * PT for v in (30, 30, 70, 70)), abs=1e-4)
    assert (circle.look.stroke, circle.look.fill) == ("#ff0000", None)
    assert circle.look.stroke_width_mm == pytest.approx(2 * PT)
    assert circle.look.dashes_mm == pytest.approx((3 * PT, 1 * PT))
    assert (square.look.fill, square.look.even_odd, len(square.path)) == ("#0000ff", True, 2)
    assert bounds(square.path) == pytest.approx(tuple(v * PT for v in (100, 30, 160, 90)), abs=1e-4)  # y runs down here


def test_transforms_and_forms(tmp_path):
    def draw(page):
        page.beginForm("part")
        page.rect(0, 0, 10, 10, stroke=0, fill=1)
        page.endForm()
        page.translate(20, 10)
        page.scale(2, 3)
        page.doForm("part")

    found = read_pdf(pdf(draw, tmp_path))
    assert isinstance(found.items[0], Group)
    assert bounds(found.outlines()[0].path) == pytest.approx(tuple(v * PT for v in (20, 60, 40, 90)), abs=1e-4)


@pytest.mark.parametrize(
    ("turn", "box"), [(0, (10, 75, 40, 95)), (90, (5, 10, 25, 40)), (180, (160, 5, 190, 25)), (270, (75, 160, 95, 190))]
)
def test_turned_pages(tmp_path, turn, box):
    """ISO 32000: /Rotate turns the page clockwise as it is shown."""

    path = pdf(lambda page: page.rect(10, 5, 30, 20, stroke=0, fill=1), tmp_path)
    writer = pypdf.PdfWriter(clone_from=str(path))
    writer.pages[0].rotate(turn)
    writer.write(tmp_path / "turned.pdf")
    found = read_pdf(tmp_path / "turned.pdf")
    assert found.page_mm == pytest.approx((200 * PT, 100 * PT) if turn % 180 == 0 else (100 * PT, 200 * PT))
    assert bounds(found.outlines()[0].path) == pytest.approx(tuple(v * PT for v in box), abs=1e-4)


def test_user_units(tmp_path):
    """ISO 32000: UserUnit 10 makes a unit 10/72 in."""
    writer = pypdf.PdfWriter(clone_from=str(pdf(lambda page: page.rect(10, 5, 30, 20, stroke=0, fill=1), tmp_path)))
    writer.pages[0][pypdf.generic.NameObject("/UserUnit")] = pypdf.generic.NumberObject(10)
    writer.write(tmp_path / "large.pdf")
    found = read_pdf(tmp_path / "large.pdf")
    assert found.page_mm == pytest.approx((2000 * PT, 1000 * PT))
    assert bounds(found.outlines()[0].path)[0] == pytest.approx(100 * PT, abs=1e-3)


def test_live_text_with_its_embedded_face(tmp_path):
    """The letters of an embedded face come as that face has them: areas and places against the face itself."""
    pdfmetrics.registerFont(TTFont("Pacifico", str(PACIFICO.path)))

    def draw(page):
        page.setFont("Pacifico", 40)
        page.drawString(20, 30, "Tern")

    found = read_pdf(pdf(draw, tmp_path))
    text = found.letterings()[0]
    assert text.text == "Tern"
    assert text.runs[0].size_mm == pytest.approx(40 * PT)
    assert [letter for letter, _ in text.drawn] == list("Tern")
    assert "text.live" in [f.code for f in survey(found, workshop())]
    outcome = apply(Call("outline-text"), found, workshop())
    assert outcome.evidence["face"] == "as embedded in the file"
    ours = [abs(signed_areas(o.path).sum()) for o in outcome.sheet.outlines()]
    font = open_face(PACIFICO)
    scale = 40 * PT / font.face.upem
    face = [abs(signed_areas(glyph_path(PACIFICO, font.get_nominal_glyph(ord(c)))).sum()) * scale**2 for c in "Tern"]
    assert ours == pytest.approx(face, rel=0.01)
    assert bounds(outcome.sheet.outlines()[0].path)[3] == pytest.approx((100 - 30) * PT, abs=0.1)  # on its baseline


def test_several_texts_with_embedded_faces(tmp_path):
    """PDFium adds spaces and line ends between texts, which belong to none of them."""
    pdfmetrics.registerFont(TTFont("Pacifico", str(PACIFICO.path)))

    def draw(page):
        page.setFont("Pacifico", 20)
        for x, y, words in ((10, 60, "Sea Thrift"), (140, 60, "Tern"), (10, 20, "Kittiwake")):
            page.drawString(x, y, words)

    found = read_pdf(pdf(draw, tmp_path)).letterings()
    drawn = {text.text: "".join(letter for letter, _ in text.drawn) for text in found}
    assert drawn == {"Sea Thrift": "SeaThrift", "Tern": "Tern", "Kittiwake": "Kittiwake"}


def test_a_face_that_is_not_embedded_is_missing(tmp_path):
    found = read_pdf(pdf(lambda page: (page.setFont("Helvetica", 12), page.drawString(9, 9, "Tern")), tmp_path))
    assert found.letterings()[0].drawn == ()
    assert "text.font-missing" in [f.code for f in survey(found, workshop())]


def test_lines_of_one_paragraph_are_recognised(tmp_path):
    def draw(page):
        page.setFont("Helvetica", 10)
        for line, y in (("one", 80), ("two", 68), ("three", 56), ("apart", 20)):
            page.drawString(10, y, line)

    groups = read_pdf(pdf(draw, tmp_path)).items
    assert [len(item.items) if isinstance(item, Group) else 1 for item in groups] == [3, 1]


def test_any_page_may_be_chosen(tmp_path):
    path = pdf(lambda page, n: page.rect(0, 0, 10 * (n + 1), 10, stroke=0, fill=1), tmp_path, pages=3)
    found = read_pdf(path, 3)
    assert bounds(found.outlines()[0].path)[2] == pytest.approx(30 * PT, abs=1e-4)
    assert any("page 3 of 3" in note for note in found.source.notes)
    with pytest.raises(InputError, match="has 3 pages; there is no page 4"):
        read_pdf(path, 4)


def test_a_second_reader_finds_the_same_paths(tmp_path):
    """pypdf's own parse of the content stream: as many painted paths and segments, and the same box."""
    draw_ = np.random.default_rng(3)

    def draw(page):
        for _ in range(12):
            x, y = draw_.uniform(20, 150), draw_.uniform(20, 80)
            path = page.beginPath()
            path.moveTo(x, y)
            path.curveTo(*draw_.uniform(10, 90, 6))
            path.lineTo(*draw_.uniform(10, 90, 2))
            path.close()
            page.drawPath(path, stroke=0, fill=1)

    path = pdf(draw, tmp_path)
    content = pypdf.generic.ContentStream(pypdf.PdfReader(path).pages[0].get_contents(), None)
    operators = [name for _, name in content.operations]
    nodes = [float(v) for values, name in content.operations if name in (b"m", b"l") for v in values]
    found = read_pdf(path).outlines()
    assert len(found) == operators.count(b"f") + operators.count(b"f*") == 12
    assert sum(int((o.path.degrees == 3).sum()) for o in found) == operators.count(b"c")
    ours = np.concatenate([o.path.points[:, 0] for o in found])
    assert {round(v, 2) for v in nodes[0::2]} <= {round(v, 2) for v in (ours[:, 0] / PT).tolist()}


@pytest.mark.parametrize(
    ("data", "words"), [(b"", "is empty"), (b"%PDF-1.7\nnothing", "damaged"), (b"<svg/>", "not a PDF")]
)
def test_files_that_are_no_pdf(tmp_path, data, words):
    (tmp_path / "a.pdf").write_bytes(data)
    with pytest.raises(InputError, match=words):
        read_pdf(tmp_path / "a.pdf")


def test_encrypted_and_pictures(tmp_path):
    def draw(page):
        image = io.BytesIO(b"P6 1 1 255 \xff\x00\x00")
        from reportlab.lib.utils import ImageReader

        page.drawImage(ImageReader(image), 10, 10, 50, 20)

    path = pdf(lambda page: page.rect(1, 1, 5, 5), tmp_path)
    writer = pypdf.PdfWriter(clone_from=str(path))
    writer.encrypt("sea", algorithm="RC4-128")
    writer.write(tmp_path / "locked.pdf")
    with pytest.raises(InputError, match="protected by a password"):
        read_pdf(tmp_path / "locked.pdf")
    found = read_pdf(pdf(draw, tmp_path))
    assert [type(item) for item in found.items] == [Picture]
    assert found.items[0].box == pytest.approx(tuple(v * PT for v in (10, 70, 60, 90)), abs=1e-4)
