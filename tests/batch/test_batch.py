"""Folders, series and arrivals: nothing stops the rest, nothing is lost, and the answers are the same however they
come.
"""

import csv
import hashlib
import itertools
import json
import os
import shutil
import signal
import subprocess
import sys
import time

import pytest

from tests.batch.work import prepare, work
from unkelt.batch.arrivals import Arrivals
from unkelt.batch.folder import Row
from unkelt.batch.mending import Mending, mendings
from unkelt.batch.pool import spread
from unkelt.batch.series import filled, read_lines
from unkelt.batch.summary import as_csv, as_json, as_text
from unkelt.batch.summary_page import as_html
from unkelt.cli import main
from unkelt.demo import make_demo
from unkelt.errors import InputError
from unkelt.recipe import parse_recipe


def test_a_task_that_fails_hangs_or_ends_its_process_takes_no_other_with_it():
    tasks = ["a", "raise", "b", "die", "c", "fault", "hang", "d"]
    found = list(spread(work, iter(tasks), prepare=prepare, given=("x",), processes=2, most_s=2))
    assert [done.task for done in found] == tasks
    assert [done.answer for done in found] == ["a x", None, "b x", None, "c x", None, None, "d x"]
    problems = [done.problem for done in found if done.problem]
    assert problems == [
        "a.svg: is empty",
        "the program ended while working on it (out of memory, or a fault)",
        "a fault in the program: ZeroDivisionError: by zero",
        "given up after 2 s",
    ]


def test_tasks_are_handed_out_as_they_are_needed():
    taken = itertools.count()
    answers = spread(work, (next(taken) for _ in range(10_000)), prepare=prepare, given=(), processes=1)
    assert next(answers).answer == "0 "
    assert next(taken) < 10, "more would fill the memory"
    answers.close()


@pytest.fixture(scope="module")
def folder(tmp_path_factory):
    """A few of the demo's files in two folders, one with a bad file, and two that would get one name."""
    top = tmp_path_factory.mktemp("inbox")
    make_demo(quay := tmp_path_factory.mktemp("quay"))
    for name in ("berth-12", "tags", "port-arc"):
        shutil.copy(quay / f"{name}.svg", top / f"{name}.svg")
    (top / "sub").mkdir()
    shutil.copy(quay / "fascia.svg", top / "sub" / "fascia.svg")
    (top / "bad.svg").write_text("<svg")
    main(["mend", str(top / "berth-12.svg"), "-o", str(top / "tags.dxf")])
    return top


def sums(folder):
    return {
        str(path.relative_to(folder)): hashlib.sha256(path.read_bytes()).hexdigest()
        for path in folder.rglob("*")
        if path.is_file()
    }


def test_a_folder_is_checked_with_tables(folder, tmp_path, capsys):
    status = main(
        ["check", str(folder), "--json", "--csv", str(tmp_path / "c.csv"), "--html", str(tmp_path / "c.html")]
    )
    out = capsys.readouterr()
    files = json.loads(out.out)["files"]
    assert status == 2
    assert out.err.startswith(f"unkelt: {folder / 'bad.svg'}: ")
    assert [os.path.relpath(file["path"], folder) for file in files] == [
        "bad.svg",
        "berth-12.svg",
        "port-arc.svg",
        "sub/fascia.svg",
        "tags.dxf",
        "tags.svg",
    ]
    alone = main(["check", str(folder / "tags.svg"), "--json"])
    assert json.loads(capsys.readouterr().out)["files"][0] == files[-1]
    assert alone == 1
    table = list(csv.DictReader((tmp_path / "c.csv").read_text().splitlines()))
    assert [row["state"] for row in table].count("not done") == 1
    assert len(table) == 6
    html = (tmp_path / "c.html").read_text()
    assert html.count("<article") == 6
    assert html.count("data:image/png;base64,") == 5
    assert "<script" not in html
    assert "http" not in html


def test_a_folder_is_mended_into_another_and_goes_on_where_it_was(folder, tmp_path, capsys):
    out, before = tmp_path / "out", sums(folder)
    assert main(["mend", str(folder), "-o", str(out), "--json"]) == 2
    first = json.loads(capsys.readouterr().out)
    assert first["schema"] == "unkelt.batch/1"
    assert first["counts"]["not done"] == 1
    made = {name for name in sums(out) if name.endswith(".svg")}
    assert made == {"berth-12.svg", "port-arc.svg", "sub/fascia.svg", "tags-dxf.svg", "tags-svg.svg"}
    assert sums(folder) == before, "the originals"
    assert {"summary.json", "summary.csv", "summary.html"} <= set(sums(out))
    results, times = sums(out), {name: (out / name).stat().st_mtime_ns for name in made}

    (out / "sub" / "fascia.svg").unlink()  # as if it had been stopped before this one
    journal = out / ".unkelt-journal.jsonl"
    journal.write_text(journal.read_text() + '{"mark": "cut sho')
    assert main(["mend", str(folder), "-o", str(out), "--json"]) == 2
    again = json.loads(capsys.readouterr().out)
    written = [name for name in made if (out / name).stat().st_mtime_ns != times[name]]
    assert written == ["sub/fascia.svg"]
    assert {name: sums(out)[name] for name in made} == {name: results[name] for name in made}
    for one, other in zip(first["files"], again["files"], strict=True):
        assert {**one, "seconds": 0} == {**other, "seconds": 0}
    # One process, another hash seed and another locale give the same files.
    other = tmp_path / "other"
    command = [sys.executable, "-m", "unkelt.cli", "mend", str(folder), "-o", str(other), "--jobs", "1"]
    subprocess.run(command, env={**os.environ, "PYTHONHASHSEED": "7", "LC_ALL": "C"}, capture_output=True, check=False)
    assert {name: sums(other)[name] for name in made} == {name: results[name] for name in made}


