"""Some students by some standards of a subject that was judged, as pages show them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from bildung.core.mastery.changes import changes
from bildung.core.mastery.run import interval, posterior
from bildung.core.mastery.states import STATES
from bildung.core.mastery.story import NOTHING, Told, story
from bildung.core.school.dates import Dates
from bildung.services.mastery.evidence import Floats, Given, Ints, as_day
from bildung.services.mastery.judging import Points, Whole, some_of


@dataclass(frozen=True)
class Judged:
    """A cell is person · standards + standard, by their places; at: where it stands in the whole."""

    whole: Whole
    people: list[int]
    standards: list[int]
    at: Ints

    @property
    def shape(self) -> tuple[int, int]:
        """Students, standards."""
        return len(self.people), len(self.standards)

    @property
    def now(self) -> Ints:
        """(cells,) state."""
        return self.whole.states.now[self.at]

    @property
    def ways(self) -> Ints:
        """(cells,) 1 rising, -1 falling."""
        return self.whole.ways.way[self.at]

    @property
    def again(self) -> np.ndarray:
        """(cells,) to be checked again."""
        return self.whole.again.now[self.at]

    @property
    def amount(self) -> Floats:
        """(cells,) weighted points of the run."""
        return self.whole.states.run_possible[self.at]

    @property
    def share(self) -> Floats:
        """(cells,) of the run; NaN without evidence."""
        s = self.whole.states
        with np.errstate(invalid="ignore", divide="ignore"):
            found: Floats = s.run_earned[self.at] / s.run_possible[self.at]
        return found

    def shares(self, cell: int) -> tuple[float | None, float | None]:
        """Of the run, and over all points, of a cell of the whole; None without evidence."""
        w = self.whole
        run, raw = float(w.states.run_possible[cell]), float(w.occasions.raw_possible[cell].sum())
        if not raw:
            return None, None
        return float(w.states.run_earned[cell]) / run, float(w.occasions.raw_earned[cell].sum()) / raw

    @property
    def last(self) -> Ints:
        """(cells,) place of the last occasion, 0 where there is none."""
        return np.maximum(self.whole.occasions.count[self.at] - 1, 0)

    @property
    def above(self) -> Floats:
        """(cells,) probability of being at or above the line, 0 without evidence."""
        return self._latest(self.whole.filter.above)

    @property
    def mean(self) -> Floats:
        """(cells,) of the share."""
        return self._latest(self.whole.filter.mean)

    def _latest(self, table: Floats) -> Floats:
        if not table.shape[1]:
            return np.zeros(self.at.size)
        found: Floats = np.nan_to_num(table[self.at, self.last])
        return found

    def cell(self, person: int, standard: int) -> int:
        """Where it stands in the whole, by places of both."""
        return int(self.at[person * len(self.standards) + standard])

    def line(self, cell: int) -> float:
        """From which share the standard of a cell is mastered."""
        return self.whole.ruling[int(self.whole.ruled[cell])].rules.line

    def told(self, cell: int, dates: Dates) -> str:
        """The sentence of a cell of the whole."""
        w, s = self.whole, self.whole.states
        n = int(w.occasions.count[cell])
        if not n:
            return story(NOTHING)
        begin = int(w.filter.begins[cell, n - 1])
        raw_e, raw_m = w.occasions.raw_earned[cell, :n], w.occasions.raw_possible[cell, :n]

        def day(ordinal: int) -> str:
            return dates.short(as_day(ordinal)) if ordinal else ""

        return story(
            Told(
                state=STATES[s.now[cell]],
                earned=float(raw_e.sum()),
                possible=float(raw_m.sum()),
                run_earned=float(raw_e[begin:].sum()),
                run_possible=float(raw_m[begin:].sum()),
                since=day(int(s.since[cell])),
                lapsed=day(int(s.lapsed[cell])),
                last=day(int(w.occasions.day[cell, n - 1])),
                one_day=bool(s.one_day[cell]),
                again=bool(w.again.now[cell]),
            )
        )

    def belief(self, cells: Sequence[int]) -> Floats:
        """(cells, 200) after the last occasion, of cells of the whole."""
        w = self.whole
        found = np.empty((len(cells), 200))
        rules = w.ruled[list(cells)]
        for at in np.unique(rules):
            rows = np.flatnonzero(rules == at)
            mine = np.array(cells, dtype=np.int64)[rows]
            found[rows] = posterior(some_of(w.occasions, mine), w.gaps[mine], w.ruling[int(at)].rules)
        return found

    def between(self, cells: Sequence[int]) -> tuple[Floats, Floats]:
        """90% intervals of the share."""
        return interval(self.belief(cells)) if len(cells) else (np.zeros(0), np.zeros(0))

    def changed(self, first: int, last: int) -> Ints:
        """(cells,) what became of them between two days, place in CHANGES."""
        w = self.whole
        return changes(w.states.history[self.at], w.occasions.day[self.at], w.occasions.count[self.at], first, last)

    def points_of(self, cell: int, aside: bool = False) -> Points:
        """Scored items of a cell of the whole, in time; aside: those that are no evidence."""
        points = self.whole.aside if aside else self.whole.points
        first, last = np.searchsorted(points.cell, [cell, cell + 1]) if cell < self.whole.keys.size else (0, 0)
        return points.take(np.arange(first, last))

    @property
    def given(self) -> list[Given]:
        """What points refer to."""
        return self.whole.given


def view(whole: Whole, people: Sequence[int], standards: Sequence[int]) -> Judged:
    """Of these students and standards, in this order."""
    return Judged(whole, list(people), list(standards), whole.cells(people, standards))


def standards_seen(whole: Whole, people: Sequence[int]) -> set[int]:
    """Standards that any of these students has evidence on, counted or not."""
    width = len(whole.standards)
    places = np.array([whole.people[p] for p in people if p in whole.people], dtype=np.int64)
    if not places.size or not whole.keys.size:
        return set()
    seen = set(np.unique(whole.keys[np.isin(whole.keys // width, places)] % width).tolist())
    return {s for s, at in whole.standards.items() if at in seen}
