"""The command line's contract: exit status, JSON fields, one line for what can't be used."""

import json
import subprocess
import sys

import pytest

from tests.builders import outline, sheet, square
from tests.formats.test_dxf import dxf
from unkelt.cli import main, progress_line
from unkelt.demo import COMPOSED, DEMO_FILES, make_demo
from unkelt.formats.formats import read_sheet
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.measure import bounds

CHECK_SHEET = {"page_mm", "ink_mm", "items", "subpaths", "nodes", "pieces", "cut_length_mm"}
FINDING = {"code", "level", "items", "box_mm", "value", "unit", "message", "choice", "refusal", "steps"}
PROOF = {
    "schema", "path", "size_mm", "bodies", "pieces", "counters", "text_left", "subpaths", "nodes", "cut_length_mm",
    "cut_twice_mm", "seconds", "work", "verdict", "reasons",
}  # fmt: skip


@pytest.fixture
def quay(tmp_path):
    make_demo(tmp_path)
    return tmp_path


def run(capsys, *words):
    status = main([str(word) for word in words])
    out = capsys.readouterr()
    return status, (json.loads(out.out) if "--json" in words else out.out), out.err


def test_check(capsys, quay):
    status, report, _ = run(capsys, "check", quay / "sea-thrift.svg", "--ticket", quay / "sea-thrift.toml", "--json")
    assert status == 1
    assert report["schema"] == "unkelt.check/1"
    file = report["files"][0]
    assert set(file) == {"path", "error", "ticket", "sheet", "findings"}
    assert set(file["sheet"]) == CHECK_SHEET
    assert file["sheet"]["page_mm"] == [1000, 400]
    assert file["sheet"]["ink_mm"][2] - file["sheet"]["ink_mm"][0] == pytest.approx(893.8)
    assert all(set(finding) == FINDING for finding in file["findings"])
    assert run(capsys, "check", quay / "berth-12.svg")[0] == 0
    assert run(capsys, "check", quay / "berth-12.svg", "--ticket", quay / "berth-12.toml")[0] == 0


def test_the_ticket_beside_a_file_is_taken_and_a_recipe_there_is_left(capsys, quay, tmp_path_factory):
    aside, inbox = tmp_path_factory.mktemp("aside"), tmp_path_factory.mktemp("inbox")
    for ending in ("svg", "toml"):
        (inbox / f"sea-thrift.{ending}").write_bytes((quay / f"sea-thrift.{ending}").read_bytes())
    name = inbox / "sea-thrift.svg"
    own = run(capsys, "check", name, "--json")[1]["files"][0]
    assert own["ticket"] == str(inbox / "sea-thrift.toml")
    _, mended, _ = run(capsys, "mend", name, "-o", quay / "out.svg", "--json")
    assert "resize" in [step["step"] for step in mended["steps"]]  # the ticket says 900 mm
    folder = {row["source"]: row for row in run(capsys, "mend", inbox, "-o", aside, "--json")[1]["files"]}
    assert folder[str(name)]["size_mm"][0] == pytest.approx(900, abs=0.5)
    _, none, _ = run(capsys, "mend", name, "-o", quay / "plain.svg", "--no-ticket", "--json")
    assert "resize" not in [step["step"] for step in none["steps"]]
    name.with_suffix(".toml").write_text('[[step]]\nname = "weld"\n')
    status, _, err = run(capsys, "mend", name, "-o", quay / "again.svg")
    assert status == 0
    assert "sea-thrift.toml beside it is a recipe" in err


def test_of_sixty_findings_of_one_kind_a_few_are_told_and_the_rest_counted(capsys, tmp_path):
    path = tmp_path / "dots.svg"
    pairs = [outline(f"{side}{k}", square(6, 20 * k + 4 * side, 5)) for k in range(60) for side in (0, 1)]
    path.write_bytes(write_svg(sheet(*pairs, page=(1300, 30))))
    main(["check", str(path)])
    said = capsys.readouterr().out
    assert "on hold, 60 to mend" in said
    assert said.count("Outlines overlap") == 4
    assert "and 56 more of overlap.items; --json lists all" in said
    main(["check", "--json", str(path)])
    assert [f["code"] for f in json.loads(capsys.readouterr().out)["files"][0]["findings"]].count("overlap.items") == 60


