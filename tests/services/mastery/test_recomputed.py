"""Every state of a class after fall, winter and spring, from the exported evidence alone, by another way than the code's.

The code filters forward through runs. Here every way in which the share can have changed between occasions is written out, with
its chance; nothing of the application is used but the file that anybody can export.
"""

from __future__ import annotations

import csv
import io
import itertools
import unittest
from collections import defaultdict
from datetime import date, timedelta

import numpy as np
from sqlalchemy import select

from bildung.services.answers.itemhistory import refresh
from bildung.services.mastery import grid, out
from bildung.services.mastery.grid import GridAsked
from bildung.services.mastery.scope import WhoAsked
from bildung.store.models import Standard, Window
from tests.services.growth.given import give
from tests.support import WorldCase, small_roster

SIZE, SEED = 60, 20260803
LINE, HALF = 0.80, 180.0
FINE = 3000
ANGLE = (np.arange(FINE) + 0.5) / FINE * np.pi / 2
SHARE = np.sin(ANGLE) ** 2
Scored = tuple[
    date, float, float, float, float, float
]  # day, earned, possible, weight of the tag, p, usual p of the standard


def likelihood(rows: list[Scored]) -> np.ndarray:
    """Of each share, of the rows of some occasions."""
    found = np.ones(FINE)
    for _, earned, possible, tag, p, usual in rows:
        shift = 1.2 * (np.log(p / (1 - p)) - np.log(usual / (1 - usual))) if not np.isnan([p, usual]).any() else 0.0
        right = 1 / (1 + np.exp(-(np.log(SHARE / (1 - SHARE)) + shift)))
        weight = tag * min(1.0, 2 / possible)
        found = found * right ** (weight * earned) * (1 - right) ** (weight * (possible - earned))
    return found


def believed(occasions: list[list[Scored]]) -> tuple[float, float, int]:
    """At or above the line, mean, and where the present run begins: over every way in which it can have changed."""
    days = [some[0][0] for some in occasions]
    chance = [1 - 2 ** (-max(1, int(np.busday_count(a, b))) / HALF) for a, b in itertools.pairwise(days)]
    above = mean = total = 0.0
    begins = np.zeros(len(occasions))
    for turns in itertools.product((False, True), repeat=len(occasions) - 1):
        weight, start = 1.0, 0
        for at, turned in enumerate(turns):
            weight *= chance[at] if turned else 1 - chance[at]
            if turned:
                weight *= likelihood([row for some in occasions[start : at + 1] for row in some]).mean()
                start = at + 1
        last = likelihood([row for some in occasions[start:] for row in some])
        weight *= last.mean()
        above += weight * last[SHARE >= LINE].sum() / last.sum()
        mean += weight * (last * SHARE).sum() / last.sum()
        begins[start] += weight
        total += weight
    return above / total, mean / total, int(begins.argmax())


def state_of(rows: list[Scored]) -> tuple[str, float]:
    """After the last occasion, and how near the nearest bound its probability or mean ever came."""
    days = sorted({row[0] for row in rows})
    occasions = [[row for row in rows if row[0] == day] for day in days]
    since: date | None = None
    later, near, state = 0.0, 1.0, ""
    for t, day in enumerate(days):
        above, mean, begin = believed(occasions[: t + 1])
        points = sum(tag * min(1.0, 2 / m) * m for some in occasions[begin : t + 1] for _, _, m, tag, _, _ in some)
        near = min(near, abs(above - 0.8), abs(above - 0.5), abs(mean - 0.5))
        if since is not None and above < 0.5:
            since = None
        elif since is not None and day - since >= timedelta(days=14):
            later += sum(tag * min(1.0, 2 / m) * m for _, _, m, tag, _, _ in occasions[t])
        elif since is None and above >= 0.8 and points >= 6:
            since, later = day, 0.0
        if since is not None:
            state = "retained" if later >= 3 else "mastered"
        else:
            state = "insufficient evidence" if points < 4 else "developing" if mean >= 0.5 else "beginning"
    return state, near


class Recomputed(WorldCase):
    def test_all_students_and_standards_after_three_windows(self) -> None:
        self.bring_people(small_roster(SIZE))
        self.bring_items(30)
        rng = np.random.default_rng(SEED)

        def prepare(db):  # type: ignore[no-untyped-def]
            for at, s in enumerate(db.scalars(select(Standard).order_by(Standard.id))):
                s.subject, s.grade, s.text, s.position = "Mathematics", "5", f"Standard {s.code}", at
            first = db.get_one(Window, self.window_id)
            windows = [
                Window(name=name, start=first.start + timedelta(days=days), end=first.end + timedelta(days=days + 7))
                for name, days in (("Winter", 90), ("Spring", 180))
            ]
            db.add_all(windows)
            db.flush()
            return [first.id, *(w.id for w in windows)]

        windows = self.ctx.store.write(prepare)
        form = self.make_form()
        skill = rng.normal(1.0, 1.2, SIZE)
        hard = rng.normal(0, 0.9, 200)
        klass = self.class_id()
        for turn, window in enumerate(windows):
            chance = 1 / (1 + np.exp(hard[None, :] - skill[:, None] - 0.4 * turn * (rng.random((SIZE, 1)) < 0.5)))
            answers = rng.random(chance.shape) < chance
            give(self, form, window, 0, 1 + 90 * turn, lambda row, at, a=answers: bool(a[row, at]))
            self.ctx.clock.pass_by(days=90)  # type: ignore[attr-defined]
        refresh(self.ctx)
        asked = GridAsked(who=WhoAsked(class_id=klass))
        page = grid.grid_page(self.ctx, self.boss, asked)
        found = out.evidence_file(self.ctx, self.boss, asked).decode("utf-8-sig")
        rows = [line for line in csv.DictReader(io.StringIO(found)) if not line["why"]]
        main: dict[str, dict[str, float]] = defaultdict(dict)
        for line in rows:
            if float(line["tag"]) == 1 and line["usual_p"]:
                main[line["standard"]][line["item"]] = float(line["usual_p"])
        usual = {code: float(np.mean(list(ps.values()))) for code, ps in main.items() if len(ps) >= 3}
        self.assertTrue(usual, "enough items have a usual p")
        scored: dict[tuple[str, str], list[Scored]] = defaultdict(list)
        for line in rows:
            scored[line["id"], line["standard"]].append(
                (
                    date.fromisoformat(line["day"]),
                    float(line["earned"]),
                    float(line["possible"]),
                    float(line["tag"]),
                    float(line["usual_p"]) if line["usual_p"] else float("nan"),
                    usual.get(line["standard"], float("nan")),
                )
            )
        checked, seen = 0, set()
        for row in page.rows:
            for column, told in zip(page.columns, row.states, strict=True):
                mine = scored[str(row.person), column.code]
                if not mine:
                    self.assertEqual(told, 0)
                    continue
                state, near = state_of(mine)
                if near > 0.006:  # the code's cells of the share are 15 times as wide as those here
                    self.assertEqual(page.states[told], state, f"{row.name}, {column.code}")
                    checked += 1
                    seen.add(state)
        self.assertGreater(checked, 0.8 * SIZE * len(page.columns))
        self.assertTrue({"mastered", "retained", "developing", "beginning"} <= seen, seen)


if __name__ == "__main__":
    unittest.main()
