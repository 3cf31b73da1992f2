"""SVG documents at random, mended and written: `python -m tests.account.random_documents COUNT [FIRST]`.

resvg paints each as it was received and as it was written. Pixels that differ must lie where a step declares a change,
or the verdict must say so. resvg leaves holes in strokes that are wider than the bends they follow; those are told here,
too.
"""

from __future__ import annotations

import io
from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np
import resvg_py
import shapely
from PIL import Image, ImageChops, ImageFilter

from tests.builders import workshop
from tests.formats.random_svg import Made, tell
from unkelt.app.work import mended, opened, written
from unkelt.verdict.lost import whole_of
from unkelt.verdict.painted import held_by, pictures_of

WIDE_PX, NEAR_MM, UNLIKE, LEAST_PX = 600, 0.35, 40, 4


def _painted(svg: str) -> Image.Image:
    png = bytes(
        resvg_py.svg_to_bytes(svg_string=svg, width=WIDE_PX, dpi=96, background="#ffffff", skip_system_fonts=True)
    )
    return Image.open(io.BytesIO(png)).convert("RGB")


def differences(seed: int) -> tuple[str, ...]:
    """What a picture of one document shows otherwise once it was mended, in words."""
    with TemporaryDirectory() as folder:
        source, output = Path(folder) / "made.svg", Path(folder) / "mended.svg"
        source.write_text(Made(seed).document(), encoding="utf-8")
        case = mended(opened(source, workshop()))
        found = written(case, output)
        received = source.read_bytes()
        held = held_by(pictures_of(replace(found.case, received=received), output.read_bytes()))
        before, after = _painted(received.decode()), _painted(output.read_text(encoding="utf-8"))
    if before.size != after.size:
        return (f"{before.size} pixels became {after.size}",)
    unlike = np.asarray(ImageChops.difference(before, after)).max(2) > UNLIKE
    # Edges are a pixel wide and lie where each renderer has them.
    inner = np.asarray(Image.fromarray(unlike.astype(np.uint8) * 255).filter(ImageFilter.MinFilter(3))) > 0
    rows, columns = np.nonzero(inner)
    mm = case.original.page_mm[0] / before.size[0]
    declared = shapely.union_all([change.where.buffer(NEAR_MM) for change in whole_of(case).changes])
    left = ~shapely.contains_xy(declared, (columns + 0.5) * mm, (rows + 0.5) * mm)
    said = [*held, *(finding.detail for finding in found.findings if finding.code == "ink.lost")]
    if left.sum() > LEAST_PX and not said:
        x, y = float(columns[left].mean() * mm), float(rows[left].mean() * mm)
        said.append(f"{left.sum()} pixels differ around {x:.0f}, {y:.0f} mm, and nobody says so")
    return tuple(said)


if __name__ == "__main__":
    tell(differences)
