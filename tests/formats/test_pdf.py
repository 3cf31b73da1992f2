"""PDF, written by a general-purpose library and by hand, against known figures and a second reader."""

import ctypes
import io
import math
import os
import struct
import zlib

import numpy as np
import pypdf
import pypdfium2
import pypdfium2.raw as pdfium
import pytest
import uharfbuzz as hb
from pypdf.generic import ArrayObject, DecodedStreamObject, DictionaryObject, NameObject, TextStringObject
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen import canvas

from tests.builders import workshop
from unkelt.errors import InputError, StepRefused
from unkelt.formats.files import read_bytes
from unkelt.formats.pdf import read
from unkelt.formats.pdf.read import read_pdf
from unkelt.formats.svg.read import parse_svg
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds, join_boxes, signed_areas
from unkelt.lettering.faces import open_face
from unkelt.lettering.shaping import glyph_path
from unkelt.lettering.shelves import bundled_faces
from unkelt.recipe import Call, Stage, apply
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Group, Lettering, Picture, Run, Sheet
from unkelt.survey.checks import survey
from unkelt.survey.finding import Level
from unkelt.verdict.case import Case
from unkelt.verdict.painted import pictures_of

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


@pytest.mark.parametrize("turn", [0, 90, 180, 270])
def test_what_a_page_inherits_holds(tmp_path, turn):
    """ISO 32000-1, table 30: a page has the boxes, the turn and the resources of what it stands in."""
    path = pdf(lambda page: page.rect(10, 5, 30, 20, stroke=0, fill=1), tmp_path)
    writer = pypdf.PdfWriter(clone_from=str(path))
    page, tree = writer.pages[0], writer.root_object["/Pages"]
    page.rotate(turn)
    page.cropbox = pypdf.generic.RectangleObject((5, 0, 900, 90))  # cut off where the sheet ends (14.11.2.1)
    writer.write(tmp_path / "own.pdf")
    for name in ("/MediaBox", "/CropBox", "/Rotate", "/Resources"):
        tree[pypdf.generic.NameObject(name)] = page.pop(name)
    writer.write(tmp_path / "inherited.pdf")
    own, inherited = (read_pdf(tmp_path / name) for name in ("own.pdf", "inherited.pdf"))
    assert inherited.page_mm == pytest.approx((195 * PT, 90 * PT) if turn % 180 == 0 else (90 * PT, 195 * PT))
    assert inherited.outlines() == own.outlines()


def test_user_units(tmp_path):
    """ISO 32000: UserUnit 10 makes a unit 10/72 in; each page has its own."""
    path = pdf(lambda page: page.rect(10, 5, 30, 20, stroke=0, fill=1), tmp_path)
    writer = pypdf.PdfWriter(clone_from=str(path))
    writer.append(str(path))
    for page, unit in zip(writer.pages, (10, 2), strict=True):
        page[pypdf.generic.NameObject("/UserUnit")] = pypdf.generic.NumberObject(unit)
    writer.write(tmp_path / "large.pdf")
    for number, unit in ((1, 10), (2, 2)):
        found = read_pdf(tmp_path / "large.pdf", number)
        assert found.page_mm == pytest.approx((unit * 200 * PT, unit * 100 * PT))
        assert bounds(found.outlines()[0].path)[0] == pytest.approx(unit * 10 * PT, abs=1e-3)


def test_a_user_unit_in_a_packed_stream_counts(tmp_path):
    """ISO 32000-1, 7.5.7: objects may stand in a stream, where looking through the file's bytes finds none."""
    objects = [
        b"<</Type/Catalog/Pages 2 0 R>>",
        b"<</Type/Pages/Kids[3 0 R]/Count 1>>",
        b"<</Type/Page/Parent 2 0 R/MediaBox[0 0 200 100]/UserUnit 10/Contents 4 0 R>>",
    ]
    places = [sum(len(one) + 1 for one in objects[:at]) for at in range(3)]
    index = " ".join(f"{number} {place}" for number, place in enumerate(places, 1)).encode() + b"\n"
    packed = zlib.compress(index + b"\n".join(objects))
    drawn = b"10 5 30 20 re f"
    made = b"%%PDF-1.5\n4 0 obj<</Length %d>>stream\n%s\nendstream endobj\n" % (len(drawn), drawn)
    stream = len(made)
    head = b"<</Type/ObjStm/N 3/First %d/Filter/FlateDecode/Length %d>>" % (len(index), len(packed))
    made += b"5 0 obj%sstream\n%s\nendstream endobj\n" % (head, packed)
    entries = [(0, 0, 255), (2, 5, 0), (2, 5, 1), (2, 5, 2), (1, 9, 0), (1, stream, 0), (1, len(made), 0)]
    table = b"".join(struct.pack(">BHB", *entry) for entry in entries)
    head = b"<</Type/XRef/Size 7/W[1 2 1]/Root 1 0 R/Length %d>>" % len(table)
    made += b"6 0 obj%sstream\n%s\nendstream endobj\nstartxref %d\n%%%%EOF" % (head, table, len(made))
    (path := tmp_path / "packed.pdf").write_bytes(made)
    assert read_pdf(path).page_mm == pytest.approx((2000 * PT, 1000 * PT))


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
    assert outcome.evidence.face == "as embedded in the file"
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


