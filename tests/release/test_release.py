"""Hand-off: what is in a package, when it is refused, and that it is whole or not there at all."""

import gettext
import hashlib
import os
import re
import subprocess
import sys
from dataclasses import replace

import ezdxf
import pypdf
import pypdfium2
import pytest
import zxingcpp
from babel.messages.pofile import read_po
from lxml import etree
from PIL import Image

from tests.builders import circle, lettering, outline, sheet, workshop
from unkelt.cli import main
from unkelt.errors import InputError
from unkelt.formats.formats import read_sheet
from unkelt.formats.svg.write import write_svg
from unkelt.job.ticket import parse_ticket
from unkelt.language import BUNDLED
from unkelt.mending import mend
from unkelt.recipe import read_recipe, run
from unkelt.release.delivering import in_package
from unkelt.release.package import Held, release
from unkelt.release.sheets import by_operations, slug
from unkelt.sheet.model import Group
from unkelt.steps.weld import WeldedTogether
from unkelt.verdict.case import Case

NAME = "Sea Thrift"


@pytest.fixture
def received(tmp_path):
    path = tmp_path / "inbox" / "sea thrift.svg"
    path.parent.mkdir()
    path.write_bytes(write_svg(sheet(lettering(NAME, "Pacifico", 60), page=(300, 250))))
    return path


def mended(path):
    original = read_sheet(path)
    return original, mend(original, workshop())


def says_mm(words, wanted):
    """Whether a length is among those of a text, rounded to a hundredth by whoever measured it."""
    return any(abs(float(number) - wanted) < 0.006 for number in re.findall(r"(\d+\.\d\d) mm\b", words))


def test_a_package_holds_everything_and_opens_in_other_libraries(received, tmp_path):
    before = received.read_bytes()
    original, stages = mended(received)
    package = release(Case(received, original, workshop(), tuple(stages)), tmp_path / "out", ticket_text=b"")
    names = {str(p.relative_to(package.folder)) for p in package.folder.rglob("*") if p.is_file()}
    assert sorted(package.names) == sorted(name for name in names if "/" not in name)
    assert names == {
        "sea-thrift.svg", "sea-thrift.dxf", "sea-thrift.pdf", "sea-thrift.plt", "preview.png",
        "inspection.html", "inspection.pdf", "recipe.toml", "SHA256SUMS", "original/sea thrift.svg",
    }  # fmt: skip
    assert (package.folder / "original" / received.name).read_bytes() == before == received.read_bytes()
    assert not ezdxf.readfile(package.folder / "sea-thrift.dxf").audit().has_errors
    words = "".join(page.extract_text() for page in pypdf.PdfReader(package.folder / "inspection.pdf").pages)
    assert len(read_sheet(package.folder / "inspection.pdf").letterings()) > 20  # it comes in like any other
    assert "Turn" in words or "outline" in words
    assert hashlib.sha256((package.folder / "sea-thrift.svg").read_bytes()).hexdigest() in words.replace("\n", "")
    picture = Image.open(package.folder / "preview.png").convert("L")
    assert picture.size == (1600, 1333)
    assert 0.005 < sum(picture.histogram()[:128]) / (1600 * 1333) < 0.5
    width, height = package.record.proofs[0].size_mm
    assert says_mm(words, width), "the dimension line of the picture"
    html = (package.folder / "inspection.html").read_text()
    assert f"<td>size, mm<td><td>{width:.2f} × {height:.2f}" in html, "live text came in with no size of its own"
    assert "900.00" not in html
    assert says_mm(html, package.record.proofs[0].size_mm[0])
    for line in (package.folder / "SHA256SUMS").read_text().splitlines():
        total, name = line.split("  ", 1)
        assert hashlib.sha256((package.folder / name).read_bytes()).hexdigest() == total
    # The recipe makes the same file again.
    again = run(read_recipe(package.folder / "recipe.toml"), original, workshop())
    assert write_svg(again[-1].sheet) == write_svg(stages[-1].sheet)


