"""The picture of a sheet as PNG, as it looks, without dimensions."""

from __future__ import annotations

import io

import shapely
from PIL import Image, ImageDraw

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
    shown = shown_on(sheet)
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


def shown_on(sheet: Sheet) -> list[Outline]:
    """The outlines that are seen."""
    return [outline for outline in sheet.outlines() if outline.look.shown]
