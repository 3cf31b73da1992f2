"""Pictures by somebody else: the file as received and the file as written, painted by renderers that share no code with
our readers and writers, and laid upon each other.

SVG is painted by resvg, PDF by PDFium. DXF and HPGL have no renderer of their own here: what the proof's readers make
of them is painted by resvg. `pixels.py` says where two pictures differ.
"""

from __future__ import annotations

import io
import re
import tempfile
import zlib
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path as FilePath

import numpy as np
from fontTools.misc.transform import Transform
from lxml import etree
from PIL import Image

from unkelt.account.whole import Whole
from unkelt.errors import InputError
from unkelt.geometry.measure import bounds, join_boxes
from unkelt.geometry.path import Path
from unkelt.job.cutting_order import in_order
from unkelt.job.ticket import Ticket
from unkelt.lettering.faces import Shelf
from unkelt.messages import say
from unkelt.proof.imported import Imported, as_sheet
from unkelt.proof.importer import import_file
from unkelt.proof.known import known_of
from unkelt.proof.painter import Order, paint
from unkelt.proof.pixels import FINEST_MM, Mask, Pictures, Pixels, compared
from unkelt.sheet.appearance import DEFAULT_STROKE_MM, Appearance
from unkelt.sheet.change import growth
from unkelt.sheet.model import Outline, Sheet

LONGEST_PX = 1000
"""A picture has so many pixels along its longer side, but none smaller than `FINEST_MM`."""

FINER = 2
"""How much finer a picture is painted, and softened to its size then, where something differs: resvg knows four steps
of how much of a pixel's width lies inside an edge, so that one which moved by next to nothing may be a quarter paler.
"""

ORDERED = ("DXF", "HPGL")
"""Formats whose lines stand in the order of work, not of paint."""

PLOTTED_MM = 0.05
"""A plotter's own steps are half as long: nothing finer is compared."""


def compare(
    received: bytes,
    source: FilePath,
    original: Sheet,
    written_svg: bytes,
    sheet: Sheet,
    whole: Whole,
    ticket: Ticket,
    shelf: Shelf,
) -> Pictures:
    """Paints the file as received (its bytes, and a name that tells its kind) and the sheet as written in SVG, and
    tells where they differ.

    `original` and `sheet` are what was read and what was meant to be written. A file that its renderer can't paint is
    said in `skipped`.
    """
    px_mm = _px_mm(sheet)
    scale = growth(whole.matrix) or 1.0

    def looked(finer: int) -> Pictures:
        ours = _as_thick(written_svg, px_mm) if original.source.kind == "PDF" else written_svg
        meant = _Drawing(ours, *_size(sheet, px_mm), _font_files(sheet, shelf), finer, sheet.page_mm)
        after, before = _painted(meant, _received(received, source, original, px_mm / scale, ticket, shelf, finer))
        rows, columns = after.shape[:2]
        before, shown = _carried(before, px_mm / scale, whole.matrix, (rows, columns), px_mm)
        seen = np.where(shown[..., None], after, before)  # beyond its page, a file as received shows nothing
        found = compared(before, seen, px_mm, whole.seen(ticket, shelf), known_of(original, whole.matrix, shelf))
        return replace(found, written=after)

    try:
        return _at_most_finer(looked)
    except (InputError, ValueError, OSError, zlib.error) as problem:
        return Pictures.none(_reason(problem))


def compare_format(written: FilePath, written_svg: bytes, sheet: Sheet, ticket: Ticket) -> Pictures:
    """Paints a sheet as written in another format, and as written in SVG. Formats that know lines only are laid beside
    the lines of the sheet.
    """
    px_mm = _px_mm(sheet)
    size = _size(sheet, px_mm)

    def looked(finer: int) -> Pictures:
        ours = _Drawing(_as_thick(written_svg, px_mm / finer), *size, finer=finer, page_mm=sheet.page_mm)
        before, after = _painted(ours, _by_pdfium(written.read_bytes(), *size, finer=finer))
        return compared(before, after, px_mm, (), ())

    try:
        if written.suffix.lower() == ".pdf":
            return _at_most_finer(looked)
        return compare_read(import_file(written), sheet, ticket)
    except (InputError, ValueError, OSError) as problem:
        return Pictures.none(_reason(problem))


