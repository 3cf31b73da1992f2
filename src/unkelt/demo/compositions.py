"""What is made around lettering at Hollin Quay: the text that each job starts from, its ticket, and its recipe.

film-name    a name in film with a backing around it
big-letter   a name knocked out of its own first letter
berth-tag    a number engraved on a tag that is cut out and hangs from a ring
fascia-name  a name let into a frame of open lines, for plasma
life-ring    a name around the centre of a life ring's cover
"""

from __future__ import annotations

from importlib.resources import files

from unkelt.demo.tickets import ticket_text
from unkelt.formats.svg.write import write_svg
from unkelt.geometry.path import concat, polygon
from unkelt.lettering.guides import circle
from unkelt.sheet.appearance import Appearance
from unkelt.sheet.model import FaceQuery, Group, Lettering, Outline, Run, Sheet

CUT, ENGRAVE = "#0b5d4c", "#20262b"
LINE = Appearance(fill=None, stroke=CUT, stroke_width_mm=0.1)

NAMES = ("film-name", "big-letter", "berth-tag", "fascia-name", "life-ring")


def composition_files() -> dict[str, tuple[bytes, str, str]]:
    """Each job's drawing, ticket and recipe. Film that is cut from behind has to be mirrored."""
    jobs = {
        "film-name": (_film_name(), ticket_text("Name in film", "film-knife", ("600 mm", "5 m"), mirrored=True)),
        "big-letter": (_big_letter(), ticket_text("Name in its letter", "laser", ("600 mm", "400 mm"))),
        "berth-tag": (_berth_tag(), ticket_text("Berth tag", "laser", ("600 mm", "400 mm"))),
        "fascia-name": (_fascia_name(), ticket_text("Fascia with a name", "plasma", ("1500 mm", "3 m"))),
        "life-ring": (_life_ring(), ticket_text("Life ring cover", "film-knife", ("700 mm", "5 m"))),
    }
    return {name: (write_svg(sheet), ticket, recipe(name)) for name, (sheet, ticket) in jobs.items()}


def recipe(name: str) -> str:
    """The recipe of a job, as it is shipped."""
    return (files("unkelt") / "demo" / "recipes" / f"{name}.toml").read_text(encoding="utf-8")


def _text(item_id: str, words: str, family: str, size_mm: float, colour: str, x: float, y: float) -> Lettering:
    run = Run(words, FaceQuery((family,)), size_mm, Appearance(fill=colour), at=(x, y))
    return Lettering(item_id, (run,), anchor="middle")


def _film_name() -> Sheet:
    return Sheet((700.0, 300.0), (_text("name", "Name", "Pacifico", 120, CUT, 350, 170),))


def _big_letter() -> Sheet:
    initial = _text("initial", "N", "Alfa Slab One", 380, CUT, 260, 340)
    return Sheet((520.0, 400.0), (initial, _text("name", "Name", "Pacifico", 60, CUT, 260, 220)))


def _berth_tag() -> Sheet:
    return Sheet((90.0, 70.0), (_text("number", "0", "Alfa Slab One", 28, ENGRAVE, 45, 45),))


def _fascia_name() -> Sheet:
    """Two rails whose lines stop short of each other at the ends: the steel between them holds the frame together."""
    top = polygon((40, 98), (40, 40), (1360, 40), (1360, 98), closed=False)
    bottom = polygon((40, 112), (40, 160), (1360, 160), (1360, 112), closed=False)
    rails = Group("rails", (Outline("top", top, LINE), Outline("bottom", bottom, LINE)), "Rails")
    return Sheet((1400.0, 200.0), (rails, _text("name", "NAME", "Alfa Slab One", 150, CUT, 700, 150)))


def _life_ring() -> Sheet:
    rings = concat([circle(320, 320, 300, 0, True), circle(320, 320, 170, 0, True).reversed()])
    cover = Outline("cover", rings, LINE, "Cover")
    return Sheet((640.0, 640.0), (cover, _text("name", "Name", "Pacifico", 84, ENGRAVE, 320, 120)))
