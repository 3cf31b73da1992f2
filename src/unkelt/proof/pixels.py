"""Two pictures on one grid laid upon each other: where they differ, and which changes explain it.

A pixel differs where its colour lies outside of all that the other picture shows around it, so that edges, which
renderers draw each in its own way, don't count.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import scipy
import shapely
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray
from PIL import Image, ImageDraw, ImageFilter

from unkelt.account.changes import Change
from unkelt.geometry.measure import Box
from unkelt.messages import say

Pixels = NDArray[np.uint8]
"""(rows, columns, 3) red, green, blue on white paper."""
Mask = NDArray[np.bool_]
P = TypeVar("P", bound=np.generic)

FINEST_MM = 0.05
"""No pixel is smaller."""

AROUND_PX = 2
"""How far around a pixel the other picture is looked at: renderers round places to a pixel, and soften edges over
another.
"""

APART = 48
"""Colours that differ by no more than this of 255 in any channel are the same: what softening leaves of a thin line."""

APART_SOFTENED = 14
"""The same of pictures of which each pixel is the mean of three by three: a third of what a line one pixel wide leaves.
"""

LEAST_PX = 4
"""Fewer pixels next to each other are no difference."""

PLAIN = {"#ffffff": "white", "#000000": "black"}
"""Colours that people call by a name."""


@dataclass(frozen=True, slots=True)
class Difference:
    """A place where both pictures differ: the colours there as "#rrggbb", its box and area on the written sheet (mm),
    and the words of the change that explains it, empty where none does.
    """

    received: str
    written: str
    box: Box
    area_mm2: float
    explained: str

    def words(self) -> str:
        """For people: "3.2 mm² are white and were #d22f27, at 120, 45 mm"."""
        x, y = (self.box[0] + self.box[2]) / 2, (self.box[1] + self.box[3]) / 2
        now, then = (PLAIN.get(colour, colour) for colour in (self.written, self.received))
        return say(
            "{area_mm2:.1f} mm² are {now} and were {then}, at {x:.0f}, {y:.0f} mm",
            area_mm2=self.area_mm2,
            now=now,
            then=then,
            x=x,
            y=y,
        )


@dataclass(frozen=True)
class Pictures:
    """Both pictures on the grid of the written sheet, `px_mm` a pixel, and where they differ; `skipped` says why they
    could not be compared, empty where they were.
    """

    received: Pixels
    written: Pixels
    px_mm: float
    differences: tuple[Difference, ...] = ()
    skipped: str = ""

    @classmethod
    def none(cls, reason: str) -> Pictures:
        """No pictures, for a reason."""
        nothing = np.zeros((0, 0, 3), np.uint8)
        return cls(nothing, nothing, FINEST_MM, skipped=reason)

    @property
    def lost(self) -> tuple[Difference, ...]:
        """The differences that nothing explains."""
        return tuple(each for each in self.differences if not each.explained)


@dataclass(frozen=True)
class Known:
    """An area (mm on the written sheet) in which the renderer, or reading, is known to see something otherwise, and
    why.
    """

    where: shapely.Geometry
    words: str
    blur_mm: float = 0.0
    """Where it only sets things a little off, by how much; 0 where anything may differ."""


def compared(
    before: Pixels, after: Pixels, px_mm: float, changes: Iterable[Change], known: Sequence[Known]
) -> Pictures:
    """Both pictures, and where they differ: with the words of the change there, or of what is known of the place."""
    apart = _apart(before, after, AROUND_PX)
    for each in known:
        if each.blur_mm:
            apart &= ~_mask([each.where], apart.shape, px_mm, 1) | _apart(
                before, after, AROUND_PX + int(np.ceil(each.blur_mm / px_mm))
            )
    if not apart.any():
        return Pictures(before, after, px_mm)
    label = scipy.ndimage.label(apart, np.ones((3, 3)))[0]
    explained = _explanations(apart.shape, px_mm, changes, known)
    found = []
    for number, place in enumerate(scipy.ndimage.find_objects(label), 1):
        inside = label[place] == number
        for words, mask in [*explained, ("", None)]:
            part = inside if mask is None else inside & mask[place]
            if part.sum() >= LEAST_PX:
                found.append(_difference(before, after, place, part, px_mm, words))
            inside = inside & ~part
            if not inside.any():
                break
    return Pictures(before, after, px_mm, tuple(sorted(found, key=lambda each: (bool(each.explained), -each.area_mm2))))


def _apart(a: Pixels, b: Pixels, around_px: int) -> Mask:
    """Where either picture shows a colour that the other has nothing like around there."""
    result = np.zeros(a.shape[:2], bool)
    # At the page's edge nothing is known of what lies around.
    inner = slice(around_px, -around_px), slice(around_px, -around_px)
    unlike = np.zeros(a.shape[:2], bool)  # only where a pixel itself is unlike can it differ from all that is around
    for channel in range(3):
        one, other = a[..., channel], b[..., channel]
        unlike |= np.maximum(one, other) - np.minimum(one, other) > APART
    rows, columns = np.nonzero(unlike[inner])
    differs = _outside(a, b, rows, columns, around_px, APART)
    rows, columns = rows[differs], columns[differs]
    if len(rows):  # a thin line may have come to lie on two rows of pixels, half as dark, instead of on one
        differs = _outside(_softened(a), _softened(b), rows, columns, around_px, APART_SOFTENED)
        result[inner][rows[differs], columns[differs]] = True
    return result


def _outside(
    a: Pixels, b: Pixels, rows: NDArray[np.intp], columns: NDArray[np.intp], around_px: int, apart: int
) -> Mask:
    """At which of some pixels, counted from where all of what is around lies inside, one has a colour that the other
    hasn't around.
    """
    if not len(rows):
        return np.zeros(0, bool)
    top, left = rows.min(), columns.min()
    box = slice(top, rows.max() + 2 * around_px + 1), slice(left, columns.max() + 2 * around_px + 1)
    here = rows - top, columns - left
    found = np.zeros(len(rows), bool)
    for one, other in ((a[box], b[box]), (b[box], a[box])):
        low, high = (_of_all_around(other, around_px, of_two)[here].astype(np.int16) for of_two in EXTREMES)
        values = one[here[0] + around_px, here[1] + around_px].astype(np.int16)
        found |= ((values - high > apart) | (low - values > apart)).any(axis=-1)
    return found


EXTREMES = (np.minimum, np.maximum)


def _of_all_around(pixels: NDArray[P], around_px: int, of_two: np.ufunc) -> NDArray[P]:
    """What a function of two, like the greater, leaves of the values around each pixel, for those around which all lies
    inside: along columns, then along rows.
    """
    for axis in (0, 1):
        shifted = sliding_window_view(pixels, pixels.shape[axis] - 2 * around_px, axis)
        pixels = of_two.reduce(np.moveaxis(shifted, (axis, -1), (0, axis + 1)))
    return pixels


def _softened(pixels: Pixels) -> Pixels:
    return np.asarray(Image.fromarray(pixels).filter(ImageFilter.BoxBlur(1)))


def _explanations(
    shape: tuple[int, int], px_mm: float, changes: Iterable[Change], known: Sequence[Known]
) -> list[tuple[str, Mask]]:
    """What explains differences where, as masks that reach a little beyond; changes first."""
    by_words: dict[str, list[shapely.Geometry]] = {}
    for change in changes:
        by_words.setdefault(change.reason.value, []).append(change.where)
    for each in known:
        if not each.blur_mm:
            by_words.setdefault(each.words, []).append(each.where)
    return [(words, _mask(areas, shape, px_mm, AROUND_PX + 1)) for words, areas in by_words.items()]


def _mask(areas: Sequence[shapely.Geometry], shape: tuple[int, int], px_mm: float, grow_px: int) -> Mask:
    """The pixels that areas touch, and so many around them."""
    mask = np.zeros(shape, bool)
    for part in shapely.get_parts(shapely.union_all(list(areas))):
        if part.geom_type == "Polygon" and not part.is_empty:
            for ring in (part.exterior, *part.interiors):
                _draw(mask, shapely.get_coordinates(ring) / px_mm)
    return _of_all_around(np.pad(mask, grow_px), grow_px, np.logical_or)


def _draw(mask: Mask, ring_px: NDArray[np.float64]) -> None:
    """Turns the pixels within a ring over: what lies in a hole was drawn twice, and is none of it. Its own line stays
    drawn.
    """
    left, top = np.maximum(np.floor(ring_px.min(axis=0)).astype(int) - 1, 0)
    right, bottom = np.minimum(np.ceil(ring_px.max(axis=0)).astype(int) + 2, (mask.shape[1], mask.shape[0]))
    if right <= left or bottom <= top:
        return
    image = Image.new("1", (int(right - left), int(bottom - top)))
    places = [tuple(place) for place in (ring_px - (left, top)).tolist()]
    ImageDraw.Draw(image).polygon(places, fill=1)
    window = mask[top:bottom, left:right]
    window ^= np.asarray(image, bool)
    line = Image.new("1", image.size)
    ImageDraw.Draw(line).line(places, fill=1)
    window |= np.asarray(line, bool)


def _difference(
    before: Pixels, after: Pixels, place: tuple[slice, ...], part: Mask, px_mm: float, words: str
) -> Difference:
    rows, columns = np.nonzero(part)
    top, left = place[0].start, place[1].start
    x0, x1 = (float((left + edge) * px_mm) for edge in (columns.min(), columns.max() + 1))
    y0, y1 = (float((top + edge) * px_mm) for edge in (rows.min(), rows.max() + 1))
    box = x0, y0, x1, y1
    colours = [_usual(pixels[place][part]) for pixels in (before, after)]
    return Difference(colours[0], colours[1], box, float(part.sum()) * px_mm * px_mm, words)


def _usual(pixels: Pixels) -> str:
    """The median colour, as "#rrggbb"."""
    red, green, blue = np.median(pixels.reshape(-1, 3), axis=0).astype(int).tolist()
    return f"#{red:02x}{green:02x}{blue:02x}"
