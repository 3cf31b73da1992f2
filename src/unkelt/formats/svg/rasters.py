"""How large a raster picture is that an SVG file holds."""

from __future__ import annotations

import base64
import binascii
import io
from urllib.parse import unquote_to_bytes


def frame_of(width: float | None, height: float | None, reference: str) -> tuple[float, float] | None:
    """The sides of a picture in user units; one that isn't given follows from the picture's own pixels (SVG 2, 8.9, and
    CSS 2.1, 10.3.2). None where those would be needed and can't be found.
    """
    if width is not None and height is not None:
        return width, height
    own = _pixels(reference)
    if own is None:
        return None
    if width is not None:
        return width, width * own[1] / own[0]
    return (own[0] if height is None else height * own[0] / own[1]), (own[1] if height is None else height)


def _pixels(reference: str) -> tuple[int, int] | None:
    """Columns and rows of a picture that stands in the reference itself (RFC 2397)."""
    head, comma, body = reference.partition(",")
    if not head.startswith("data:") or not comma:
        return None
    from PIL import Image, UnidentifiedImageError  # which hardly a file needs

    try:
        data = unquote_to_bytes(body)
        with Image.open(io.BytesIO(base64.b64decode(data) if head.endswith(";base64") else data)) as picture:
            return picture.size
    except (binascii.Error, UnidentifiedImageError, OSError, ValueError, Image.DecompressionBombError):
        return None
