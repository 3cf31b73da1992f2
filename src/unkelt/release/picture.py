"""The picture of a sheet: as SVG and in PDF with dimension lines, and as PNG without."""

from __future__ import annotations

import io

import shapely
from PIL import Image, ImageDraw
from reportlab.lib import colors
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.platypus import Flowable

from unkelt.formats.svg.pathdata import format_path_data
from unkelt.geometry.flatten import polylines
from unkelt.geometry.region import region, regions
from unkelt.sheet.model import Outline, Sheet

LONGEST_PX = 1600
SUPERSAMPLED = 2


def preview_png(sheet: Sheet, longest_px: int = LONGEST_PX) -> bytes:
    """What is drawn, on white, its longer side so many pixels."""
    width, height = sheet.page_mm
    scale = longest_px * SUPERSAMPLED / max(width, height)
    image = Image.new("RGB", (max(1, round(width * scale)), max(1, round(height * scale))), "#ffffff")
    pen = ImageDraw.Draw(image)
    shown = _shown(sheet)
    regions([(each.path, each.look.even_odd) for each in shown if each.look.fill], 0.1 / scale)
    for outline in shown:
        if outline.look.fill:
            for part in shapely.get_parts(region(outline.path, outline.look.even_odd, 0.1 / scale)):
                _fill(image, part, outline.look.fill, scale)
        if outline.look.stroke:
            thick = max(SUPERSAMPLED, round(outline.look.stroke_width_mm * scale))
            for line in polylines(outline.path, 0.1 / scale):
                pen.line([(x * scale, y * scale) for x, y in line.tolist()], outline.look.stroke, thick, "curve")
    image = image.resize(
        (max(1, image.width // SUPERSAMPLED), max(1, image.height // SUPERSAMPLED)), Image.Resampling.BOX
    )
    file = io.BytesIO()
    image.save(file, "PNG")
    return file.getvalue()


def _fill(image: Image.Image, part: shapely.Polygon, colour: str, scale: float) -> None:
    """A polygon with its holes, through a mask."""
    x0, y0, x1, y1 = (round(value * scale) for value in part.bounds)
    mask = Image.new("1", (max(1, x1 - x0 + 2), max(1, y1 - y0 + 2)))
    pen = ImageDraw.Draw(mask)
    for ring, value in ((part.exterior, 1), *((hole, 0) for hole in part.interiors)):
        pen.polygon([(x * scale - x0, y * scale - y0) for x, y in shapely.get_coordinates(ring).tolist()], fill=value)
    image.paste(colour, (x0, y0), mask)


def picture_svg(sheet: Sheet) -> str:
    """The sheet with its ink's width and height as dimension lines, for the inspection sheet. No text of the file is in
    it.
    """
    box = sheet.drawn_box()
    width, height = sheet.page_mm
    margin = 0.09 * max(width, height)
    view = f"{-margin:.3f} {-margin:.3f} {width + 2 * margin:.3f} {height + 2 * margin:.3f}"
    words = [
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="{view}" role="img" aria-label="the sheet with dimensions">'
    ]
    words.append(
        f'<rect width="{width:.3f}" height="{height:.3f}" fill="#ffffff" stroke="#c9c4b8" '
        f'stroke-width="{margin / 60:.4f}"/>'
    )
    for outline in _shown(sheet):
        look = outline.look
        rule = ' fill-rule="evenodd"' if look.even_odd else ""
        stroke = (
            f' stroke="{look.stroke}" stroke-width="{max(look.stroke_width_mm, margin / 60):.4f}"'
            if look.stroke
            else ""
        )
        words.append(f'<path d="{format_path_data(outline.path, 3)}" fill="{look.fill or "none"}"{rule}{stroke}/>')
    if box:
        words += _dimension(box[0], box[2], box[3] + margin * 0.55, margin, f"{box[2] - box[0]:.2f} mm")
        upright = _dimension(-box[3], -box[1], box[0] - margin * 0.55, margin, f"{box[3] - box[1]:.2f} mm")
        words += ['<g transform="rotate(-90)">', *upright, "</g>"]
    return "".join([*words, "</svg>"])


def _dimension(start: float, stop: float, at: float, margin: float, words: str) -> list[str]:
    tick, line = margin * 0.12, f'stroke="#0b5d4c" stroke-width="{margin / 45:.4f}"'
    ends = "".join(f"M{end:.3f} {at - tick:.3f}v{2 * tick:.3f}" for end in (start, stop))
    return [
        f'<path d="M{start:.3f} {at:.3f}H{stop:.3f}{ends}" fill="none" {line}/>',
        f'<text x="{(start + stop) / 2:.3f}" y="{at + margin * 0.32:.3f}" text-anchor="middle" '
        f'font-family="sans-serif" font-size="{margin * 0.26:.3f}" fill="#20262b">{words}</text>',
    ]


class Dimensioned(Flowable):  # type: ignore[misc]  # reportlab has no type hints
    """The sheet in a PDF, so large in points, with its ink's width and height as dimension lines beneath and beside
    it.
    """

    ROOM = 9 * mm

    def __init__(self, sheet: Sheet, preview: bytes, width: float, height: float, face: str) -> None:
        super().__init__()
        self.sheet, self.preview, self.face = sheet, preview, face
        share = min(1.0, (width - self.ROOM) / width)
        self.wide, self.high = width * share, height * share
        self.hAlign = "CENTER"

    def wrap(self, *_room: float) -> tuple[float, float]:
        return self.wide + self.ROOM, self.high + self.ROOM

    def draw(self) -> None:
        pen, room = self.canv, self.ROOM
        pen.drawImage(ImageReader(io.BytesIO(self.preview)), room, room, self.wide, self.high)
        pen.setLineWidth(0.4)
        pen.setStrokeColor(colors.HexColor("#c9c4b8"))
        pen.rect(room, room, self.wide, self.high)
        box = self.sheet.drawn_box()
        if box is None:
            return
        scale = self.wide / self.sheet.page_mm[0]
        left, right = (room + value * scale for value in (box[0], box[2]))
        low, top = (room + self.high - value * scale for value in (box[3], box[1]))
        pen.setStrokeColor(colors.HexColor("#0b5d4c"))
        pen.setFillColor(colors.HexColor("#20262b"))
        pen.setLineWidth(0.6)
        pen.setFont(self.face, 8)
        at = 0.72 * room
        pen.lines([(left, at, right, at), *((x, at - 3, x, at + 3) for x in (left, right))])
        pen.drawCentredString((left + right) / 2, at - 9, f"{box[2] - box[0]:.2f} mm")
        pen.lines([(at, low, at, top), *((at - 3, y, at + 3, y) for y in (low, top))])
        pen.translate(at - 4, (low + top) / 2)
        pen.rotate(90)
        pen.drawCentredString(0, 0, f"{box[3] - box[1]:.2f} mm")


def _shown(sheet: Sheet) -> list[Outline]:
    return [outline for outline in sheet.outlines() if outline.look.shown]
