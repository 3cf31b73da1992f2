"""A list of 2,000 faces: how long it takes to look through it, and to turn its pages, beside a plain list of words."""

from __future__ import annotations

import os
import time
from dataclasses import replace

from PySide6.QtCore import QEventLoop, QStringListModel, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QAbstractItemView, QListView

from benchmarks.timing import Row, best
from unkelt.desk.app import make_application
from unkelt.desk.common.face_list import FaceList
from unkelt.lettering.faces import Face, Shelf
from unkelt.lettering.kinds import Kind, kind_of
from unkelt.lettering.licence import use_of
from unkelt.lettering.shelves import bundled_faces
from unkelt.session.face_list import FaceBook, FaceRows, Wanted
from unkelt.session.offers import Offers, words_alone

MANY = 2000
PAGES = 60
TURN_MS = 15


def many_faces() -> list[Face]:
    """The bundled faces under other names, as an index of installed faces knows them."""
    known = [replace(face, kind=kind_of(face), use=use_of(face), bundled=False) for face in bundled_faces()]
    return [replace(known[k % len(known)], family=f"Face {k // 4:03}", style=f"Style {k % 4}") for k in range(MANY)]


def longest_turn(view: QAbstractItemView) -> float:
    """The longest gap (s) between two turns of the event loop while the pages of a list are turned."""
    longest, last = 0.0, time.perf_counter()
    loop, turned = QEventLoop(), 0

    def turn() -> None:
        nonlocal longest, last
        now = time.perf_counter()
        longest, last = max(longest, now - last), now

    def page() -> None:
        nonlocal turned
        turned += 1
        QTest.keyClick(view, Qt.Key.Key_PageDown)
        if turned == PAGES:
            loop.quit()

    ticks, pages = QTimer(), QTimer()
    for timer, every, slot in ((ticks, 1, turn), (pages, TURN_MS, page)):
        timer.setInterval(every)
        timer.timeout.connect(slot)
        timer.start()
    loop.exec()
    return longest


def rows() -> list[Row]:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    make_application()
    faces = many_faces()
    offers = Offers(Shelf(faces), words_alone("Hollin Quay"))
    book = FaceBook(marked=("Face 100",), recent=("Face 200",))
    nearest = offers.faces
    ours = FaceList()
    ours.resize(300, 400)
    ours.show_offers(offers)
    plain = QListView()
    plain.resize(300, 400)
    plain.setModel(QStringListModel([face.name for face in faces]))
    for view in (ours, plain):
        view.show()
        QTest.qWait(300)
    sort = best(lambda: sorted(face.name for face in faces))
    return [
        Row(
            "order and group",
            f"{MANY} faces",
            best(lambda: FaceRows(nearest, Wanted(), book).rows()),
            "sort names",
            sort,
        ),
        Row(
            "filter by kind and name",
            f"{MANY} faces",
            best(lambda: FaceRows(nearest, Wanted("face 1", Kind.SCRIPT), book).rows()),
            "sort names",
            sort,
        ),
        Row("longest wait: turn pages", f"{MANY} faces", longest_turn(ours.list), "a plain list", longest_turn(plain)),
    ]