def test_check_a_folder_with_one_bad_file(capsys, quay):
    (quay / "bad.svg").write_text("<svg")
    status, report, err = run(capsys, "check", quay, "--json")
    assert status == 2
    assert len(report["files"]) == len(DEMO_FILES) + len(COMPOSED) + 1
    bad = next(file for file in report["files"] if file["path"].endswith("bad.svg"))
    assert bad["error"]
    assert bad["sheet"] is None
    assert len(err.strip().splitlines()) == 1


def test_mend_then_proof(capsys, quay):
    source, out, recipe = quay / "sea-thrift.svg", quay / "out.svg", quay / "r.toml"
    ticket = ("--ticket", quay / "sea-thrift.toml")
    original = source.read_bytes()
    status, report, _ = run(capsys, "mend", source, "-o", out, *ticket, "--save-recipe", recipe, "--json")
    assert status == 0
    assert set(report) == {"schema", "source", "output", "moved_mm", "steps", "before", "after", "refused", "holds"}
    assert [entry["step"] for entry in report["steps"]] == ["outline-text", "weld", "bind", "resize"]
    assert all(set(entry) == {"step", "items", "evidence"} for entry in report["steps"])
    assert (report["before"], report["after"]) == (["text.live", "size.frame"], [])
    assert source.read_bytes() == original
    status, proof, _ = run(capsys, "proof", out, *ticket, "--json")
    assert status == 0
    assert set(proof) == PROOF
    assert (proof["bodies"], proof["counters"], proof["verdict"], proof["text_left"]) == (1, 5, "clean", 0)
    assert proof["size_mm"][0] == pytest.approx(900, abs=0.05)
    # The saved recipe gives the same file, and mending again changes nothing.
    assert run(capsys, "mend", source, "-o", quay / "b.svg", *ticket, "--recipe", recipe)[0] == 0
    assert (quay / "b.svg").read_bytes() == out.read_bytes()
    assert run(capsys, "mend", out, "-o", quay / "c.svg", *ticket, "--json")[1]["steps"] == []
    assert (quay / "c.svg").read_bytes() == out.read_bytes()


def test_a_promise_not_kept_is_status_one(capsys, quay):
    (quay / "r.toml").write_text('[[step]]\nname = "weld"\nitems = ["nothing"]\n')
    status, _, err = run(capsys, "mend", quay / "berth-12.svg", "-o", quay / "o.svg", "--recipe", quay / "r.toml")
    assert status == 1
    assert "“nothing” is no longer on the sheet" in err
    assert run(capsys, "proof", quay / "sea-thrift.svg")[0] == 1


@pytest.mark.parametrize(
    "words",
    [
        ("check", "none.svg"), ("proof", "none.svg"), ("mend", "none.svg", "-o", "o.svg"), ("check", "bad.svg"),
        ("mend", "berth-12.svg", "-o", "berth-12.svg"), ("mend", "berth-12.svg", "-o", "o.xyz"),
        ("mend", "berth-12.svg", "-o", "no/such/folder/o.svg"), ("mend", "berth-12.svg", "-o", "o.svg", "--recipe", "bad.svg"),
        ("check", "berth-12.svg", "--ticket", "bad.svg"), ("check", "empty"),
    ],
)  # fmt: skip
def test_what_cannot_be_used_is_one_line_and_status_two(capsys, quay, monkeypatch, words):
    monkeypatch.chdir(quay)
    (quay / "bad.svg").write_text("<svg")
    (quay / "empty").mkdir()
    before = sorted(path.name for path in quay.iterdir())
    status, _, err = run(capsys, *words)
    assert status == 2
    assert len(err.strip().splitlines()) == 1
    assert "Traceback" not in err
    assert sorted(path.name for path in quay.iterdir()) == before  # nothing written, nothing left half


