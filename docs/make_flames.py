"""Draws where the time of whole commands goes: `docs/flames/NAME.svg`, by py-spy (`pip install py-spy`).

Run it on an idle machine: `python docs/make_flames.py`. Each bar of a flame graph is a function, as wide as its share
of the time; below it lies what it called.
"""

from __future__ import annotations

import re
import subprocess
import sys
import sysconfig
import tempfile
from pathlib import Path

HERE = Path(__file__).parent
sys.path.insert(0, str(HERE.parent))

from benchmarks.sheets import command_on, compiled, letters  # noqa: E402
from benchmarks.surveying import shapes  # noqa: E402

from unkelt.demo import make_demo  # noqa: E402
from unkelt.formats.svg.write import write_svg  # noqa: E402


def main() -> None:
    """Draws all of them."""
    (HERE / "flames").mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        make_demo(folder)
        (folder / "letters.svg").write_bytes(write_svg(letters()))
        (folder / "shapes.svg").write_bytes(write_svg(shapes(5_000)))
        for title, command, file in (
            ("check-a-word", "check", "sea-thrift.svg"),
            ("mend-a-word", "mend", "sea-thrift.svg"),
            ("check-840-letters", "check", "letters.svg"),
            ("mend-840-letters", "mend", "letters.svg"),
            ("check-200000-segments", "check", "shapes.svg"),
        ):
            picture = HERE / "flames" / f"{title}.svg"
            watched = ["py-spy", "record", "--rate", "200", "--output", str(picture), "--"]
            subprocess.run([*watched, *command_on(command, folder / file)], check=False, env=compiled())
            _tidy(picture, title.replace("-", " "))


def _tidy(picture: Path, title: str) -> None:
    """Says what was watched, and nothing of the machine that it was watched on."""
    drawn = picture.read_text(encoding="utf-8")
    for place in (f"{HERE.parent}/", f"{sysconfig.get_path('purelib')}/", f"{sysconfig.get_path('stdlib')}/"):
        drawn = drawn.replace(place, "")
    drawn = re.sub(r"(<text id=\"title\"[^>]*>)[^<]*", rf"\g<1>{title}", drawn)
    picture.write_text(drawn, encoding="utf-8")


if __name__ == "__main__":
    main()