def shaped_pdf(words, tmp_path, unicode_of=None, turn=0.0):
    """A PDF as modern writers make it: glyphs shaped by HarfBuzz, shown by their numbers (ISO 32000-1, 9.7.4.2)."""
    data = PACIFICO.path.read_bytes()
    document = pypdfium2.PdfDocument.new()
    page = document.new_page(500, 200)
    held = (ctypes.c_uint8 * len(data)).from_buffer_copy(data)
    font = pdfium.FPDFText_LoadFont(document.raw, held, len(data), pdfium.FPDF_FONT_TRUETYPE, True)
    buffer = hb.Buffer()
    buffer.add_str(words)
    buffer.guess_segment_properties()
    hb.shape(hb.Font(hb.Face(data)), buffer)
    numbers = [info.codepoint for info in buffer.glyph_infos]
    text = pdfium.FPDFPageObj_CreateTextObj(document.raw, font, 40.0)
    pdfium.FPDFText_SetCharcodes(text, (ctypes.c_uint32 * len(numbers))(*numbers), len(numbers))
    cos, sin = math.cos(turn), math.sin(turn)
    pdfium.FPDFPageObj_Transform(text, cos, sin, -sin, cos, 40, 80)
    pdfium.FPDFPage_InsertObject(page.raw, text)
    pdfium.FPDFPage_GenerateContent(page.raw)
    path = tmp_path / "shaped.pdf"
    document.save(path)
    writer = pypdf.PdfWriter(clone_from=path)
    if unicode_of:
        for said in writer.pages[0]["/Resources"]["/Font"].values():
            listed = "".join(
                f"<{number:04x}> <{letters.encode('utf-16-be').hex()}>\n" for number, letters in unicode_of(numbers)
            )
            cmap = pypdf.generic.DecodedStreamObject()
            cmap.set_data(
                f"/CIDInit /ProcSet findresource begin 12 dict begin begincmap /CMapType 2 def 1 begincodespacerange "
                f"<0000> <ffff> endcodespacerange {len(numbers)} beginbfchar\n{listed}endbfchar endcmap end end".encode()
            )
            said.get_object()[pypdf.generic.NameObject("/ToUnicode")] = writer._add_object(cmap)
    writer.write(path)
    return path, numbers


@pytest.mark.parametrize("turn", [0.0, 0.3])
def test_ligatures_and_forms_come_by_their_code_not_by_their_letters(tmp_path, turn):
    """“misfits differ” in a face with ligatures: what is drawn is what the shaper chose, whatever letters are said of
    it.
    """
    clusters = ["m", "i", "s", "fi", "t", "s", " ", "d", "i", "ff", "e", "r"]
    path, numbers = shaped_pdf("misfits differ", tmp_path, lambda numbers: zip(numbers, clusters, strict=True), turn)
    text = read_pdf(path).letterings()[0]
    assert "".join(letters for letters, _ in text.drawn) == "misfitsdiffer"
    scale = 40 * PT / open_face(PACIFICO).face.upem
    meant = [
        abs(signed_areas(glyph_path(PACIFICO, n)).sum()) * scale**2 for n in numbers if len(glyph_path(PACIFICO, n))
    ]
    assert [abs(signed_areas(curves).sum()) for _, curves in text.drawn] == pytest.approx(meant, rel=1e-4)
    outlined = apply(Call("outline-text"), read_pdf(path), workshop())
    picture = np.asarray(pypdfium2.PdfDocument(path)[0].render(scale=1).to_pil().convert("L")) < 128
    rows, columns = np.nonzero(picture)
    box = join_boxes([bounds(o.path) for o in outlined.sheet.outlines()])
    ink = [columns.min() * PT, rows.min() * PT, (columns.max() + 1) * PT, (rows.max() + 1) * PT]
    assert box == pytest.approx(ink, abs=1.5 * PT)  # a pixel of PDFium's own picture