def test_fonts(capsys):
    report = run(capsys, "fonts", "--json")[1]
    assert {"Pacifico", "Dancing Script", "Sacramento", "Barlow", "Arvo"} <= {
        f["family"] for f in report["faces"] if f["bundled"]
    }
    assert "Pacifico" in run(capsys, "fonts")[1]
    scripts = run(capsys, "fonts", "--kind", "script", "--business")[1]
    assert "Pacifico" in scripts
    assert "Barlow" not in scripts


def test_the_core_runs_where_there_is_no_qt(quay):
    """All but the window works with PySide6 not to be had."""
    code = (
        "import sys; sys.modules['PySide6'] = None\n"
        "from unkelt.cli import main\n"
        f"sys.exit(main(['check', {str(quay / 'berth-12.svg')!r}]))"
    )
    assert subprocess.run([sys.executable, "-c", code], check=False).returncode == 0


def test_a_proof_by_a_stand_in_says_what_it_would_make_of_the_file(tmp_path, capsys):
    make_demo(tmp_path)
    tag = str(tmp_path / "berth-12.svg")
    assert main(["proof", tag, "--no-ticket", "--json"]) == 0
    plain = json.loads(capsys.readouterr().out)
    assert main(["proof", tag, "--importer", "seventy-two", "--no-ticket", "--json"]) == 1
    small = json.loads(capsys.readouterr().out)
    assert small["verdict"] == "hold"
    assert "arrived" in small["reasons"][0]
    assert small["size_mm"][0] == pytest.approx(plain["size_mm"][0] * 25.4 / 72, abs=0.01)
    assert small["seconds"] < plain["seconds"]


def test_groups_go_out_as_files_of_their_own(tmp_path, capsys):
    box = '<path id="{0}" fill="#000" d="M{1} 10H{2}V40H{1}Z"/>'
    groups = [
        f'<g id="g{at}"><title>{name}</title>{box.format(at, at, at + 20)}</g>'
        for at, name in ((10, "Cut"), (40, "cut"), (70, "Acrylic"))
    ]
    drawn = f'<svg xmlns="http://www.w3.org/2000/svg" width="150mm" height="50mm" viewBox="0 0 150 50">{"".join(groups)}{box.format("alone", 100, 120)}</svg>'
    (tmp_path / "plates.svg").write_text(drawn)
    arguments = [
        "release",
        str(tmp_path / "plates.svg"),
        "--to",
        str(tmp_path / "out"),
        "--by-group",
        "--formats",
        "svg",
        "--reason",
        "a test",
    ]
    assert main(arguments) == 0
    files = {path.stem: read_sheet(path) for path in (tmp_path / "out" / "plates-r1").glob("plates-*.svg")}
    assert {name: [outline.id for outline in sheet.outlines()] for name, sheet in files.items()} == {
        "plates-Cut-2": ["10"], "plates-cut-3": ["40"], "plates-Acrylic": ["70"], "plates-rest": ["alone"],
    }  # fmt: skip
    assert capsys.readouterr().err == ""


