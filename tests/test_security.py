"""What files from elsewhere can't do: reach the network, run anything, fill the disk, or write where they like."""

import gzip
import io
import json
import os
import re
import stat
import subprocess
import sys
import zipfile
from pathlib import Path

from tests.builders import SHELF, outline, sheet, square, workshop
from unkelt.cli import main
from unkelt.demo import make_demo
from unkelt.formats.svg.write import write_svg
from unkelt.session.job import open_job
from unkelt.session.kept_jobs import Keeper
from unkelt.session.working_file import open_working, save_working

TOP = Path(__file__).parent.parent

FORBIDDING = """
import sys
ALLOWED = {"fc-list", sys.executable}  # faces are listed, and pictures painted, by programs of their own
def forbid(event, given):
    if event.startswith("socket.") and event not in ("socket.__new__",):
        raise SystemExit(f"forbidden: {event} {given}")
    if event in ("subprocess.Popen", "os.exec", "os.system", "os.posix_spawn") and str(given[0]) not in ALLOWED:
        raise SystemExit(f"forbidden: {event} {given[:1]}")
sys.addaudithook(forbid)
from unkelt.cli import main
sys.exit(main(sys.argv[1:]))
"""

HOSTILE = """<!DOCTYPE svg [<!ENTITY remote SYSTEM "http://example.invalid/e.txt"><!ENTITY local SYSTEM "file:///etc/passwd">]>
<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="90mm" height="90mm" viewBox="0 0 90 90"
 onload="alert(1)"><script xlink:href="http://example.invalid/a.js">import os; os.system("touch /tmp/owned")</script>
<style>@import url(http://example.invalid/a.css); @font-face { font-family: Away; src: url(http://example.invalid/a.ttf) }</style>
<image xlink:href="http://example.invalid/a.png" width="9" height="9"/><use xlink:href="http://example.invalid/b.svg#x"/>
<image xlink:href="file:///etc/passwd" width="9" height="9"/><text font-family="Away" y="40">a &local; b &remote;</text>
<path d="M5 5h40v40h-40z" fill="url(http://example.invalid/c.svg#g)"/></svg>"""


def forbidden(*words):
    return subprocess.run(
        [sys.executable, "-c", FORBIDDING, *map(str, words)], capture_output=True, text=True, check=False
    )


def test_nothing_connects_and_nothing_is_run(tmp_path):
    make_demo(tmp_path)
    (tmp_path / "hostile.svg").write_text(HOSTILE)
    for words in (
        ["check", tmp_path / "hostile.svg", tmp_path / "parcel.svg"],
        ["mend", tmp_path / "hostile.svg", "-o", tmp_path / "out.svg"],
        ["proof", tmp_path / "hostile.svg"],
        ["release", tmp_path / "sea-thrift.svg", "--to", tmp_path / "out", "--reason", "tried"],
        ["fonts"],
    ):
        made = forbidden(*words)
        assert "forbidden" not in made.stderr, made.stderr
        assert made.returncode in (0, 1, 2)
        assert "Traceback" not in made.stderr
    assert not Path("/tmp/owned").exists()
    if (tmp_path / "out.svg").exists():
        assert "root:" not in (tmp_path / "out.svg").read_text()
        assert "example.invalid" not in (tmp_path / "out.svg").read_text()
    probe = subprocess.run(
        [sys.executable, "-c", FORBIDDING.replace("from unkelt.cli import main", "import socket; socket.create_connection(('127.0.0.1', 9))")],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert "forbidden: socket" in probe.stderr, "the test itself forbids"


def test_archives_are_bounded(tmp_path, capsys, monkeypatch):
    monkeypatch.setattr("unkelt.formats.svg.read.UNPACKED_LIMIT", 50 << 20)  # the bound itself takes a while to reach
    bomb = io.BytesIO()
    with gzip.GzipFile(fileobj=bomb, mode="wb") as file:
        file.write(b'<svg xmlns="http://www.w3.org/2000/svg">')
        for _ in range(60):
            file.write(bytes(1 << 20))
    (tmp_path / "bomb.svgz").write_bytes(bomb.getvalue())
    assert main(["check", str(tmp_path / "bomb.svgz")]) == 2
    assert "bomb.svgz" in capsys.readouterr().err
    laughs = "".join(f'<!ENTITY a{n} "{f"&a{n - 1};" * 10}">' for n in range(1, 12))
    (tmp_path / "laughs.svg").write_text(
        f'<!DOCTYPE svg [<!ENTITY a0 "ha">{laughs}]><svg xmlns="http://www.w3.org/2000/svg"><text>&a11;</text></svg>'
    )
    assert main(["check", str(tmp_path / "laughs.svg")]) == 2


def test_paths_in_a_working_file_can_not_escape(tmp_path):
    source = tmp_path / "a.svg"
    source.write_bytes(write_svg(sheet(outline("a", square(20, 5, 5)))))
    save_working(open_job(source, workshop()), tmp_path / "a.unkelt")
    evil = tmp_path / "in" / "evil.unkelt"
    evil.parent.mkdir()
    with zipfile.ZipFile(tmp_path / "a.unkelt") as good, zipfile.ZipFile(evil, "w") as bad:
        for name in good.namelist():
            bad.writestr(name.replace("original/", "original/../../../"), good.read(name))
    before = set(tmp_path.rglob("*"))
    job, _ = open_working(evil, SHELF)
    assert job.path.parent == evil.parent
    assert set(tmp_path.rglob("*")) == before


def test_what_is_kept_is_for_its_user_alone(tmp_path):
    source = tmp_path / "a.svg"
    source.write_bytes(write_svg(sheet(outline("a", square(20, 5, 5)))))
    keeper = Keeper(tmp_path / "state" / "open")
    keeper.take(source)
    assert stat.S_IMODE(os.stat(tmp_path / "state" / "open").st_mode) == 0o700
    keeper.close()


def test_every_dependency_is_pinned_with_a_hash_and_listed():
    text = (TOP / "requirements.lock").read_text(encoding="utf-8")
    pins = dict(re.findall(r"^([\w.-]+)==(\S+) \\\n    --hash=sha256:", text, re.M))
    assert len(pins) == len(re.findall(r"^[\w.-]+==", text, re.M)) > 20
    exact = dict(line.split("==") for line in (TOP / "constraints.txt").read_text().splitlines() if "==" in line)
    exact = {name.lower().replace("_", "-"): version for name, version in exact.items()}
    assert {name: exact.get(name.lower()) for name in pins} == pins, "make requirements.lock again"
    listed = {
        (part["name"].lower(), part["version"])
        for part in json.loads((TOP / "docs" / "sbom.cdx.json").read_text())["components"]
    }
    assert {(name.lower(), version) for name, version in pins.items()} == listed
