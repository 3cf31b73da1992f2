"""The picture of a sheet: as SVG and in PDF, with dimension lines."""

from __future__ import annotations

import io

from reportlab.lib import colors
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.platypus import Flowable

from unkelt.formats.svg.pathdata import format_path_data
from unkelt.release.preview import shown_on
from unkelt.sheet.model import Sheet


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
    for outline in shown_on(sheet):
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
