"""Takes the pictures in docs/screenshots/ from the demonstration files, at 1280 × 800, offscreen."""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtWidgets import QScrollArea

from unkelt.demo import make_demo
from unkelt.desk.app import make_application
from unkelt.desk.common.loupe import Loupe
from unkelt.desk.common.theme import DARK, THEME
from unkelt.desk.table.table import LightTable
from unkelt.desk.views import View
from unkelt.desk.window import Desk
from unkelt.recipe import read_recipe

OUT = Path(__file__).parent / "screenshots"

FOREIGN = """<svg xmlns="http://www.w3.org/2000/svg" width="595" height="842" viewBox="0 0 595 842"><defs><linearGradient id="g">
<stop stop-color="#0b5d4c"/></linearGradient></defs><text x="60" y="200" font-family="Pacifico" font-size="90">Kittiwake</text>
<text x="60" y="300" font-family="Quayside Script" font-size="40">Port of Hollin</text><path fill="url(#g)" d="M60 400h400v100h-400z"/>
<image href="photo.png" x="60" y="550" width="100" height="80"/><use href="#none"/><path d="M60 600H90" display="none" stroke="#000"/></svg>"""
"""A file as they arrive: no units, a face that isn't there, things that importing drops."""


def wait(milliseconds: int) -> None:
    loop = QEventLoop()
    QTimer.singleShot(milliseconds, loop.quit)
    loop.exec()


def settle(desk: Desk) -> None:
    end = time.monotonic() + 60
    wait(40)
    while busy(desk) and time.monotonic() < end:
        wait(20)
    wait(80)


def busy(desk: Desk) -> bool:
    drawing = any(
        table.canvas.busy or table.comparison.canvas.busy or table.trying.canvas.busy
        for table in desk.findChildren(LightTable)
    )
    drawing = drawing or any(loupe.canvas.busy for loupe in desk.findChildren(Loupe))
    return desk.bench.is_busy() or desk.behind.is_busy() or drawing