def test_a_form_of_a_letter_that_cant_be_found_holds(tmp_path, monkeypatch):
    """Asked for by its letter, a ligature's first letter comes: that isn't what is drawn, and nothing is set
    instead.
    """
    clusters = ["m", "i", "s", "fi", "t", "s", " ", "d", "i", "ff", "e", "r"]
    path, _ = shaped_pdf("misfits differ", tmp_path, lambda numbers: zip(numbers, clusters, strict=True))
    monkeypatch.setattr(read, "shown_by", lambda *_: [])
    found = read_pdf(path)
    assert found.letterings()[0].drawn == ()
    said = next(finding for finding in survey(found, workshop()) if finding.code == "text.live")
    assert said.level == Level.HOLD
    assert "forms of letters that only its own face has" in said.message
    with pytest.raises(StepRefused):
        apply(Call("outline-text"), found, workshop())


def test_lines_joined_to_a_paragraph_and_taken_apart_lose_no_letter(tmp_path):
    pdfmetrics.registerFont(TTFont("Pacifico", str(PACIFICO.path)))

    def draw(page):
        page.setFont("Pacifico", 20)
        for line, words in enumerate(("Sea Thrift", "Tern Quay", "Shore")):
            page.drawString(20, 80 - 30 * line, words)

    found = read_pdf(pdf(draw, tmp_path))
    before = apply(Call("outline-text"), found, workshop()).sheet.outlines()
    whole = apply(Call("join-text", tuple(text.id for text in found.letterings())), found, workshop())
    assert (whole.evidence.letters_before, whole.evidence.letters_after) == (22, 22)
    assert whole.sheet.letterings()[0].text == "Sea Thrift Tern Quay Shore"
    after = apply(Call("outline-text"), whole.sheet, workshop()).sheet.outlines()
    assert len(after) == len(before) == 22
    for one, other in zip(before, after, strict=True):
        np.testing.assert_allclose(one.path.points, other.path.points, atol=1e-9)
    words = apply(Call("split-text", options={"by": "words"}), whole.sheet, workshop()).sheet.letterings()
    assert [text.text for text in words] == ["Sea", "Thrift", "Tern", "Quay", "Shore"]
    assert [len(text.drawn) for text in words] == [3, 6, 4, 4, 5]


def test_patterns_form_fields_and_annotations_are_told_at_reading(tmp_path):
    def draw(page):
        page.rect(10, 10, 50, 50, fill=1)
        page.acroForm.textfield(name="size", x=10, y=70, width=60, height=20)
        page.textAnnotation("call before cutting", (100, 50, 120, 70))

    path = pdf(draw, tmp_path)
    said = [remark.words for remark in read_pdf(path).source.remarks]
    assert "a form field lies over the page and was left out: importing drops it" in said
    assert "an annotation lies over the page and was left out: importing drops it" in said
    writer = pypdf.PdfWriter(clone_from=path)
    tile = pypdf.generic.DecodedStreamObject()
    tile.set_data(b"1 0 0 rg 0 0 4 4 re f")
    names, numbers = pypdf.generic.NameObject, pypdf.generic.NumberObject
    for key, value in {
        "Type": names("/Pattern"),
        "PatternType": numbers(1),
        "PaintType": numbers(1),
        "TilingType": numbers(1),
        "BBox": pypdf.generic.ArrayObject(map(numbers, (0, 0, 8, 8))),
        "XStep": numbers(8),
        "YStep": numbers(8),
        "Resources": pypdf.generic.DictionaryObject(),
    }.items():
        tile[names(f"/{key}")] = value
    page = writer.pages[0]
    page["/Resources"][names("/Pattern")] = pypdf.generic.DictionaryObject({names("/P1"): writer._add_object(tile)})
    content = pypdf.generic.DecodedStreamObject()
    content.set_data(b"/Pattern cs /P1 scn 10 10 80 40 re f")
    page[names("/Contents")] = writer._add_object(content)
    writer.write(path)
    found = read_pdf(path)
    assert any("may be painted with a pattern" in remark.words and remark.items for remark in found.source.remarks)
    assert "content.effect" in {finding.code for finding in survey(found, workshop())}