def test_evidence_reads_as_a_person_says_it():
    """What has a before and an after in one row, as exact as a person reads it."""
    evidence = WeldedTogether(
        nodes_before=2696,
        nodes_after=2475,
        outlines_before=3,
        outlines_after=3,
        area_mm2=27457.4961,
        area_second_engine_mm2=27457.4961,
        max_deviation_mm=0.00977,
    )
    said = ", ".join(f"{name} {value}" for name, value in evidence.rows())
    assert "nodes from 2,696 to 2,475" in said
    assert "outlines 3 as before" in said
    assert "area 27,457.5 mm²" in said
    assert "max deviation 0.0098 mm" in said


def test_operations_are_groups_in_the_order_a_machine_does_them():
    """In the file; a group of one operation goes whole, one of several stays as it is."""
    ticket = parse_ticket('[key]\ncut = "#ff0000"\nengrave = "#000000"')
    cut, engraved = outline("a", circle(5), None, "#ff0000"), outline("b", circle(3))
    mixed = Group("both", (replace(cut, id="c"), replace(engraved, id="d")), "Both")
    grouped = by_operations(sheet(cut, Group("word", (engraved,), "Word"), mixed), workshop(ticket))
    assert [(item.id, [inner.id for inner in item.items]) for item in grouped.items] == [
        ("both", ["c", "d"]), ("engrave", ["word"]), ("cut", ["a"]),
    ]  # fmt: skip
    root = etree.fromstring(write_svg(grouped))
    assert [g.findtext("{*}title") for g in root.findall("{*}g")] == ["Both", "Engrave", "Cut"]
    plain = sheet(cut, engraved)
    assert by_operations(plain, workshop()) is plain


def test_nothing_is_written_over_a_revision_is_added(received, tmp_path):
    original, stages = mended(received)
    folders = [
        release(Case(received, original, workshop(), tuple(stages)), tmp_path, in_package([".svg"])).folder.name
        for _ in range(3)
    ]
    assert folders == ["sea-thrift-r1", "sea-thrift-r2", "sea-thrift-r3"]
    named = release(
        Case(received, original, workshop(), tuple(stages)), tmp_path, in_package([".svg"]), pattern="{source}-{size}"
    )
    assert (
        named.folder.name
        == f"sea-thrift-{named.record.proofs[0].size_mm[0]:.0f}x{named.record.proofs[0].size_mm[1]:.0f}"
    )
    with pytest.raises(InputError, match="pattern"):
        release(
            Case(received, original, workshop(), tuple(stages)), tmp_path, in_package([".svg"]), pattern="{nonsense}"
        )


def test_what_holds_is_released_only_with_a_reason_which_is_on_the_sheet(received, tmp_path):
    original = read_sheet(received)
    with pytest.raises(Held) as held:
        release(Case(received, original, workshop()), tmp_path / "out")
    assert any(hold.startswith("text.live") for hold in held.value.holds)
    assert list((tmp_path / "out").iterdir()) == []
    package = release(Case(received, original, workshop()), tmp_path / "out", reason="The shop has the face <itself>")
    assert "The shop has the face &lt;itself&gt;" in (package.folder / "inspection.html").read_text()
    assert {sentence.split(":")[0] for sentence in package.left_out} == {".dxf", ".pdf", ".plt"}
    assert not list(package.folder.glob("*.dxf"))


@pytest.mark.parametrize("step", ["p.delivered", "i.inspection_pdf", "p.os.rename"])
def test_a_release_that_is_killed_leaves_no_half_package(received, tmp_path, step):
    code = f"""
import os, sys
from pathlib import Path
from unkelt.verdict.case import Case
from unkelt.release import inspection as i, package as p
from unkelt.release.delivering import in_package
from tests.builders import workshop
from tests.release.test_release import mended
def die(*_): os._exit(9)
{step} = die
path = Path(sys.argv[1])
original, stages = mended(path)
p.release(Case(path, original, workshop(), tuple(stages)), Path(sys.argv[2]), in_package([".svg"]))
"""
    done = subprocess.run(
        [sys.executable, "-c", code, received, tmp_path / "out"], cwd=os.getcwd(), timeout=120, check=False
    )
    assert done.returncode == 9
    assert [path for path in (tmp_path / "out").iterdir() if not path.name.startswith(".")] == []
    original, stages = mended(received)
    assert release(
        Case(received, original, workshop(), tuple(stages)), tmp_path / "out", in_package([".svg"])
    ).folder.is_dir()


