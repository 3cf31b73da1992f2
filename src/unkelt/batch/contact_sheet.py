"""A contact sheet: a small picture of every job with its name, size and state, to look over on paper."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import PurePath

from reportlab.lib import colors, pagesizes
from reportlab.lib.units import mm
from reportlab.platypus import Image, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from unkelt.batch.folder import Row
from unkelt.batch.summary import in_one_line
from unkelt.release.inspection import BODY, FAINT, SMALL, TITLE, paragraph

COLUMNS = 4
CELL_MM = (44.0, 30.0)

_GRID = TableStyle(
    [
        ("BOX", (0, 0), (-1, -1), 0.4, colors.HexColor("#b9b4a8")),
        ("INNERGRID", (0, 0), (-1, -1), 0.4, colors.HexColor("#b9b4a8")),
        ("VALIGN", (0, 0), (-1, -1), "TOP"),
    ]
)


def contact_sheet(title: str, rows: Sequence[Row]) -> bytes:
    """As PDF, A4, four in a row, in the order of the list. Nothing is said by colour alone."""
    cells = [_cell(row) for row in rows]
    cells += [[]] * (-len(cells) % COLUMNS)
    lines = [cells[at : at + COLUMNS] for at in range(0, len(cells), COLUMNS)]
    grid = Table(lines, [CELL_MM[0] * mm] * COLUMNS, style=_GRID)
    story = [paragraph(title, TITLE), paragraph(in_one_line(rows), FAINT), Spacer(1, 4 * mm), grid]
    file, margins = io.BytesIO(), dict.fromkeys(("leftMargin", "rightMargin", "topMargin", "bottomMargin"), 14 * mm)
    SimpleDocTemplate(file, pagesize=pagesizes.A4, title=title, **margins).build(story)
    return file.getvalue()


def _cell(row: Row) -> list[object]:
    size = f"{row.size_mm[0]:.1f} × {row.size_mm[1]:.1f} mm" if row.size_mm else ""
    said: list[Paragraph] = [paragraph(PurePath(row.source).name, BODY), paragraph(size, SMALL)]
    said += [paragraph(row.state if not row.problem else f"{row.state}: {row.problem}", SMALL)]
    return [*([_picture(row.picture)] if row.picture else []), *said]


def _picture(data: bytes) -> Image:
    image = Image(io.BytesIO(data))
    share = min((CELL_MM[0] - 5) * mm / image.imageWidth, CELL_MM[1] * mm / image.imageHeight)
    image.drawWidth, image.drawHeight = image.imageWidth * share, image.imageHeight * share
    return image
