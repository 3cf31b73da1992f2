"""What goes on in the Compose view: layers and handles follow the job, and a step that is being set is tried and
taken.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QObject

from unkelt.app.desktop import Desktop
from unkelt.desk.common.drawing import Drawing
from unkelt.desk.common.worker import after_this_turn
from unkelt.desk.compose.gripping import Gripping
from unkelt.desk.compose.pointing import Pointing
from unkelt.desk.compose.view import ComposeView
from unkelt.desk.table.trial import Trial
from unkelt.language import tr
from unkelt.recipe import Call
from unkelt.session.bench import Offer, likely, offers_by_hand, works_on
from unkelt.session.entries import Entry, known_ledger, ledger, lengthy, takes_long
from unkelt.session.offers import Offers, offers
from unkelt.session.picking import without
from unkelt.session.preview import Preview
from unkelt.session.sentences import shown_value
from unkelt.session.states import lettering_stage
from unkelt.sheet.model import Outline, Sheet
from unkelt.steps.steps import STEPS


class Composing(QObject):
    """Between the view, which only shows, and the state. `drawing` makes a sheet ready to be drawn; `tried` is told
    after a step was set in the view; `do` takes the id of an action.

    Nothing is tried until a step is chosen; once it is taken, or left, the table shows the sheet again.
    """

    def __init__(
        self,
        view: ComposeView,
        state: Desktop,
        drawing: Callable[[Sheet], Drawing],
        tried: Callable[[], None],
        do: Callable[[str], object],
    ) -> None:
        super().__init__(view)
        self.view, self.state, self.drawing, self._tried, self.do = view, state, drawing, tried, do
        self.changing: int | None = None
        """The place of the step in the recipe that is being changed, counted from 0."""
        self.gripping = Gripping(self)
        self.awaited = ""
        """The step whose trial is to be shown: the one that is being set, or that takes the words being typed."""
        self.after_change: list[str] = []
        """What is to be chosen when the sheet comes that something was done to."""
        view.steps.taken.connect(self.set_step)
        view.card.changed.connect(self._option_changed)
        view.card.trial_asked.connect(self._try)
        view.card.apply_asked.connect(self.take)
        view.card.left.connect(self.leave)
        view.card.way_out.connect(self._take_way_out)
        view.lettering_asked.connect(self._back_to_lettering)
        view.looks_changed.connect(lambda: self.show_ledger(fit=False))
        view.chosen_changed.connect(self._chosen_changed)
        self.pointing = Pointing(self)

    @property
    def chosen_ids(self) -> tuple[str, ...]:
        """What is chosen, by ids."""
        return tuple(entry.id for entry in self.view.chosen())

    def offers(self, items: Sequence[str]) -> Offers:
        """What a step on these items of the sheet shown may be chosen from."""
        job = self.state.job
        assert job is not None
        return offers(job.shown, items, job.workshop)

    # the sheet

    def show_ledger(self, *, fit: bool) -> None:
        """What is on the sheet, in the list and on the table."""
        job = self.state.job
        if job and self.view.isVisible():
            sheet, workshop, hidden = job.shown, job.workshop, self.view.layers.hidden
            self.view.table.show_drawing(self.drawing(without(sheet, hidden)), fit=fit)

            def done(entries: list[Entry]) -> None:
                if self.state.job is not None and self.state.job.shown is sheet:
                    self.view.show_sheet(entries, self.drawing(without(sheet, hidden)), fit=False)
                    if self.after_change:
                        wanted, self.after_change = self.after_change, []
                        self.view.layers.pick_all(wanted)

            known = known_ledger(sheet, workshop)
            if known is not None or not lengthy(sheet):
                done(ledger(sheet, workshop) if known is None else known)
                return
            self.state.bench.start(
                "ledger", "Listing the layers…", lambda _: ledger(sheet, workshop), done, self.state.on_desk.said.emit
            )

    def sheet_shown(self) -> None:
        """Another sheet, or another job: whatever was being set is over, unless it is a step of this very sheet that is
        being changed.
        """
        job = self.state.job
        if self.changing is not None and job is not None and job.looking_at == self.changing:
            return
        self.changing, self.awaited = None, ""
        self.view.table.hand.framed.hold(None, self.view.table.hand.framed.matrix, (), "")
        self.view.show_steps()
        self.view.say("")
        self.gripping.show()

    def _chosen_changed(self) -> None:
        offered, first = self._offers_now()
        self.view.steps.show_offers(offered, first)
        if self.view.setting and self.changing is None:
            if any(offer.name == self.view.card.name and not offer.why_not for offer in offered):
                self._try_where_quick()
            else:
                self.leave()

    def _offers_now(self) -> tuple[list[Offer], list[str]]:
        chosen = self.view.chosen()
        return offers_by_hand(chosen), likely(chosen, self.state.findings or ())

    # a step that is being set

    def set_step(self, name: str) -> None:
        """Begins to set a step on what is chosen; it is tried at once where that is quick."""
        job = self.state.job
        if job is None:
            return
        items = works_on(name, self.chosen_ids)
        step = STEPS[name]
        targets = [item for each in items if (item := job.shown.find(each)) is not None]
        self.awaited = name
        self.view.card.show_step(name, step.hints(job.shown, targets) if step.hints else {}, self.offers(items))
        self.view.table.hand.picked = ()
        self.view.show_card()
        self._say_target()
        self._try_where_quick()

    def change_step(self, place: int) -> None:
        """Sets a step of the recipe anew, on the sheet as it was before it."""
        job = self.state.job
        if job is None:
            return
        call = job.stages[place].call
        self.changing = place
        self.state.on_desk.change(job.look_at(place))
        step = STEPS[call.name]
        hints = {
            parameter.name: shown_value(parameter, call.options[parameter.name])
            for parameter in step.parameters
            if parameter.name in call.options
        }
        self.changing = place
        self.view.layers.pick_all(call.items)
        self.awaited = call.name
        self.view.card.show_step(call.name, hints, self.offers(call.items), again=True)
        self.view.show_card()
        self._try_where_quick()

    def call(self) -> Call | None:
        """The step as it is set."""
        card, job = self.view.card, self.state.job
        if not self.view.setting or job is None:
            return None
        if self.changing is not None:
            was = job.stages[self.changing].call
            made = card.call(was.items if was.rule is not None else works_on(card.name, self.chosen_ids) or was.items)
            return Call(was.name, was.items, was.rule, made.options) if made and was.rule is not None else made
        return card.call(works_on(card.name, self.chosen_ids))

    def take(self) -> None:
        """Takes the step that is set; the table then rests on the sheet."""
        call, place = self.call(), self.changing
        if place is not None and call is not None:
            job = self.state.job
            assert job is not None
            self.changing = None
            self.view.show_steps()
            self.state.stepping.edit(lambda: job.with_changed(place, call))
            return
        tried = self.state.preview
        if tried is not None and tried.outcome is not None:
            self.choose_what_came(tried)
            self.state.stepping.put_in()

    def take_at_once(self, call: Call, refused: Callable[[], None] = lambda: None) -> None:
        """Takes a step without setting it first. What it makes is chosen then; where it is refused, it is said why."""
        job = self.state.job
        if job is None or not self.state.at_latest:
            return
        before = {item.id for item in job.shown.walk()}

        def came(ids: Sequence[str]) -> None:
            self.after_change = [item for item in ids if item not in before]

        def not_done() -> None:
            refused()
            self.leave()

        self.state.stepping.apply(call, came, not_done)

    def leave(self) -> None:
        """No step is being set any more, and none was taken."""
        self.awaited = ""
        changing, self.changing = self.changing, None
        self.state.stepping.clear()
        self.view.show_steps()
        self.view.say("")
        self.gripping.show()
        self._tried()
        if changing is not None and self.state.job is not None:
            self.state.on_desk.change(self.state.job.look_at(None))

    def _say_target(self) -> None:
        waiting = self.view.setting and any(not self.view.options.written(name) for name in self.view.options.targets)
        self.view.say(tr("Click on the table what it is about.") if waiting else "")

    def choose_what_came(self, tried: Preview) -> None:
        """After a step that only adds, what it added is chosen; else what it worked on, as far as it is there."""
        job = self.state.job
        assert job is not None
        assert tried.outcome is not None
        before = {item.id for item in job.shown.walk()}
        new = [item.id for item in tried.outcome.sheet.walk() if item.id not in before]
        left = [item for item in self.chosen_ids if tried.outcome.sheet.find(item) is not None]
        adds = tried.call.name in ("add-lettering", "add-shape", "duplicate", "outline-text", "weld", "bind")
        self.after_change = new if new and (adds or not left) else []

    def _take_way_out(self, name: str) -> None:
        if name in STEPS:
            self.set_step(name)
        else:
            self.do(name)

    def _option_changed(self) -> None:
        if self.view.card.nodes.isVisible():
            self.view.table.hand.picked = self.view.card.picked
        self.view.card.show_target()
        self._say_target()
        self._try_where_quick()

    def _try_where_quick(self) -> None:
        """Tries the step that is set, at once where that is quick, else when it is asked for."""
        job, call = self.state.job, self.call()
        if job is None or call is None or not self.view.isVisible():
            return
        self.gripping.show()
        self.view.card.trying()
        if takes_long(job.shown, call.items):
            self.state.stepping.try_step(None)
            self.view.card.offer_trial()
            self._tried()
        else:
            self._try()

    def _try(self) -> None:
        self.state.stepping.try_step(self.call(), anywhere=True)
        self._tried()

    def show_preview(self, tried: Preview) -> None:
        """What the step that is tried would do."""
        if tried.call.name != self.awaited:
            return
        trial = None
        if tried.outcome is not None and tried.coming is not None:
            whole = without(tried.outcome.sheet, self.view.layers.hidden)
            trial = Trial(self.drawing(tried.coming), self.drawing(whole))
        self.view.table.trying.show(trial)
        self.view.show_frames()
        self.view.table.show_tried(tried.marks)
        if self.view.setting:
            self.view.card.show_preview(tried)

    def _back_to_lettering(self, item: str) -> None:
        """The text that an outline was made from, as it was last live, with its words to be changed."""
        job = self.state.job
        outline = job.shown.find(item) if job is not None else None
        if job is None or not isinstance(outline, Outline) or outline.origin is None:
            return
        text, live = outline.origin.id, lettering_stage(job, item) is not None
        self.after_change = [text] if live else []
        self.state.stepping.back_to_lettering(item)
        if live:
            after_this_turn(self.view, lambda: self.set_step("set-text"))