def test_a_counter_part_goes_out_on_a_sheet_of_its_own_and_fits(tmp_path, capsys):
    """Two sheets of material: what is cut from one has the clearance all round in the other's opening."""
    (tmp_path / "plate.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="140mm" height="100mm" viewBox="0 0 140 100">'
        '<path id="plate" d="M10 10H90V90H10Z"/><circle id="disc" cx="50" cy="50" r="20"/></svg>'
    )
    (tmp_path / "apart.toml").write_text(
        '[[step]]\nname = "knock-out"\nitems = ["disc"]\n'
        'with = { out_of = "plate", clearance = "0.5 mm", beside = true }\n'
        '[[step]]\nname = "fit-page"\nwith = { margin = "10 mm" }\n'
    )
    arguments = [
        "release",
        str(tmp_path / "plate.svg"),
        "--to",
        str(tmp_path / "out"),
        "--recipe",
        str(tmp_path / "apart.toml"),
        "--by-group",
        "--formats",
        "svg",
    ]
    assert main(arguments) == 0, capsys.readouterr().err
    folder = tmp_path / "out" / "plate-r1"
    (disc,) = read_sheet(folder / "plate-Counter-part.svg").outlines()
    (plate,) = read_sheet(folder / "plate-rest.svg").outlines()
    assert (disc.id, plate.id) == ("disc", "plate")
    sizes = [box[2] - box[0] for part in (disc.path, *plate.path.subpaths()) if (box := bounds(part))]
    assert sorted(sizes) == pytest.approx([40, 41, 80], abs=0.01)


def test_a_job_is_released_by_its_recipe_operation_by_operation_and_as_a_zip(tmp_path, capsys):
    make_demo(tmp_path)
    arguments = [
        "release",
        str(tmp_path / "berth-tag.svg"),
        "--to",
        str(tmp_path / "out"),
        "--ticket",
        str(tmp_path / "berth-tag.toml"),
        "--recipe",
        str(tmp_path / "berth-tag-recipe.toml"),
        "--by-operation",
        "--zip",
        "--formats",
        "svg,dxf",
    ]
    assert main(arguments) == 0
    names = {path.name for path in (tmp_path / "out" / "Berth-tag-r1").iterdir()}
    assert {"Berth-tag.svg", "Berth-tag-cut.svg", "Berth-tag-engrave.dxf", "recipe.toml", "inspection.pdf"} <= names
    assert (tmp_path / "out" / "Berth-tag-r1.zip").is_file()
    assert capsys.readouterr().err == ""


def test_what_libraries_say_is_not_on_the_standard_streams():
    script = (
        "import logging, warnings\nfrom unkelt.cli import main\nmain(['fonts'])\n"
        "logging.getLogger('fontTools').warning('odd')\nwarnings.warn('odd')"
    )
    run = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
    assert run.stderr == ""
    assert "Pacifico" in run.stdout


@pytest.mark.parametrize("looked_at", [True, False])
def test_what_takes_a_while_says_what_it_does_where_somebody_looks(monkeypatch, capsys, looked_at):
    monkeypatch.setattr(progress_line, "PATIENCE_S", 0.0)
    monkeypatch.setattr(progress_line, "EVERY_S", 0.001)
    monkeypatch.setattr("sys.stderr.isatty", lambda: looked_at)
    with progress_line.Working("Reading a.svg") as working:
        working.tell(0.4, "Weld")
        said = ""
        while looked_at and "40 % · Weld" not in said:
            said += capsys.readouterr().err
    assert capsys.readouterr().err.endswith("\r") is looked_at  # the line is cleared


def test_pictures_that_cannot_be_compared_are_said(tmp_path, capsys):
    leading = dxf(tmp_path, lambda msp: msp.add_leader([(0, 60), (10, 70), (20, 70)]))
    _, out, _ = run(capsys, "mend", leading, "-o", tmp_path / "b.svg")
    assert "Not compared by a second program: the independent reader doesn't know LEADER." in out


def test_what_mending_paints_otherwise_is_said(tmp_path, capsys):
    """Two translucent circles are darker where both lie; welded, they are not, and a person must read that."""
    received = tmp_path / "two.svg"
    circles = "".join(f'<circle cx="{x}" cy="30" r="15" fill-opacity=".4"/>' for x in (20, 30))
    received.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" width="60mm" viewBox="0 0 60 60">{circles}</svg>')
    main(["mend", str(received), "-o", str(tmp_path / "one.svg")])
    differs = [line for line in capsys.readouterr().out.splitlines() if line.lstrip().startswith("What differs")]
    assert len(differs) == 1
    assert "mm²: translucent shapes that overlapped are one" in differs[0]
