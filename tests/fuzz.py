"""Fuzz targets of all readers. The tests run them briefly; `python -m tests.fuzz NAME [SECONDS [INPUTS]]` runs one for
long.

With atheris installed the long run is guided by coverage; without it, bytes are changed at random from a fixed seed.
What once failed lies in `tests/corpus` and is tried again in every run.
"""

from __future__ import annotations

import contextlib
import importlib.util
import io
import logging
import random
import resource
import sys
import tempfile
import time
import zipfile
from collections.abc import Callable
from pathlib import Path

LONG_RUN = __name__ == "__main__"
GUIDED = LONG_RUN and importlib.util.find_spec("atheris") is not None
if GUIDED:
    import atheris

with atheris.instrument_imports(include=["unkelt", "tinycss2", "ezdxf"]) if GUIDED else contextlib.nullcontext():
    from tests.builders import SHELF, outline, sheet, square, workshop
    from unkelt.batch.series import read_lines
    from unkelt.demo import make_demo
    from unkelt.errors import InputError
    from unkelt.formats.dxf.read import read_dxf
    from unkelt.formats.pdf.read import read_pdf
    from unkelt.formats.svg.pathdata import parse_path_data
    from unkelt.formats.svg.read import parse_svg
    from unkelt.formats.svg.write import write_svg
    from unkelt.job.ticket import parse_ticket
    from unkelt.recipe import Call, Recipe, parse_recipe, run
    from unkelt.session.job import open_job
    from unkelt.session.working_file import open_working, save_working

CORPUS = Path(__file__).parent / "corpus"
HANG_S = 10
MEMORY = 4 << 30
"""Of addresses, which is about twice of memory."""


def _by_file(read: Callable[[Path], object], ending: str) -> Callable[[bytes], None]:
    def target(data: bytes) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / f"a{ending}"
            path.write_bytes(data)
            with contextlib.suppress(InputError):
                read(path)

    return target


def _svg(data: bytes) -> None:
    with contextlib.suppress(InputError):
        parse_svg(data)


def _text(read: Callable[[str], object]) -> Callable[[bytes], None]:
    def target(data: bytes) -> None:
        with contextlib.suppress(InputError):
            read(data.decode("utf-8", "replace"))

    return target


TARGETS: dict[str, Callable[[bytes], None]] = {
    "svg": _svg,
    "pdf": _by_file(read_pdf, ".pdf"),
    "dxf": _by_file(read_dxf, ".dxf"),
    "path": _text(parse_path_data),
    "ticket": _text(parse_ticket),
    "recipe": _text(parse_recipe),
    "working": _by_file(lambda path: open_working(path, SHELF), ".unkelt"),
    "list": _by_file(read_lines, ".csv"),
}

SVG_SEED = b"""<svg xmlns="http://www.w3.org/2000/svg" width="9cm" height="72pt" viewBox="0 0 90 72"><style>.a&gt;b{fill:#123}</style>
<defs><g id="g"><path d="M0 0C1 2 3 4 5 6S7 8 9 10Q1 1 2 2T3 3A4 5 6 1 0 7 8Z"/></g><linearGradient id="l"/></defs>
<use href="#g" x="5"/><svg x="1" width="50%" viewBox="0 0 5 5" preserveAspectRatio="xMinYMax slice"><rect width="5" height="4" rx="1"/></svg>
<text x="1 2" dy="3" rotate="4 5" textLength="9" font="italic 5px/2 Pacifico">Te<tspan baseline-shift="super">rn</tspan>
<textPath href="#g" startOffset="5%">a</textPath></text><ellipse rx="3" ry="2" transform="rotate(30 1 2) skewX(4)" fill="url(#l) red"/></svg>"""


def seeds(name: str) -> list[bytes]:
    """Valid inputs to begin from, and those that once failed."""
    return _valid(name) + [path.read_bytes() for path in sorted(CORPUS.glob(f"{name}-*.bin"))]