def test_control_characters_of_a_text_are_in_no_file_that_is_written(tmp_path):
    odd = Lettering(
        "a\x01b",
        (Run("Se\x00a\x0b Th\x1frift\ufffe", FaceQuery(("Paci\x02fico",)), 12.0, Appearance(), at=(0.0, 0.0)),),
        label="x\x07y",
    )
    on = Sheet((50.0, 50.0), (odd, Group("g", (), "lay\x03er")))
    again = parse_svg(write_svg(on))
    assert again.letterings()[0].text == "Sea  Thrift"
    (tmp_path / "pipe").parent.mkdir(exist_ok=True)
    os.mkfifo(tmp_path / "pipe")
    with pytest.raises(InputError, match="is a pipe or a device"):
        read_bytes(tmp_path / "pipe")


def test_text_keeps_its_opacity_and_says_whether_it_is_filled_stroked_or_seen_at_all(tmp_path):
    """ISO 32000-1, table 106: rendering mode 1 strokes, 3 shows nothing, as beneath a scanned page; 11.6.4.4: constant
    alpha.
    """
    pdfmetrics.registerFont(TTFont("Pacifico", str(PACIFICO.path)))

    def draw(page):
        for line, mode in enumerate((0, 1, 3)):
            text = page.beginText(20, 80 - 30 * line)
            text.setFont("Pacifico", 20)
            text.setTextRenderMode(mode)
            page.setFillAlpha(0.5 if mode == 0 else 1)
            text.textOut("Tern")
            page.drawText(text)

    looks = [text.runs[0].look for text in read_pdf(pdf(draw, tmp_path)).letterings()]
    assert [(look.fill is not None, look.stroke is not None) for look in looks] == [
        (True, False),
        (False, True),
        (False, False),
    ]
    assert looks[0].fill_opacity == pytest.approx(0.5, abs=0.01)


def test_a_font_whose_face_is_not_carried_or_damaged_is_no_crash(tmp_path):
    path, _ = shaped_pdf("Tern", tmp_path)
    for spoil in ("gone", "damaged"):
        writer = pypdf.PdfWriter(clone_from=path)
        (font,) = writer.pages[0]["/Resources"]["/Font"].values()
        descriptor = font.get_object()["/DescendantFonts"][0].get_object()["/FontDescriptor"].get_object()
        if spoil == "gone":
            del descriptor["/FontFile2"]
        else:
            descriptor["/FontFile2"].get_object().set_data(b"\x00\x01\x00\x00" + bytes(200))
        writer.write(tmp_path / "spoilt.pdf")
        (text,) = read_pdf(tmp_path / "spoilt.pdf").letterings()
        assert text.drawn == ()


def test_the_page_that_was_read_is_the_one_that_is_painted_without_what_lies_over_it(tmp_path):
    def draw(page, number):
        page.rect(20, 20, 60, 40 - 10 * number, fill=1)
        page.textAnnotation("call before cutting", (100, 50, 120, 70))

    path = pdf(draw, tmp_path, pages=2)
    for page in (1, 2):
        case = Case(path, read_pdf(path, page), workshop())
        assert pictures_of(case).differences == ()


def test_strokes_come_with_where_dashes_start_how_they_are_skewed_and_where_mitres_end(tmp_path):
    """ISO 32000-1, 8.4.3: line width, mitre limit, dash pattern; all are of the space the path is drawn in."""

    def draw(page):
        page.setMiterLimit(2)
        page.setDash([10, 4], 3)
        page.line(10, 10, 190, 10)
        page.setDash()
        page.scale(2, -1)
        page.setLineWidth(3)
        page.line(10, -50, 90, -50)
        page.setLineWidth(0)
        page.line(10, -70, 90, -70)

    found = read_pdf(pdf(draw, tmp_path))
    dashed, skewed, thin = (outline.look for outline in found.outlines())
    assert dashed.dashes_mm == pytest.approx((10 * PT, 4 * PT))
    assert dashed.dash_offset_mm == pytest.approx(3 * PT)
    assert {dashed.mitre_limit, skewed.mitre_limit} == {2.0}
    width, across = skewed.stroke_width_mm, np.abs(np.array(skewed.pen).reshape(2, 2).T @ (1, 0))
    assert width * across.max() == pytest.approx(6 * PT)
    assert thin.stroke_width_mm > 0.1
    assert any("line width of 0" in note for note in found.source.notes)