def compare_read(found: Imported, sheet: Sheet, ticket: Ticket) -> Pictures:
    """Paints the lines of a sheet, and those that an importer read of it, each in its colour, and lays them beside each
    other.
    """
    px_mm = max(_px_mm(sheet), PLOTTED_MM if found.kind == "HPGL" else 0.0)
    shown = [outline for outline in sheet.outlines() if outline.look.shown]
    if found.kind in ORDERED:  # lines on top of each other are seen in the colour of the last
        shown = in_order(shown, ticket)
    meant = [(outline.path, _line_colour(outline.look, found.kind, ticket)) for outline in shown]
    read = [(outline.path, outline.look.colour or "#000000") for outline in as_sheet(found, ticket.key).outlines()]
    svgs = [
        _svg([_line_mark(path.transformed(shift), colour) for path, colour in lines], sheet.page_mm, 2 * px_mm)
        for lines, shift in ((meant, Transform()), (read, _shift(found, sheet)))
    ]

    def looked(finer: int) -> Pictures:
        size = _size(sheet, px_mm)
        before, after = _painted(*(_Drawing(svg, *size, finer=finer, page_mm=sheet.page_mm) for svg in svgs))
        return compared(before, after, px_mm, (), ())

    try:
        return _at_most_finer(looked)
    except (ValueError, OSError) as problem:
        return Pictures.none(_reason(problem))


def _at_most_finer(looked: Callable[[int], Pictures]) -> Pictures:
    """The pictures, painted finer where something seems to differ."""
    found = looked(1)
    return looked(FINER) if found.lost else found


def _reason(problem: Exception) -> str:
    return next(iter(str(problem).splitlines()), type(problem).__name__)


def _px_mm(sheet: Sheet) -> float:
    return max(max(sheet.page_mm) / LONGEST_PX, FINEST_MM)


def _size(sheet: Sheet, px_mm: float) -> tuple[int, int]:
    """Columns and rows."""
    return max(1, round(sheet.page_mm[0] / px_mm)), max(1, round(sheet.page_mm[1] / px_mm))


# painting


def _received(
    data: bytes, source: FilePath, original: Sheet, px_mm: float, ticket: Ticket, shelf: Shelf, finer: int
) -> Pixels | _Drawing:
    """The received file as its renderer paints it, or is to paint it, so many mm a pixel."""
    size = _size(original, px_mm)
    if original.source.kind == "PDF":
        return _by_pdfium(data, *size, original.source.page)
    if original.source.kind == "SVG":
        sure = original.source.scale.per_inch in (None, 96)
        if "none" in original.source.units:
            data = _on_page(data, original.page_mm)
        return _Drawing(data, *size, _font_files(original, shelf), finer, original.page_mm if sure else None)
    with tempfile.TemporaryDirectory() as folder:
        copy = FilePath(folder) / f"file{source.suffix.lower() or '.dxf'}"
        copy.write_bytes(data)
        try:
            found = import_file(copy)
        except InputError as problem:  # which names the copy
            raise ValueError(problem.reason) from problem
    if found.unread:
        raise ValueError(say("the independent reader doesn't know {kinds}", kinds=", ".join(found.unread)))
    shown = [outline for outline in as_sheet(found).outlines() if outline.look.shown]
    shift, hairline = _shift(found, original), ticket.machine.hairline_mm
    drawing = _svg(_marks(shown, shift, hairline), original.page_mm, hairline)
    return _Drawing(drawing, *size, finer=finer, page_mm=original.page_mm)


def _on_page(data: bytes, page_mm: tuple[float, float]) -> bytes:
    """A drawing in SVG that tells no page, on the one that it was read on: resvg would cut one around what it draws."""
    plain = _plain(data)
    parser = etree.XMLParser(
        no_network=True,
        huge_tree=b"<!ENTITY" not in plain,
        resolve_entities="internal",  # type: ignore[arg-type]  # newer than the stubs
    )
    try:
        root = etree.fromstring(plain, parser)
    except etree.XMLSyntaxError:  # which resvg will say in its own words
        return data
    if "viewBox" in root.attrib:
        return data
    for side, length in zip(("width", "height"), page_mm, strict=True):
        root.set(side, f"{length}mm")
    return etree.tostring(root)


