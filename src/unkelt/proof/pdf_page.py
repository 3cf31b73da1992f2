"""A page of a PDF painted by PDFium. A module of its own, since the library takes a while to import."""

from __future__ import annotations

import numpy as np
import pypdfium2
from PIL import Image

from unkelt.proof.painter import CannotPaint
from unkelt.proof.pixels import Pixels


def paint_page(data: bytes, columns: int, rows: int, number: int = 1, finer: int = 1) -> Pixels:
    """A page, counted from 1, as pixels (rows, columns, 3), painted so many times finer and softened to its size.

    Notes and fields that lie over the page are left out, as reading does, which says so. Raises CannotPaint.
    """
    try:
        document = pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as problem:
        raise CannotPaint(str(problem)) from problem
    try:
        page = document[number - 1]
        width, height = page.get_size()
        scale = finer * max(columns / width, rows / height)
        image = page.render(scale=scale, draw_annots=False).to_pil().convert("RGB")
        return np.asarray(
            image if image.size == (columns, rows) else image.resize((columns, rows), Image.Resampling.BOX)
        )
    except pypdfium2.PdfiumError as problem:
        raise CannotPaint(str(problem)) from problem
    finally:
        document.close()
