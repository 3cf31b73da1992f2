"""The light tables of all views, and which of them one looks at."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from unkelt.desk.table.table import LightTable
from unkelt.desk.views import View


class Tables:
    """`shown` are the tables that show the job; `by_view` the one that each view is about, where it has one."""

    def __init__(
        self, shown: tuple[LightTable, ...], by_view: Mapping[View, LightTable], view: Callable[[], View]
    ) -> None:
        self.shown, self._by_view, self._view = shown, by_view, view

    @property
    def front(self) -> LightTable:
        """The table that one looks at; that of Inspect where the view has none."""
        return self._by_view.get(self._view(), self._by_view[View.INSPECT])
