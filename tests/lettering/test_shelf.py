"""The shelf: collections, packed and variable faces, the cache, licences."""

import json
import shutil

import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.misc.transform import Identity
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont
from fontTools.ttLib.tables.TupleVariation import TupleVariation
from fontTools.ttLib.ttCollection import TTCollection

from tests.builders import SHELF, lettering, sheet
from unkelt.geometry.measure import bounds
from unkelt.job.ticket import Ticket
from unkelt.job.workshop import Workshop
from unkelt.lettering import shelves
from unkelt.lettering.faces import Shelf
from unkelt.lettering.index import CACHE, faces_in, index
from unkelt.lettering.licence import licence_of
from unkelt.lettering.nearest import in_face
from unkelt.lettering.setting import set_lettering
from unkelt.lettering.shelves import bundled_faces, standard_shelf
from unkelt.sheet.model import FaceQuery
from unkelt.survey.checks import find_code

PACIFICO, ARVO = (next(f for f in bundled_faces() if f.family == family) for family in ("Pacifico", "Arvo"))


@pytest.mark.parametrize("flavour", ["woff", "woff2"])
def test_packed_faces_draw_the_same_letters(tmp_path, flavour):
    font = TTFont(PACIFICO.path)
    font.flavor = flavour
    font.save(tmp_path / f"pacifico.{flavour}")
    (face,) = faces_in(tmp_path / f"pacifico.{flavour}")
    ink = set_lettering(lettering("Kitti"), Shelf([face])).ink(Identity)
    assert ink == pytest.approx(set_lettering(lettering("Kitti"), SHELF).ink(Identity))


def test_every_face_of_a_collection_is_on_the_shelf(tmp_path):
    both = TTCollection()
    both.fonts = [TTFont(ARVO.path), TTFont(PACIFICO.path)]
    both.save(tmp_path / "both.ttc")
    found = faces_in(tmp_path / "both.ttc")
    assert [(face.index, face.family) for face in found] == [(0, "Arvo"), (1, "Pacifico")]
    assert set_lettering(lettering("Kitti"), Shelf(found)).complete


def box(width: int):
    pen = TTGlyphPen(None)
    pen.moveTo((0, 0)), pen.lineTo((0, 700)), pen.lineTo((width, 700)), pen.lineTo((width, 0)), pen.closePath()
    return pen.glyph()


def variable(path, licence: str = "") -> None:
    """One letter, a stem that is 100 units wide at weight 400 and 300 at 700."""
    build = FontBuilder(1000, isTTF=True)
    build.setupGlyphOrder([".notdef", "i"])
    build.setupCharacterMap({ord("i"): "i"})
    build.setupGlyf({".notdef": box(500), "i": box(100)})
    build.setupHorizontalMetrics({".notdef": (500, 0), "i": (400, 0)})
    build.setupHorizontalHeader(ascent=800, descent=-200)
    build.setupNameTable(
        {"familyName": "Tidewrack", "styleName": "Regular", "psName": "Tidewrack", "licenseDescription": licence}
    )
    build.setupOS2(usWeightClass=400, fsType=4)
    build.setupPost()
    axes = [("wght", 400, 400, 700, "Weight")]
    build.setupFvar(axes, [{"location": {"wght": w}, "stylename": n} for w, n in ((400, "Regular"), (700, "Bold"))])
    wider = [(0, 0), (0, 0), (200, 0), (200, 0), (0, 0), (0, 0), (0, 0), (0, 0)]
    build.setupGvar({"i": [TupleVariation({"wght": (0, 1, 1)}, wider)]})
    build.save(path)


def test_named_instances_of_a_variable_face_are_faces(tmp_path):
    variable(tmp_path / "tidewrack.ttf")
    shelf = Shelf(faces_in(tmp_path / "tidewrack.ttf"))
    assert [(face.style, face.weight) for face in shelf.faces] == [("Regular", 400), ("Bold", 700)]
    for weight, width in ((400, 10.0), (700, 30.0)):
        face = shelf.match(FaceQuery(("Tidewrack",), weight))
        (glyph,) = set_lettering(in_face(lettering("i", "Tidewrack", 100), face), Shelf([face])).glyphs
        x0, _, x1, _ = bounds(glyph.path())
        assert x1 - x0 == pytest.approx(width, abs=0.01)


def test_the_cache_is_used_until_the_file_changes_and_its_damage_does_no_harm(tmp_path):
    font, cache = tmp_path / "face.ttf", tmp_path / "cache"
    shutil.copy(PACIFICO.path, font)
    assert index([font], cache).faces[0].family == "Pacifico"
    known = json.loads((cache / CACHE).read_text())
    known[str(font)][2][0][1] = "From the cache"
    (cache / CACHE).write_text(json.dumps(known))
    assert index([font], cache).faces[0].family == "From the cache"
    shutil.copy(ARVO.path, font)
    assert index([font], cache).faces[0].family == "Arvo"
    for rubbish in ("{", "[]", '{"x": 3}', f'{{"{font}": [1]}}'):
        (cache / CACHE).write_text(rubbish)
        assert index([font], cache).faces[0].family == "Arvo"


def test_added_folders_are_on_the_shelf_and_missing_ones_are_named(tmp_path):
    variable(tmp_path / "tidewrack.ttf")
    shelf = standard_shelf((tmp_path, tmp_path / "gone"))
    assert shelf.match(FaceQuery(("Tidewrack",))) is not None
    assert f"{tmp_path / 'gone'}: there is no such file or folder" in shelf.damaged


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ("Free for personal use only. Ask us for more.", "Free for personal use only"),
        ("Licensed under the SIL Open Font License", ""),
        ("Not for commercial use", "Not for commercial use"),
    ],
)
def test_a_licence_for_personal_use_is_noted(tmp_path, words, said):
    variable(tmp_path / "tidewrack.ttf", words)
    shelf = Shelf(faces_in(tmp_path / "tidewrack.ttf"))
    licence = licence_of(shelf.faces[0])
    assert (licence.words, licence.embedding) == (said, "preview and print")
    found = find_code("text.licence", sheet(lettering("i", "Tidewrack")), Workshop(Ticket(), shelf))
    assert [f.level for f in found] == (["note"] if said else [])


def test_no_bundled_face_is_for_personal_use_only():
    assert not [face.name for face in bundled_faces() if licence_of(face).personal_only]


def test_a_face_that_is_installed_meanwhile_is_on_the_shelf(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    shelves.standard_shelf.cache_clear()
    before = shelves.shelf_again()
    assert shelves.shelf_again() is before
    path = next(face.path for face in shelves.bundled_faces() if face.family == "Arvo")
    shelves.user_folder().mkdir(parents=True)
    shutil.copy(path, shelves.user_folder() / "arvo.ttf")
    after = shelves.shelf_again()
    assert len(after.faces) == len(before.faces) + 1
    assert after.match(FaceQuery(("Arvo",))).path == shelves.user_folder() / "arvo.ttf"  # the machine's own goes before
    (shelves.user_folder() / "arvo.ttf").unlink()
    assert len(shelves.shelf_again().faces) == len(before.faces)
    monkeypatch.undo()
    shelves.standard_shelf.cache_clear()
