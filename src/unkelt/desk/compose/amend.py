"""A step that was taken, with its options to be changed: a small dialog."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtWidgets import QDialog, QDialogButtonBox, QVBoxLayout, QWidget

from unkelt.desk.common.options import OptionForm
from unkelt.desk.common.proof_box import FigureRows, ProofBox
from unkelt.desk.common.widgets import label
from unkelt.language import said, tr
from unkelt.recipe import Call
from unkelt.session.entries import sentence
from unkelt.session.offers import Offers
from unkelt.session.preview import Preview
from unkelt.session.sentences import shown_value
from unkelt.steps.steps import STEPS

Try = Callable[[Call, Callable[[Preview], None]], None]
"""Tries a call off the interface thread and gives what came of it."""


def changed_call(parent: QWidget, call: Call, offers: Offers, attempt: Try) -> Call | None:
    """The call as the person wants it, tried as it is changed; None where nothing is to change."""
    step = STEPS[call.name]
    dialog = QDialog(parent)
    dialog.setWindowTitle(said(step.title))
    dialog.setMinimumWidth(420)
    form = OptionForm()
    hints = {
        parameter.name: shown_value(parameter, call.options[parameter.name])
        for parameter in step.parameters
        if parameter.name in call.options
    }
    form.show_step(step, hints, offers)
    buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
    again = buttons.button(QDialogButtonBox.StandardButton.Ok)
    again.setText(tr("Repeat the steps"))
    again.setProperty("role", "primary")
    buttons.accepted.connect(dialog.accept)
    buttons.rejected.connect(dialog.reject)
    layout = QVBoxLayout(dialog)
    layout.setContentsMargins(24, 20, 24, 18)
    layout.setSpacing(12)
    layout.addWidget(label(step.title, 13, 600))
    layout.addWidget(label(sentence(call.name), 10, role="muted", wrap=True))
    layout.addWidget(form if step.parameters else label(tr("This step has no options."), 10))
    figures, proof = FigureRows(), ProofBox()
    layout.addWidget(figures)
    layout.addWidget(proof)

    def show(tried: Preview) -> None:
        figures.show_preview(tried)
        proof.show_preview(tried)
        again.setEnabled(tried.refusal is None)

    form.changed.connect(lambda: attempt(replace(call, options=form.values()), show))
    attempt(call, show)
    layout.addWidget(label(tr("Unkelt repeats all later steps."), 9.5, role="muted"))
    layout.addWidget(buttons)
    if dialog.exec() != QDialog.DialogCode.Accepted:
        return None
    changed = replace(call, options=form.values())
    return changed if changed != call else None
