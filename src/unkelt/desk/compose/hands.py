"""What hands do at the bench: what is chosen is moved, sized, turned, copied, coloured, ordered and taken away, each
gesture one step of the recipe.
"""

from __future__ import annotations

from fontTools.misc.transform import Transform
from PySide6.QtCore import QObject, QPoint, Qt
from PySide6.QtWidgets import QApplication

from unkelt.desk.common.drawing import Drawing
from unkelt.desk.common.swatches import asked_colour, colour_menu
from unkelt.desk.common.theme import THEME
from unkelt.desk.compose.controller import Composing
from unkelt.errors import LengthError
from unkelt.language import tr
from unkelt.recipe import Call
from unkelt.session.colours import to_choose
from unkelt.session.frame import Catches, Gesture, Keys, gesture, nudge
from unkelt.session.shaping import Shaping, shaping
from unkelt.session.typing import typed_call
from unkelt.sheet.change import addressed, leaves
from unkelt.steps.grip import Handles


class Hands(QObject):
    """Between the bench's table and lists and the steps. `composing` says what is chosen."""

    def __init__(self, composing: Composing) -> None:
        super().__init__(composing.view)
        self.composing, self.view, self.state = composing, composing.view, composing.state
        self._gesture = Gesture()
        self._held: tuple[str, ...] = ()
        self._catches: Catches | None = None
        self._shape = ""
        self._drawing: Drawing | None = None
        hand, layers = self.view.table.hand, self.view.layers
        hand.take = self._take
        hand.frame_dragged.connect(self._drag)
        hand.frame_dropped.connect(self._drop)
        hand.frame_left.connect(self._let_go)
        hand.drawn.connect(self._draw)
        layers.renamed.connect(lambda item, name: self._do(Call("rename", (item,), None, {"name": name})))
        layers.moved.connect(self._order)
        layers.colour_asked.connect(self._ask_colour)
        self.view.box.colour_asked.connect(lambda at: self._ask_colour(list(composing.chosen_ids), at))
        self.view.box.typed.connect(self._type)
        self.view.shape_asked.connect(self.begin_shape)

    # the frame

    def _take(self, x: float, y: float) -> bool:
        """Chooses what lies there, to be dragged at once."""
        if self.view.setting or not self.state.at_latest:
            return False
        found = self.composing.pointing.items_at(x, y)
        if not found:
            return False
        if found[0] not in self.composing.chosen_ids:
            self.view.layers.pick(found[:1], more=False)
        return self.view.frame is not None

    def _drag(self, grip: str, start: tuple[float, float], to: tuple[float, float]) -> None:
        framed = self.view.table.hand.framed
        box = self.view.frame if framed.held is None else framed.box
        if self.state.job is None or box is None or not self.state.at_latest:
            return
        if framed.held is None or self._catches is None:
            self._begin(self.composing.chosen_ids)
            framed.box = box
        assert self._catches is not None
        held = QApplication.keyboardModifiers()
        keys = Keys(
            bool(held & Qt.KeyboardModifier.ShiftModifier),
            bool(held & Qt.KeyboardModifier.ControlModifier),
            not self.composing.gripping.snapping or bool(held & Qt.KeyboardModifier.AltModifier),
        )
        self._gesture = found = gesture(box, grip, start, to, keys, self._catches)
        framed.hold(self._drawing, found.matrix, found.caught, found.words)
        self.view.table.update()

    def _begin(self, ids: tuple[str, ...]) -> None:
        """Takes what is chosen into the hand, and looks where it may be caught."""
        job, table = self.state.job, self.view.table
        assert job is not None
        self._held = addressed(job.shown, ids)
        mine = leaves(job.shown, ids)
        alone = job.shown.replaced({item.id: () for item in job.shown.walk() if item.id not in mine and _is_leaf(item)})
        self._drawing = self.composing.drawing(alone)
        others = [entry.box for entry in self.view.entries if entry.box and entry.id not in mine]
        self._catches = Catches.of(others, job.shown.page_mm, job.guides, table.sight.reach_mm)

    def _drop(self) -> None:
        call = self._gesture.call(self._held)
        self._gesture, self._catches = Gesture(), None
        if call is None:
            self._let_go()
        else:
            self._do(call)

    def _let_go(self) -> None:
        """As if nothing had been dragged."""
        self._gesture, self._catches = Gesture(), None
        self.view.table.hand.framed.hold(None, Transform(), (), "")
        self.view.table.update()

    # steps at once

    def _do(self, call: Call) -> None:
        self.composing.take_at_once(call, self._let_go)

    @property
    def _items(self) -> tuple[str, ...]:
        job = self.state.job
        return addressed(job.shown, self.composing.chosen_ids) if job else ()

    def nudge(self, right: float, down: float) -> None:
        """Moves what is chosen by so many millimetres; several moves in a row are one step."""
        job, items = self.state.job, self._items
        if job is None or not items or self.view.setting or not self.state.at_latest:
            return
        last = job.stages[-1].call if job.stages else None
        call, joins = nudge(right, down, last, items)
        if not joins:
            if call is not None:
                self._do(call)
            return
        place = len(job.stages) - 1
        self.state.stepping.edit(lambda: job.with_changed(place, call))

    def delete(self) -> None:
        """Takes out what is chosen; of a step that edits nodes, the nodes that are picked."""
        if self.view.setting:
            self.view.card.edit_picked("take-out")
        elif self._items:
            self._do(Call("drop-item", self._items))

    def duplicate(self) -> None:
        """Once more what is chosen, a little aside."""
        if self._items and not self.view.setting:
            self._do(Call("duplicate", self._items))

    def group(self) -> None:
        """Makes one group of what is chosen."""
        if self._items:
            self._do(Call("group", self._items))

    def ungroup(self) -> None:
        """Parts the groups that hold what is chosen."""
        job, mine = self.state.job, set(self.composing.chosen_ids)
        if job is not None and mine:
            groups = tuple(each.id for each in job.shown.groups() if leaves(job.shown, [each.id]) & mine)
            if groups:
                self._do(Call("ungroup", groups))

    def select_all(self) -> None:
        """Chooses everything that can be picked."""
        self.view.layers.choose_all()

    def forward(self) -> None:
        """One up."""
        self._stack("forward")

    def backward(self) -> None:
        """One down."""
        self._stack("backward")

    def _stack(self, place: str) -> None:
        if self._items and not self.view.setting:
            self._do(Call("stack", self._items, None, {"place": place}))

    def _order(self, items: list[str], over: str, place: str) -> None:
        job = self.state.job
        if job is not None and items:
            options = {"over": over} if over else {"place": place}
            self._do(Call("stack", addressed(job.shown, items), None, options))

    # typed

    def _type(self, field: str, text: str) -> None:
        """A place or a size that was written beside the frame."""
        box = self.view.frame
        if box is None or not self._items:
            return
        try:
            call = typed_call(field, text, box, self.view.table.unit, self._items, keep=self.view.box.keep.isChecked())
        except (LengthError, ValueError) as problem:
            self.state.on_desk.said.emit(str(problem))
            self.view.box.take_back(field)
            return
        if self.view.box.fields[field].hasFocus():
            self.view.table.setFocus()  # Return ended it: single keys are commands again
        if call is not None:
            self._do(call)

    # colours

    def _ask_colour(self, items: list[str], at: QPoint) -> None:
        """A menu of the key's colours, those on the sheet, and any other."""
        job = self.state.job
        if job is None or not items:
            return
        named = to_choose(job.shown, job.ticket)
        menu = colour_menu(self.view, named, THEME.palette.muted)
        menu.setObjectName("colours")
        menu.addAction(tr("Change the key of colours…")).setData("key")
        meaning = {each.value: each.operation for each in named}

        def chosen(action: object) -> None:
            value = str(action.data())  # type: ignore[attr-defined]
            if value == "key":
                self.composing.do("set_colours")
                return
            value = value or asked_colour(self.view, "")
            if value:
                self._colour(tuple(items), value, str(meaning.get(value) or ""))

        menu.triggered.connect(chosen)
        menu.popup(at)

    def _colour(self, items: tuple[str, ...], value: str, operation: str) -> None:
        """Outlines get the paint that belongs to an operation; live text, and any other colour, the colour alone."""
        job = self.state.job
        assert job is not None
        ids = addressed(job.shown, items)
        live = any(entry.live for entry in self.view.entries if entry.id in items)
        if operation and not live:
            self._do(Call("set-operation", ids, None, {"operation": operation, "colour": value}))
        else:
            self._do(Call("set-colour", ids, None, {"colour": value}))

    # shapes

    def begin_shape(self, shape: str) -> None:
        """The next drag on the table draws a shape."""
        if self.state.job is None:
            return
        self.composing.leave()
        self._shape = shape
        self.view.table.hand.drawing = True
        self.view.table.setFocus()
        self.view.table.setCursor(Qt.CursorShape.CrossCursor)
        self.view.say(tr("Drag on the table to draw it. Shift keeps it even, Esc leaves it."))

    def end_shape(self) -> bool:
        """Whether a shape was about to be drawn, which is over now."""
        was, self._shape = bool(self._shape), ""
        self.view.table.hand.drawing = False
        self.view.table.unsetCursor()
        self.view.say("")
        self.view.table.hand.show_handles(Handles())
        return was

    def _draw(self, places: list[tuple[float, float]], done: bool) -> None:
        shift = bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)
        found: Shaping | None = shaping(self._shape, places, even=shift) if places else None
        if not done:
            self.view.table.hand.show_handles(Handles((), found.path if found else None))
            return
        self.end_shape()
        if found is not None:
            self._do(Call("add-shape", (), None, found.options))


def _is_leaf(item: object) -> bool:
    return not hasattr(item, "items")