def layered(tmp_path, off, names=("Cut", "Notes"), *, apart=False):
    """Two squares on layers of these names, of which one is off; apart, each list is an object of its own."""
    writer = pypdf.PdfWriter()
    page = writer.add_blank_page(200, 100)
    stream = DecodedStreamObject()
    stream.set_data(b"/OC /A BDC 10 10 40 40 re f EMC /OC /B BDC 60 10 40 40 re f EMC")
    group = NameObject("/OCG")
    groups = [
        writer._add_object(DictionaryObject({NameObject("/Type"): group, NameObject("/Name"): TextStringObject(name)}))
        for name in names
    ]
    properties = DictionaryObject(zip(map(NameObject, ("/A", "/B")), groups, strict=True))
    page[NameObject("/Contents")] = writer._add_object(stream)
    page[NameObject("/Resources")] = DictionaryObject({NameObject("/Properties"): properties})
    place = writer._add_object if apart else lambda held: held
    usual = {NameObject("/OFF"): place(ArrayObject([groups[off]]))}
    page["/Resources"][NameObject("/Pattern")] = place(DictionaryObject())
    writer.root_object[NameObject("/OCProperties")] = place(
        DictionaryObject({NameObject("/OCGs"): place(ArrayObject(groups)), NameObject("/D"): DictionaryObject(usual)})
    )
    path = tmp_path / "layers.pdf"
    writer.write(path)
    return path


@pytest.mark.parametrize(("off", "apart"), [(0, False), (1, False), (1, True)])
def test_what_is_on_a_layer_that_is_off_is_hidden(tmp_path, off, apart):
    """ISO 32000-1, 8.11.4.3; and the renderer's picture of it is the same."""
    path = layered(tmp_path, off, apart=apart)
    found = read_pdf(path)
    assert not found.source.remarks
    assert [outline.look.visible for outline in found.outlines()] == [off != 0, off != 1]
    assert "content.hidden" in {finding.code for finding in survey(found, workshop())}
    assert not pictures_of(Case(path, found, workshop(), (), received=read_bytes(path))).lost


def test_layers_of_one_name_are_told(tmp_path):
    found = read_pdf(layered(tmp_path, 1, ("Cut", "Cut")))
    assert all(outline.look.visible for outline in found.outlines())
    assert sum("layers are called" in note for note in found.source.notes) == 1


def test_blending_other_pages_and_the_edge_of_a_form_are_told(tmp_path):
    def draw(page, number):
        page.beginForm(f"f{number}", 0, 0, 40, 40)
        page.rect(0, 0, 40, 40, stroke=number, fill=1)
        page.endForm()
        page.doForm(f"f{number}")
        page.setFillAlpha(1)
        page._setStrokeAlpha(1)
        page._extgstate.set(page, "BM", "Multiply")
        page.rect(50, 10, 40, 40, stroke=0, fill=1)

    plain, edged = (read_pdf(pdf(draw, tmp_path, pages=2), page) for page in (1, 2))
    for found, cut in ((plain, False), (edged, True)):
        assert any("blend mode" in note for note in found.source.notes)
        assert any("hidden by a clip" in note for note in found.source.notes) == cut
        assert "content.pages" in {finding.code for finding in survey(found, workshop())}


def test_the_stroke_of_text_is_scaled_by_the_page_and_not_by_the_text(tmp_path):
    """ISO 32000-1, 9.3.6: many programs write 48 points as size 1 in a text matrix of 48. And PDFium paints it so."""

    def draw(page):
        pdfmetrics.registerFont(TTFont("Pacifico", str(PACIFICO.path)))
        page.setLineWidth(2)
        page._code.append("/NoSuchState gs")  # PDFium passes over what a page names and hasn't got
        for scale, size, turn in ((48, 1, 0), (1, 24, 0.3)):
            page.saveState()
            page.scale(1.5 if size > 1 else 1, 1)
            text = page.beginText()
            text.setFont("Pacifico", size)
            text.setTextTransform(scale, 0, turn * scale, scale, 10, 55 if size == 1 else 10)
            text.setTextRenderMode(1)
            text.textOut("Te")
            page.drawText(text)
            page.restoreState()

    path = pdf(draw, tmp_path)
    found = read_pdf(path)
    large, wide = (text.runs[0].look for text in found.letterings())
    assert (large.stroke_width_mm, large.pen) == (pytest.approx(2 * PT), None)
    assert wide.stroke_width_mm == pytest.approx(2 * PT * 1.5**0.5)
    outlined = apply(Call("outline-text"), found, workshop())
    stages = (Stage(Call("outline-text"), outlined.sheet, outlined),)
    assert not pictures_of(Case(path, found, workshop(), stages, received=read_bytes(path))).lost