def test_a_kill_in_the_middle_leaves_whole_files_and_is_gone_on_from(folder, tmp_path, capsys):
    out = tmp_path / "out"
    command = [sys.executable, "-m", "unkelt.cli", "mend", str(folder), "-o", str(out), "--jobs", "1"]
    process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True)
    journal = out / ".unkelt-journal.jsonl"
    end = time.monotonic() + 60
    while not (journal.is_file() and journal.read_text().count("\n")) and time.monotonic() < end:
        time.sleep(0.02)
    os.killpg(process.pid, signal.SIGKILL)
    process.wait()
    finished = journal.read_text().count("\n")
    assert finished >= 1
    main(["mend", str(folder), "-o", str(out)])
    assert "6 files" in capsys.readouterr().out
    assert {name for name in sums(out) if name.endswith(".svg") and ".part" not in name} >= {
        "berth-12.svg",
        "tags-svg.svg",
    }


def test_originals_are_never_in_reach(folder, tmp_path):
    for output in (folder / "out", folder, folder.parent):
        with pytest.raises(InputError, match="must lie apart"):
            mendings(folder, output, ".svg")
    (tmp_path / "none").mkdir()
    with pytest.raises(InputError, match="holds no file that can be read"):
        mendings(tmp_path / "none", tmp_path / "out", ".svg")
    assert Mending(folder / "tags.svg", tmp_path / "out" / "tags-svg.svg") in mendings(folder, tmp_path / "out", ".svg")


RECIPE = """
[[step]]
name = "set-text"
items = ["number"]
with = { text = "{text}" }
[[step]]
name = "outline-text"
items = ["number"]
[[step]]
name = "bind"
rule = "compound.loose"
"""


def test_a_series_makes_a_package_for_every_name_and_says_what_failed(tmp_path, capsys):
    make_demo(quay := tmp_path / "quay")
    (tmp_path / "r.toml").write_text(RECIPE)
    (tmp_path / "names.csv").write_text("text;note\n7;first\n\n108;\n潮;no such character\n", encoding="utf-8-sig")
    to = tmp_path / "made"
    words = [
        "series",
        tmp_path / "r.toml",
        tmp_path / "names.csv",
        "--to",
        to,
        "--from",
        quay / "berth-tag.svg",
        "--json",
    ]
    status = main([str(word) for word in words])
    rows = json.loads(capsys.readouterr().out)["files"]
    assert status == 2
    assert [(row["source"], row["state"]) for row in rows] == [
        ("0001 7", "clean"),
        ("0002 108", "clean"),
        ("0003 潮", "not done"),
    ]
    assert "the face has no “潮”" in rows[2]["problem"]
    assert sorted(path.name for path in to.iterdir() if path.is_dir()) == ["0001-7-r1", "0002-108-r1"]
    widths = [row["size_mm"][0] for row in rows[:2]]
    assert widths[0] < widths[1]
    assert (to / "0002-108-r1" / "inspection.pdf").is_file()
    assert (to / "summary.html").read_text().count("data:image/png") == 2


def test_a_folder_is_released_file_by_file_and_goes_on_where_it_was(tmp_path, capsys):
    """Each by the ticket beside it, to where that sends it; as one package only when every file is there."""
    make_demo(quay := tmp_path / "quay")
    (inbox := tmp_path / "inbox").mkdir()
    for name in ("berth-12.svg", "berth-12.toml", "porthole.svg", "porthole.toml"):
        shutil.copy(quay / name, inbox)
    to = tmp_path / "out"
    assert main(["release", str(inbox), "--to", str(to), "--json"]) == 1
    rows = json.loads(capsys.readouterr().out)["files"]
    assert [row["state"] for row in rows] == ["clean", "not done"]
    assert "nothing holds" in rows[1]["problem"]
    assert (to / "Berth-tag-12-r1" / "school-workshop" / "Berth-tag-12-cut.svg").is_file()

    together = ["release", str(inbox), "--to", str(to), "--together"]
    assert main(together) == 1
    assert "no package yet, 1 of 2 can't be released" in capsys.readouterr().err
    begun = {path: path.stat().st_mtime_ns for path in (to / ".inbox.part").rglob("*.dxf")}
    assert (
        main(["mend", str(inbox / "porthole.svg"), "-o", str(tmp_path / "p.svg"), "--recipe", str(_bridges(tmp_path))])
        == 0
    )
    shutil.copy(tmp_path / "p.svg", inbox / "porthole.svg")
    assert main(together) == 0
    assert (to / "inbox-r1" / "contact-sheet.pdf").read_bytes().startswith(b"%PDF")
    for path, made in begun.items():  # what was released before the stop was not released again
        assert (to / "inbox-r1" / path.relative_to(to / ".inbox.part")).stat().st_mtime_ns == made
    for line in (to / "inbox-r1" / "SHA256SUMS").read_text().splitlines():
        total, name = line.split("  ", 1)
        assert hashlib.sha256((to / "inbox-r1" / name).read_bytes()).hexdigest() == total
    assert not (to / ".inbox.part").exists()