def _shift(found: Imported, sheet: Sheet) -> Transform:
    """From where a reader puts a drawing to where it lies on the sheet: some formats have no page."""
    here, there = join_boxes([box for body in found.bodies if (box := bounds(body.path))]), sheet.drawn_box()
    if not here or not there or found.kind == "PDF":
        return Transform()
    return Transform().translate(there[0] - here[0], there[1] - here[1])


def _line_colour(look: Appearance, kind: str, ticket: Ticket) -> str:
    """What a line of a sheet is drawn in; a plotter's pen stands for an operation."""
    if kind != "HPGL":
        return look.colour or "#000000"
    operation = ticket.operation(look)
    return next((colour for colour, meaning in ticket.key.items() if meaning is operation), "#000000")


def _line_mark(path: Path, colour: str, more: str = "") -> str:
    """A line as a part of a drawing that a renderer paints."""
    return f'<path stroke="{colour}"{more} d="{_path_data(path)}"/>' if len(path) else ""


def _marks(outlines: Iterable[Outline], shift: Transform, hairline_mm: float) -> list[str]:
    """Outlines as parts of a drawing: areas, and lines, which have a width where it isn't the usual one. They are
    shifted here: far from the origin, numbers of the renderer are too coarse.
    """
    marks = []
    for path, look in ((each.path.transformed(shift), each.look) for each in outlines):
        if look.fill:
            paint = f'fill="{look.fill}" fill-opacity="{look.fill_opacity:.5f}" fill-rule="evenodd"'
            marks.append(f'<path {paint} stroke="none" d="{_path_data(path)}"/>')
            continue
        more = f' stroke-opacity="{look.stroke_opacity:.5f}"' if look.stroke_opacity < 1 else ""
        if look.stroke_width_mm not in (DEFAULT_STROKE_MM, hairline_mm):
            more += f' stroke-width="{look.stroke_width_mm:.5f}"'
        marks.append(_line_mark(path, look.stroke or "#000000", more))
    return marks


def _svg(marks: Sequence[str], page_mm: tuple[float, float], width_mm: float) -> bytes:
    """Marks as a drawing that a renderer paints, lines of no width of their own so many mm wide."""
    size = f'width="{page_mm[0]}mm" height="{page_mm[1]}mm" viewBox="0 0 {page_mm[0]} {page_mm[1]}"'
    place = f'fill="none" stroke-width="{width_mm:.5f}"'
    return f'<svg xmlns="http://www.w3.org/2000/svg" {size}><g {place}>{"".join(marks)}</g></svg>'.encode()


def _path_data(path: Path) -> str:
    said: list[str] = []
    for part in path.subpaths():
        cubics = part.cubics().tolist()
        said.append("M{:.5f} {:.5f}".format(*cubics[0][0]))
        said += ["C" + " ".join(f"{x:.5f} {y:.5f}" for x, y in cubic[1:]) for cubic in cubics]
        said += ["Z"] if part.closed[0] else []
    return "".join(said)


