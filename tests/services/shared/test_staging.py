"""An import in two steps: what was shown is what is done, or nothing is."""

from __future__ import annotations

import json
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.services.shared import staging
from bildung.services.shared.access import Actor, Grant
from bildung.services.shared.errors import Conflict, Invalid, NotFound
from bildung.services.shared.jobs import Job
from bildung.services.shared.staging import Planned, Preview, PreviewLine
from bildung.store.models import AuditEntry, Setting, StagedImport
from tests.support import WorldCase

FILES = {"rooms.csv": b"101\n102\n"}


class Staging(WorldCase):
    """Each line of the file is a room that becomes a setting."""

    ask = ""
    moved = False  # whether the world moves between the plan and the doing

    def plan(self, db: Session, files: dict[str, bytes], job: Job) -> Planned:
        rooms = [line for data in files.values() for line in data.decode().split()]
        there = {row.name for row in db.scalars(select(Setting))}
        lines = tuple(
            PreviewLine(fate="same" if r in there else "added", what="room", id=r, label=f"Room {r}") for r in rooms
        )

        def apply(db: Session) -> None:
            for room in rooms:
                db.merge(Setting(name=room, value=1))
            if "404" in rooms:
                raise Invalid("there is no room 404", "rooms")

        stamp = iter((1, 2)) if self.moved else iter((1, 1))
        return Planned(lines, apply, lambda db: next(stamp), self.ask)

    def look(self, files: dict[str, bytes] = FILES) -> Preview:
        return staging.stage(self.ctx, self.boss, "rooms", files, self.plan)

    def do(self, id: str, yes: bool = False, actor: Actor | None = None, kind: str = "rooms") -> Preview:
        return staging.decide(self.ctx, actor or self.boss, kind, id, self.plan, yes)

    def rooms(self) -> list[str]:
        with self.ctx.store.read() as db:
            return sorted(row.name for row in db.scalars(select(Setting)))

    def put(self, name: str) -> None:
        self.ctx.store.write(lambda db: db.add(Setting(name=name, value=1)))

    def test_looking_changes_nothing_and_doing_does_what_was_shown(self) -> None:
        shown = self.look()
        self.assertEqual(
            ([line.label for line in shown.lines], shown.counts["added"], shown.applied, self.rooms()),
            (["Room 101", "Room 102"], 2, False, []),
        )
        done = self.do(shown.id)
        self.assertEqual(
            (done.lines, done.counts, done.applied, self.rooms()),
            (shown.lines, shown.counts, True, ["101", "102"]),
        )

    def test_it_is_in_the_log_once_with_its_counts(self) -> None:
        id = self.look().id
        self.do(id)
        with self.ctx.store.read() as db:
            entries = list(db.scalars(select(AuditEntry).where(AuditEntry.action == "import.rooms")))
            found: list[Any] = [(e.person_id, e.subject, e.after) for e in entries]
        self.assertEqual(
            [(person, subject, after["added"]) for person, subject, after in found],
            [(self.boss_id, f"import:{id}", 2)],
        )

    def test_it_is_done_once(self) -> None:
        id = self.look().id
        self.do(id)
        with self.assertRaisesRegex(Conflict, "applied already"):
            self.do(id)

    def test_a_room_that_somebody_else_made_meanwhile_asks_for_a_new_look(self) -> None:
        id = self.look().id
        self.put("102")
        with self.assertRaisesRegex(Conflict, "changed since the preview"):
            self.do(id)
        self.assertEqual(self.rooms(), ["102"])
        self.assertEqual(self.do(self.look().id).counts, {**self.look().counts, "added": 1, "same": 1})

    def test_what_moves_while_it_is_planned_again_is_noticed_in_the_transaction(self) -> None:
        id = self.look().id
        self.moved = True
        with self.assertRaisesRegex(Conflict, "changed since the preview"):
            self.do(id)
        self.assertEqual(self.rooms(), [])

    def test_one_line_that_fails_leaves_none_done_and_the_import_open(self) -> None:
        id = self.look({"rooms.csv": b"101\n404\n"}).id
        for _ in range(2):
            with self.assertRaisesRegex(Invalid, "no room 404"):
                self.do(id)
            self.assertEqual(self.rooms(), [])

    def test_a_question_wants_a_yes(self) -> None:
        self.ask = "2 of 2 rooms are new; is this the right file?"
        shown = self.look()
        self.assertEqual(shown.ask, self.ask)
        with self.assertRaises(Conflict) as refused:
            self.do(shown.id)
        self.assertEqual((refused.exception.place, self.rooms()), ("yes", []))
        self.assertTrue(self.do(shown.id, yes=True).applied)

    def test_nobody_else_and_no_other_kind_of_import_gets_at_it(self) -> None:
        id = self.look().id
        other = Actor(person_id=self.boss_id + 1, name="X", grants=(Grant("coordinator", None),), sign_in_id=0, csrf="")
        for wrong in ({"actor": other}, {"kind": "items"}):
            with self.assertRaises(NotFound):
                self.do(id, **wrong)  # type: ignore[arg-type]
        with self.assertRaises(NotFound):
            self.do("../../rooms")
        self.assertEqual(self.rooms(), [])

    def test_too_many_files_none_and_too_much_are_refused_before_anything_is_read(self) -> None:
        for files, said in (
            ({}, "0 files"),
            ({f"{n}.csv": b"1" for n in range(staging.MAX_FILES + 1)}, "51 files"),
            ({"a.csv": b"x" * (staging.MAX_UPLOAD // 2 + 1), "b.csv": b"x" * (staging.MAX_UPLOAD // 2)}, "64 MB"),
        ):
            with self.assertRaisesRegex(Invalid, said):
                self.look(files)
        self.assertFalse((self.folder / "uploads").exists() and any((self.folder / "uploads").iterdir()))

    def test_the_names_of_files_never_lead_out_of_the_folder(self) -> None:
        id = self.look({"../../etc/rooms.csv": b"7\n", "C:\\lists\\more?.csv": b"8\n", "": b"9\n"}).id
        folder = self.folder / "uploads" / id
        self.assertEqual(json.loads((folder / "names.json").read_text("utf-8")), ["rooms.csv", "more_.csv", "file"])
        self.assertEqual(sorted(p.name for p in folder.iterdir()), ["0", "1", "2", "names.json"])
        self.do(id)
        self.assertEqual(self.rooms(), ["7", "8", "9"])

    def test_files_are_kept_for_a_day_and_gone_when_done(self) -> None:
        stale, fresh = self.look().id, self.look().id
        self.do(fresh)
        self.assertEqual([p.name for p in (self.folder / "uploads").iterdir()], [stale])
        self.clock.pass_by(days=1, seconds=1)
        kept = self.look().id
        self.assertEqual([p.name for p in (self.folder / "uploads").iterdir()], [kept])
        with self.ctx.store.read() as db:
            left = {row.id: row.applied_at is not None for row in db.scalars(select(StagedImport))}
        self.assertEqual(left, {fresh: True, kept: False})  # what was applied stays on record
        with self.assertRaises(NotFound):
            self.do(stale)

    def test_only_so_many_lines_are_shown_and_all_are_counted(self) -> None:
        many = b"\n".join(b"%d" % n for n in range(staging.SHOWN + 5))
        shown = self.look({"rooms.csv": many})
        self.assertEqual((len(shown.lines), shown.counts["added"]), (staging.SHOWN, staging.SHOWN + 5))


class InOneGo(WorldCase):
    def test_a_plan_that_says_something_else_while_it_is_done_is_taken_back(self) -> None:
        said = iter("aab")

        def plan(db: Session, files: dict[str, bytes], do: bool) -> list[PreviewLine]:
            if do:
                db.add(Setting(name="half", value=1))
            return [PreviewLine(fate="added", what="room", id=next(said), label="")]

        planner = staging.in_one_go(plan)
        id = staging.stage(self.ctx, self.boss, "rooms", FILES, planner).id
        with self.assertRaisesRegex(Conflict, "changed since the preview"):
            staging.decide(self.ctx, self.boss, "rooms", id, planner)
        with self.ctx.store.read() as db:
            self.assertEqual(list(db.scalars(select(Setting))), [])
