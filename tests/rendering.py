"""Pictures by resvg, an independent renderer."""

import io

import numpy as np
import resvg_py
from PySide6.QtGui import QImage  # only to unpack the PNG

from unkelt.lettering.shelves import bundled_faces


def drawn(svg: str) -> np.ndarray:
    """Coverage by resvg, which shares neither HarfBuzz's C++ nor FreeType: 0 paper, 255 ink."""
    faces = [str(f.path) for f in bundled_faces()] if "<text" in svg else []  # reading them takes most of the time
    png = bytes(resvg_py.svg_to_bytes(svg_string=svg, font_files=faces,
                                      skip_system_fonts=True, background="#ffffff", dpi=96))  # fmt: skip
    image = QImage.fromData(io.BytesIO(png).getvalue()).convertToFormat(QImage.Format.Format_Grayscale8)
    rows = np.frombuffer(image.constBits(), np.uint8).reshape(image.height(), image.bytesPerLine())
    return 255 - rows[:, : image.width()].astype(int)