@dataclass(frozen=True)
class _Drawing:
    """What resvg is to paint: a file's bytes, so many pixels large, with the files of its faces, so many times
    finer. The size of its page is given where it is certain.
    """

    data: bytes
    columns: int
    rows: int
    faces: Sequence[str] = ()
    finer: int = 1
    page_mm: tuple[float, float] | None = None

    def order(self) -> Order:
        return Order(_decoded(_plain(self.data)), self.columns * self.finer, self.faces)

    def pixels(self, png: bytes) -> Pixels:
        size = (self.columns, self.rows)
        with Image.open(io.BytesIO(png)) as image:
            found = self._true(image.convert("RGB"))
            return np.asarray(found if found.size == size else found.resize(size, Image.Resampling.BOX))

    def _true(self, image: Image.Image) -> Image.Image:
        """resvg takes a page for as wide as the nearest whole number of its pixels, 96 to the inch, and paints by that:
        on a page of 20 mm, everything at the far edge would lie half a percent off.
        """
        if self.page_mm is None:
            return image
        wide, high = (max(length * 96 / 25.4, 1e-6) for length in self.page_mm)
        whole = max(round(wide), 1)
        across, down = wide / whole, high * self.columns / (self.rows * whole)
        grid = self.columns * self.finer, self.rows * self.finer
        affine = (across, 0.0, 0.0, 0.0, down, 0.0)
        white = (255, 255, 255)
        return image.transform(grid, Image.Transform.AFFINE, affine, Image.Resampling.NEAREST, fillcolor=white)


def _painted(*wanted: Pixels | _Drawing) -> list[Pixels]:
    """Pictures, those that resvg paints all at once. Raises ValueError where one can't be painted."""
    drawings = [each for each in wanted if isinstance(each, _Drawing)]
    pngs = iter(paint([drawing.order() for drawing in drawings]))
    return [each.pixels(next(pngs)) if isinstance(each, _Drawing) else each for each in wanted]


def _as_thick(written_svg: bytes, px_mm: float) -> bytes:
    """A sheet as written, with lines as thick as PDFium paints them: never less than a pixel, where resvg makes them
    pale.
    """
    return re.sub(
        rb'stroke-width="([\d.]+)"',
        lambda found: b'stroke-width="%.5f"' % max(float(found[1]), px_mm),
        written_svg,
    )


def _plain(data: bytes) -> bytes:
    return zlib.decompress(data, wbits=31) if data[:2] == b"\x1f\x8b" else data


def _decoded(data: bytes) -> str:
    """The text of an XML file, without a declaration of its encoding, which no longer holds."""
    told = re.match(rb"<\?xml[^>]*encoding=[\"']([\w-]+)", data.lstrip(b"\xef\xbb\xbf \r\n\t"))
    text = data.decode("utf-16") if data[:2] in (b"\xff\xfe", b"\xfe\xff") else ""
    if not text:
        with suppress(LookupError):
            text = data.decode(told[1].decode() if told else "utf-8", "replace")
    return re.sub(r"^\s*<\?xml[^>]*\?>", "", (text or data.decode("utf-8", "replace")).lstrip("\ufeff"))


def _by_pdfium(data: bytes, columns: int, rows: int, number: int = 1, finer: int = 1) -> Pixels:
    from unkelt.proof.pdf_page import paint_page

    return paint_page(data, columns, rows, number, finer)


def _font_files(sheet: Sheet, shelf: Shelf) -> list[str]:
    """The files of the faces that live text is set in."""
    queries = dict.fromkeys(run.face for text in sheet.letterings() for run in text.runs)
    faces = dict.fromkeys(shelf.match(query) for query in queries)
    return [str(face.path) for face in faces if face is not None]


def _carried(
    pixels: Pixels, px_mm: float, matrix: Transform, shape: tuple[int, int], new_px_mm: float
) -> tuple[Pixels, Mask]:
    """A picture carried by a matrix (mm to mm) onto a grid of another size, white beyond its own edge; and where it
    reaches.
    """
    rows, columns = shape
    back = matrix.inverse()
    # Pillow asks, for a place on the new grid in pixels, which place of the old grid it shows.
    across = [value / px_mm for value in (back.xx * new_px_mm, back.yx * new_px_mm, back.dx)]
    down = [value / px_mm for value in (back.xy * new_px_mm, back.yy * new_px_mm, back.dy)]
    affine = (*across, *down)

    def carried(image: Image.Image, beyond: int | tuple[int, int, int]) -> Pixels:
        return np.asarray(
            image.transform((columns, rows), Image.Transform.AFFINE, affine, Image.Resampling.NEAREST, fillcolor=beyond)
        )

    paper = Image.new("L", (pixels.shape[1], pixels.shape[0]), 255)
    return carried(Image.fromarray(pixels), (255, 255, 255)), carried(paper, 0) > 0