def _bridges(folder):
    path = folder / "bridges.toml"
    path.write_text('[[step]]\nname = "bridge"\nwith = { width = "4 mm" }\n')
    return path


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "is empty"),
        ("text,text\na,b\n", "different names"),
        ("text\n\n\n", "no line under its heading"),
        ("text,size\na,b,c\n", "line 2: has 3 cells under 2 headings"),
        ('text\n"a\n', "is no CSV"),
        ("\x00\x01", "different names"),
    ],
)
def test_a_list_that_can_not_be_used_is_said(tmp_path, text, words):
    (tmp_path / "n.csv").write_text(text)
    with pytest.raises(InputError, match=words):
        read_lines(tmp_path / "n.csv")


def test_columns_stand_in_the_options_and_empty_ones_leave_the_default():
    recipe = parse_recipe('[[step]]\nname = "add-lettering"\nwith = { text = "No. {text}", family = "{face}" }')
    assert dict(filled(recipe, {"text": "7", "face": ""}).calls[0].options) == {"text": "No. 7"}
    with pytest.raises(InputError, match="column “face”"):
        filled(recipe, {"text": "7"})


def test_arrivals_are_told_once_when_they_are_whole_and_again_when_they_change(tmp_path):
    arrivals = Arrivals(tmp_path / "in")
    assert arrivals.look() == []
    (tmp_path / "in").mkdir()
    path = tmp_path / "in" / "a.SVG"
    path.write_text("<svg")
    assert arrivals.look() == []
    path.write_text("<svg>longer")
    assert arrivals.look() == []
    assert arrivals.expecting
    assert arrivals.look() == [path]
    assert arrivals.look() == []
    path.write_text("<svg>longer still")
    arrivals.look()
    assert arrivals.look() == [path]
    (tmp_path / "in" / "b.svg").touch()  # nothing in it yet
    assert [arrivals.look() for _ in range(3)] == [[], [], []]


def test_a_watched_folder_by_command(tmp_path, capsys):
    make_demo(quay := tmp_path / "quay")
    (inbox := tmp_path / "in").mkdir()
    shutil.copy(quay / "tags.svg", inbox)
    assert main(["watch", str(inbox), "-o", str(tmp_path / "out"), "--once", "--every", "0.05"]) == 0
    assert f"{inbox / 'tags.svg'}: " in capsys.readouterr().out
    assert (tmp_path / "out" / "tags.svg").is_file()
    assert main(["watch", str(tmp_path / "none")]) == 2
    assert main(["watch", str(inbox), "-o", str(inbox / "." / "")]) == 2
    assert "would arrive in it again" in capsys.readouterr().err


def test_names_and_reasons_in_the_summary_are_words_and_never_markup(tmp_path):
    hostile = '<script>alert(1)</script> & "a".svg'
    rows = [
        Row(f"/in/{hostile}", problem=f"{hostile}: is empty"),
        Row(
            "/in/b.svg",
            "/out/b.svg",
            before={"path.open": 1},
            refused=("<b>not</b>",),
            nodes=(3, 2),
            size_mm=(1.0, 2.0),
        ),
        Row("/in/c, d.svg", "/out/c.svg", nodes=(1, 1)),
    ]
    html = as_html(rows, "<i>title</i>")
    assert "<script" not in html
    assert "<b>" not in html
    assert "<i>" not in html
    assert html.index("not done") < html.index("hold</span>") < html.index("clean</span>"), (
        "what needs a look comes first"
    )
    table = list(csv.reader(as_csv(rows).splitlines()))
    assert table[1][1] == f"/in/{hostile}"
    assert table[3][1] == "/in/c, d.svg"
    assert len({len(row) for row in table}) == 1
    assert as_json(rows)["counts"] == {"clean": 1, "hold": 1, "not done": 1}
    assert as_text(rows).endswith("3 files: 1 clean, 1 on hold, 1 not done")
    for row in rows:
        assert Row.from_json(json.loads(json.dumps(row.as_json()))) == row


def test_where_no_process_can_be_shared_with_the_work_is_done_in_this_one(monkeypatch):
    def refuse(*_):
        raise PermissionError(13, "Permission denied", "/dev/shm")

    monkeypatch.setattr("unkelt.batch.pool._pool", refuse)
    answers = list(spread(work, [1, 2, 3], prepare=prepare, given=("x",)))
    assert [answer.task for answer in answers] == [1, 2, 3]