def main() -> None:
    make_application()
    desk = Desk()
    desk.show()
    OUT.mkdir(exist_ok=True)

    def shot(name: str) -> None:
        settle(desk)
        desk.grab()  # what is drawn behind is asked for
        settle(desk)
        desk.grab().save(str(OUT / f"{name}.png"))

    with tempfile.TemporaryDirectory() as folder:
        quay = Path(folder)
        make_demo(quay)
        shot("start")
        desk.state.opening.open_paths([quay / "kittiwake.svg", quay / "sea-thrift.svg"])
        shot("inspect")
        settle(desk)
        desk.state.surveying.choose(
            next(i for i, f in enumerate(desk.state.findings or ()) if f.code == "nodes.excess")
        )
        settle(desk)
        desk.room.inspecting.zoom_finding()
        desk.room.looking.lens_nodes()
        shot("inspect-nodes")
        desk.room.looking.lens_blade()
        desk.room.zooming.zoom_fit()
        desk.state.on_desk.bring_forward(1)
        shot("inspect-live-text")
        settle(desk)
        desk.turn_to(View.COMPOSE)
        settle(desk)
        compose = desk.room.compose
        desk.room.composer.set_step("set-face")
        compose.options.put({"family": "Dancing Script", "weight": "700"})
        shot("compose-face")
        desk.room.composer.set_step("set-letters")
        compose.options.put({"letters": "5"})
        settle(desk)
        assert compose.options.forms is not None
        area = next(each for each in compose.card.findChildren(QScrollArea))
        area.ensureWidgetVisible(compose.options.forms, 0, 90)
        shot("compose-forms")
        desk.room.composer.leave()
        desk.turn_to(View.INSPECT)
        desk.state.stepping.mend_safe()
        settle(desk)
        desk.turn_to(View.COMPOSE)
        settle(desk)
        shot("compose")
        desk.turn_to(View.INSPECT)
        desk.state.opening.open_paths([quay / "port-arc.svg", quay / "fascia.svg"])
        settle(desk)
        desk.turn_to(View.COMPOSE)
        settle(desk)
        compose.layers.pick_all([entry.id for entry in compose.entries if entry.live])
        desk.room.composer.set_step("set-on-guide")
        compose.options.put({"radius": "170 mm", "x": "210 mm", "y": "225 mm"})
        settle(desk)
        desk.room.compose.table.sight.fit()
        shot("compose-guide")
        desk.state.opening.open_paths([quay / "fascia-name.svg"])
        settle(desk)
        recipe = read_recipe(quay / "fascia-name-recipe.toml")
        desk.state.on_desk.change(desk.state.job.edited(recipe.calls))
        settle(desk)
        compose.table.sight.fit()
        shot("compose-let-in")
        desk.state.opening.open_paths([quay / "life-ring.svg"])
        settle(desk)
        desk.state.on_desk.change(desk.state.job.edited(read_recipe(quay / "life-ring-recipe.toml").calls))
        settle(desk)
        compose.layers.choose_none()
        compose.choose(1)
        desk.room.composer.set_step("edit-nodes")
        settle(desk)
        node = compose.table.hand.handles.places[9]
        compose.table.sight.close_to((node.x - 22, node.y - 22, node.x + 22, node.y + 22))
        compose.table.hand.picked = (node.name,)
        compose.options.put({"edits": f"move {node.name} {node.x + 2:.2f} {node.y - 3:.2f}"})
        shot("compose-nodes")
        desk.state.opening.open_paths([quay / "berth-tag.svg"])
        settle(desk)
        desk.state.on_desk.change(desk.state.job.edited(read_recipe(quay / "berth-tag-recipe.toml").calls))
        settle(desk)
        desk.turn_to(View.PROOF)
        settle(desk)
        desk.room.proofing.slider.setValue(640)
        shot("proof")
        desk.state.opening.open_paths([quay / "tags.svg"])
        settle(desk)
        desk.state.stepping.mend_safe()
        settle(desk)
        desk.turn_to(View.PROOF)
        settle(desk)
        desk.room.proofing.turn.click()
        desk.room.proofing.pair.places.setCurrentRow(0)
        shot("pictures")
        desk.room.proofing.turn.click()
        desk.state.on_desk.bring_forward(0)
        settle(desk)
        desk.turn_to(View.INSPECT)
        desk.state.on_desk.bring_forward(
            next(i for i, job in enumerate(desk.state.jobs) if job.path.stem == "life-ring")
        )
        settle(desk)
        desk.room.looking.look_at(3)
        settle(desk)
        desk.room.looking.lens_burn()
        shot("inspect-burn")
        desk.room.looking.lens_blade()
        desk.state.on_desk.bring_forward(next(i for i, job in enumerate(desk.state.jobs) if job.path.stem == "fascia"))
        settle(desk)
        desk.state.surveying.choose(
            next(i for i, f in enumerate(desk.state.findings or ()) if f.code == "compound.counter-apart")
        )
        shot("inspect-counters")
        desk.state.on_desk.bring_forward(1)
        settle(desk)
        desk.room.looking.look_at(1)
        settle(desk)
        desk.room.reciping.step_later()
        settle(desk)
        desk.message.hide()
        shot("recipe-stale")
        foreign = quay / "from-elsewhere.svg"
        foreign.write_text(FOREIGN, encoding="utf-8")
        desk.state.opening.open_paths([foreign])
        settle(desk)
        desk.state.on_desk.bring_forward(0)
        desk.turn_to(View.INTAKE)
        shot("intake")
        desk.turn_to(View.INSPECT)
        settle(desk)
        desk.state.stepping.mend_safe()
        settle(desk)
        desk.state.handing.save_to(quay / "kittiwake-mended.svg")
        shot("read-back")
        desk.turn_to(View.RELEASE)
        desk.room.releasing.folder.setText("/home/quay/released")
        shot("release")
        desk.turn_to(View.INSPECT)
        desk.room.looking.compare()
        desk.room.looking.compare()
        desk.room.looking.compare()
        shot("compare")
        desk.room.looking.compare()
        desk.room.looking.look_original()
        settle(desk)
        THEME.take(DARK)
        shot("inspect-dark")
        desk.bench.wait()


if __name__ == "__main__":
    sys.exit(main())
