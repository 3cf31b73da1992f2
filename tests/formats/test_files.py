"""Writes are whole or not at all."""

import os

import pytest

from unkelt.errors import InputError
from unkelt.formats import files
from unkelt.formats.files import read_bytes, write_whole


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
