"""The desk without a window: the open jobs, and everything that can be done with them, put together."""

from __future__ import annotations

from unkelt.app.executor import AtOnce, Executor
from unkelt.app.handing_over import HandingOver
from unkelt.app.jobs import Jobs
from unkelt.app.keeping import Keeping
from unkelt.app.opening import Opening, Prepare
from unkelt.app.stepping import Stepping
from unkelt.app.surveying import Later, Surveying
from unkelt.proof.proof import Proof
from unkelt.session.job import Job
from unkelt.session.kept_jobs import Keeper
from unkelt.session.preview import Preview
from unkelt.sheet.figures import Figures
from unkelt.survey.finding import Finding


class Desktop:
    """`on_desk` holds the jobs; each other part does one kind of thing with them, and knows none of the others.

    `bench` runs what is waited for, `behind` what nobody waits for, `archive` what is kept. Without any, everything is
    done where it is asked for. `prepare` makes a sheet ready to be shown, `later` waits for what was said to be shown.
    """

    def __init__(
        self,
        keeper: Keeper | None = None,
        bench: Executor | None = None,
        behind: Executor | None = None,
        archive: Executor | None = None,
        prepare: Prepare = lambda _sheet, _workshop: None,
        later: Later = lambda begin: begin(),
    ) -> None:
        at_once = AtOnce()
        bench, behind, archive = bench or at_once, behind or at_once, archive or at_once
        self.bench, self.behind = bench, behind
        self.on_desk = Jobs()
        self.keeping = Keeping(self.on_desk, keeper, archive)
        self.opening = Opening(self.on_desk, self.keeping, bench, behind, prepare)
        self.surveying = Surveying(self.on_desk, bench, behind, later)
        self.stepping = Stepping(self.on_desk, bench, prepare)
        self.handing = HandingOver(self.on_desk, bench, prepare)
        self.opening.settled.connect(self.surveying.look_at_others)
        self.surveying.chose.connect(self.handing.put_behind)
        self.on_desk.emptied.connect(bench.stop)

    # what is in front, as those see it who only look

    @property
    def jobs(self) -> list[Job]:
        """The jobs on the desk, in the order they were opened."""
        return self.on_desk.all

    @property
    def job(self) -> Job | None:
        """The job in front."""
        return self.on_desk.job

    @property
    def at_latest(self) -> bool:
        """Whether the sheet shown is the one as it stands."""
        return self.on_desk.at_latest

    @property
    def findings(self) -> tuple[Finding, ...] | None:
        """What is found on the sheet shown; None while it is looked for."""
        return self.surveying.findings

    @property
    def chosen(self) -> int | None:
        """Which of the findings is chosen."""
        return self.surveying.chosen

    @property
    def finding(self) -> Finding | None:
        """The finding that is chosen, None where there is none."""
        return self.surveying.finding

    @property
    def sums(self) -> Figures | None:
        """The figures of the sheet shown."""
        return self.surveying.sums

    @property
    def preview(self) -> Preview | None:
        """What the step tried would do."""
        return self.stepping.preview

    @property
    def proof(self) -> Proof | None:
        """What was read back of the file that was saved last."""
        return self.handing.proof

    def show_again(self) -> None:
        """Everything of the job in front is said again, to whoever came anew."""
        findings, chosen, newest = self.findings, self.chosen, self.handing.is_newest
        self.on_desk.show(fit=True)
        if chosen is not None and self.findings == findings:
            self.surveying.choose(chosen)
        if newest:
            self.handing.tell_proof()
