"""Writes are whole or not at all."""

import os

import pytest

from tests.builders import outline, sheet, square
from unkelt.errors import InputError
from unkelt.formats import files
from unkelt.formats.files import read_bytes, write_whole
from unkelt.formats.formats import read_sheet, write_sheet


def test_a_write_that_fails_leaves_the_old_file_and_nothing_else(tmp_path, monkeypatch):
    path = tmp_path / "a.svg"
    path.write_bytes(b"before")

    def full(_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(files.os, "fsync", full)
    with pytest.raises(InputError, match="No space left on device"):
        write_whole(path, b"after" * 1000)
    assert path.read_bytes() == b"before"
    assert os.listdir(tmp_path) == ["a.svg"]


def test_the_new_file_has_ordinary_permissions(tmp_path):
    write_whole(tmp_path / "a.svg", b"x")
    (tmp_path / "b.svg").write_bytes(b"x")
    assert (tmp_path / "a.svg").stat().st_mode == (tmp_path / "b.svg").stat().st_mode


def test_places_that_cannot_be_written(tmp_path):
    for path, words in ((tmp_path, "is a folder"), (tmp_path / "no" / "a.svg", "can't be written")):
        with pytest.raises(InputError, match=words):
            write_whole(path, b"x")


def test_names_that_no_file_can_have():
    with pytest.raises(InputError, match="can't be read"):
        read_bytes(files.Path("a\0b.svg"))


@pytest.mark.parametrize("ending", [".svg", ".dxf", ".pdf"])
def test_a_file_of_another_name_is_read_by_how_it_begins(tmp_path, ending):
    on = sheet(outline("a", square(20, 5, 5)))
    write_sheet(on, tmp_path / f"a{ending}")
    other = (tmp_path / f"a{ending}").rename(tmp_path / "a.art")
    assert len(read_sheet(other).outlines()) == 1


@pytest.mark.parametrize(
    ("name", "content", "reason"),
    [
        ("a.png", b"\x89PNG\r\n\x1a\n", "none of what can be read"),
        ("a.plt", b"IN;SP1;PU0,0;PD40,40;", "HPGL is only written"),
        ("a.eps", b"%!PS EPSF", "none of what can be read"),
        ("a", b"", "is empty"),
    ],
)
def test_what_cannot_be_read_is_said_in_a_sentence(tmp_path, name, content, reason):
    (tmp_path / name).write_bytes(content)
    with pytest.raises(InputError, match=reason):
        read_sheet(tmp_path / name)
