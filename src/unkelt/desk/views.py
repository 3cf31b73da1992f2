"""The views of the window."""

from __future__ import annotations

from enum import IntEnum


class View(IntEnum):
    """The five views, in the order in which a job goes through them; each has its action `view_…`. START is when there
    is none.
    """

    INTAKE = 0
    INSPECT = 1
    COMPOSE = 2
    PROOF = 3
    RELEASE = 4
    START = 5

    @classmethod
    def all(cls) -> tuple[View, ...]:
        """The views of a job."""
        return cls.INTAKE, cls.INSPECT, cls.COMPOSE, cls.PROOF, cls.RELEASE

    @classmethod
    def by_action(cls, action: str) -> View:
        """The view that an action turns to."""
        return next(view for view in cls.all() if view.action == action)

    @property
    def action(self) -> str:
        """The action that turns to it."""
        return f"view_{self.name.lower()}"