def test_a_place_that_takes_nothing_and_names_that_need_care(received, tmp_path, monkeypatch):
    original, stages = mended(received)
    (tmp_path / "file").write_text("in the way")
    with pytest.raises(InputError, match="can't be written"):
        release(Case(received, original, workshop(), tuple(stages)), tmp_path / "file")

    def full(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("unkelt.formats.files.os.fsync", full)
    with pytest.raises(InputError, match="No space left"):
        release(Case(received, original, workshop(), tuple(stages)), tmp_path / "out")
    assert list((tmp_path / "out").iterdir()) == []
    assert [slug(name) for name in ("a/b", "..", "Straße 5 · ü", "")] == ["a-b", "job", "Straße-5-ü", "job"]


def test_by_command(received, tmp_path, capsys):
    out = tmp_path / "out"
    assert main(["release", str(received), "--to", str(out)]) == 1
    assert "not released" in capsys.readouterr().err
    done = tmp_path / "done.svg"
    main(["mend", str(received), "-o", str(done)])
    assert main(["release", str(done), "--to", str(out), "--formats", "svg,pdf"]) == 0
    assert {path.name for path in (out / "done-r1").iterdir()} >= {"done.svg", "done.pdf", "inspection.pdf"}
    assert main(["release", str(done), "--to", str(out), "--formats", "doc"]) == 2
    assert main(["release", str(tmp_path / "gone.svg"), "--to", str(out)]) == 2
    tag = tmp_path / "tag.svg"
    tag.write_bytes(write_svg(sheet(outline("o", circle(20, 30, 30)), page=(60, 60))))
    assert main(["release", str(tag), "--to", str(out)]) == 0


def test_the_sheet_is_in_two_languages_where_that_is_asked(received, tmp_path):
    original, stages = mended(received)
    case = Case(received, original, workshop(), tuple(stages))
    package = release(case, tmp_path, in_package([".svg"]), languages=["en", "de"])
    html = (package.folder / "inspection.html").read_text()
    assert html.count("<section lang=") == 2
    assert ("Account of ink" in html, "Farbbilanz" in html, "Verschmolzen" in html) == (True, True, True)
    pages = [page.extract_text() for page in pypdf.PdfReader(package.folder / "inspection.pdf").pages]
    assert any("The six questions" in page for page in pages)
    assert any("Die sechs Fragen" in page for page in pages)
    with pytest.raises(InputError, match="no language that an inspection sheet can be in"):
        release(case, tmp_path, in_package([".svg"]), languages=["tlh"])


def test_the_code_on_the_sheet_holds_the_sum_of_all_files(received, tmp_path):
    """Read from the page by ZXing (ISO/IEC 18004)."""
    original, stages = mended(received)
    package = release(Case(received, original, workshop(), tuple(stages)), tmp_path, in_package([".svg"]))
    listed = (package.folder / "SHA256SUMS").read_text().splitlines(keepends=True)
    sealed = hashlib.sha256("".join(line for line in listed if "inspection" not in line).encode()).hexdigest()
    document = pypdfium2.PdfDocument(package.folder / "inspection.pdf")
    (code,) = zxingcpp.read_barcodes(document[len(document) - 1].render(scale=4).to_pil().convert("L"))
    assert code.text == f"unkelt sea thrift sha256 {sealed}"


def test_the_bundled_sheet_catalogues_are_compiled_from_what_lies_beside_them():
    for source in BUNDLED.rglob("sheet.po"):
        with source.open("rb") as file, source.with_suffix(".mo").open("rb") as compiled:
            wanted, found = [message for message in read_po(file) if message.id], gettext.GNUTranslations(compiled)
        assert len(wanted) > 100
        for message in wanted:
            one, several = message.id if isinstance(message.id, tuple) else (message.id, None)
            told = found.gettext(one) if several is None else tuple(found.ngettext(one, several, n) for n in (1, 2))
            assert told == message.string, "run pybabel compile"