def _valid(name: str) -> list[bytes]:
    with tempfile.TemporaryDirectory() as folder:
        quay = Path(folder)
        make_demo(quay)
        match name:
            case "svg":
                return [SVG_SEED, (quay / "berth-12.svg").read_bytes()]
            case "ticket":
                return [(quay / "kittiwake.toml").read_bytes()]
            case "recipe":
                return [
                    b'[[step]]\nname = "weld"\nitems = ["a", "b"]\nwith = { by = "word" }\n[[step]]\nname="resize"\nrule = "size.off-ticket"\n'
                ]
            case "working":
                (quay / "a.svg").write_bytes(write_svg(sheet(outline("a", square(20, 5, 5)))))
                job = open_job(quay / "a.svg", workshop())
                call = Call("move", ("a",), options={"right": "1 mm"})
                save_working(job.with_stages(tuple(run(Recipe((call,)), job.sheet, job.workshop))), quay / "a.unkelt")
                stored = io.BytesIO()  # as it is, so that what is changed is the content and not its packing
                with zipfile.ZipFile(quay / "a.unkelt") as packed, zipfile.ZipFile(stored, "w") as plain:
                    for name in packed.namelist():
                        plain.writestr(name, packed.read(name))
                return [stored.getvalue(), (quay / "a.unkelt").read_bytes()]
            case "list":
                return [b'text;size;colour\nA;20 mm;#0b5d4c\n"Sea; Thrift";12 mm;\n']
            case "path":
                return [b"M0 0L1-1.5e2C1 2 3 4 5 6s7 8,9 10Q1 1 2 2t3 3A4 5 6 1 0 7 8H9v9z"]
            case "dxf":
                import ezdxf

                document = ezdxf.new("R2000")
                document.modelspace().add_lwpolyline([(0, 0, 1), (9, 0, 0), (9, 9, 0)], format="xyb", close=True)
                document.modelspace().add_text("Tern")
                document.saveas(quay / "a.dxf")
                return [(quay / "a.dxf").read_bytes()]
            case _:
                from reportlab.pdfgen import canvas

                page = canvas.Canvas(str(quay / "a.pdf"), pageCompression=0)
                page.circle(50, 50, 20)
                page.drawString(9, 9, "Tern")
                page.save()
                return [(quay / "a.pdf").read_bytes()]


def changed(data: bytes, chance: random.Random) -> bytes:
    """A few bytes changed, a stretch dropped, doubled or moved, or a number made extreme."""
    result = bytearray(data)
    for _ in range(chance.randint(1, 6)):
        if not result:
            return bytes(result)
        at, length = chance.randrange(len(result)), chance.randint(1, 40)
        match chance.randrange(6):
            case 0:
                result[at] = chance.randrange(256)
            case 1:
                del result[at : at + length]
            case 2:
                result[at:at] = result[at : at + length] * chance.randint(1, 4)
            case 3:
                result[at:at] = chance.choice(
                    [b"1e999", b"-1", b"nan", b"0", b"99999999999999", b"\x00", b"<", b'"', b"#", b"%"]
                )
            case 4:
                del result[at:]
            case _:
                result[at:at] = bytes(chance.randrange(256) for _ in range(length))
    return bytes(result)


def at_random(name: str, seconds: float, most: int = 10**9) -> int:
    """Changes the seeds until the time is over or so many were tried; what fails is kept beside the corpus. The number
    tried.
    """
    chance, count, end = random.Random(1), 0, time.monotonic() + seconds
    starts = seeds(name)
    while time.monotonic() < end and count < most:
        data = changed(chance.choice(starts), chance)
        begun = time.monotonic()
        try:
            TARGETS[name](data)
        except Exception:
            (CORPUS / f"{name}-new.bin").write_bytes(data)
            raise
        if time.monotonic() - begun > HANG_S:
            (CORPUS / f"{name}-slow.bin").write_bytes(data)
            raise TimeoutError(f"one input took {time.monotonic() - begun:.0f} s")
        count += 1
    return count


def main() -> None:
    name, seconds = sys.argv[1], int(sys.argv[2]) if len(sys.argv) > 2 else 60
    logging.getLogger("ezdxf").setLevel(logging.CRITICAL)
    if not GUIDED:
        resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
        most = int(sys.argv[3]) if len(sys.argv) > 3 else 10**9
        start = time.monotonic()
        count = at_random(name, seconds, most)
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024
        print(f"{name}: {count:,} inputs in {time.monotonic() - start:.0f} s, no crash, no hang, at most {peak} MiB")
        return
    with tempfile.TemporaryDirectory() as folder:
        for number, data in enumerate(seeds(name)):
            (Path(folder) / f"seed-{number}").write_bytes(data)
        runs = [f"-runs={sys.argv[3]}"] if len(sys.argv) > 3 else []
        options = [*runs, f"-max_total_time={seconds}", f"-timeout={HANG_S}", "-rss_limit_mb=2048", "-max_len=20000"]
        atheris.Setup([sys.argv[0], *options, f"-artifact_prefix={CORPUS}/{name}-", folder], TARGETS[name])
        atheris.Fuzz()


if __name__ == "__main__":
    main()
