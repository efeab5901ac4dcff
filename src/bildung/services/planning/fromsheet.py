"""Rooms, carts and class timetables from a table: CSV, XLSX or pasted, looked at before it is applied."""

from __future__ import annotations

import re
from collections.abc import Callable

from sqlalchemy import select
from sqlalchemy.orm import Session

from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import NO, YES, Sheet, SheetRow, whole
from bildung.formats.spreadsheet import read_spreadsheet
from bildung.services.planning.resources import MOST_SEATS
from bildung.services.planning.schools import school_of
from bildung.services.planning.timetable import blocks_of, classes_of, put_times
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor
from bildung.services.shared.context import Context
from bildung.services.shared.staging import Planner, Preview, PreviewLine, decide, in_one_go, stage
from bildung.store.models import Cart, ClassTime, Room

LONGEST_NAME = 40
SHEETS = (
    "room, seats, devices, shared; or cart, devices; or class, day, block; or class and a column for each kind of day"
)


def preview(ctx: Context, actor: Actor, school_id: int, files: dict[str, bytes]) -> Preview:
    """What the files would add and change at a school."""
    return stage(ctx, actor, f"resources-{school_id}", files, _planner(ctx, actor, school_id))


def apply(ctx: Context, actor: Actor, school_id: int, id: str) -> Preview:
    """Take in what was looked at; refused where something has moved since."""
    return decide(ctx, actor, f"resources-{school_id}", id, _planner(ctx, actor, school_id))


def _planner(ctx: Context, actor: Actor, school_id: int) -> Planner:
    def plan(db: Session, files: dict[str, bytes], do: bool) -> list[PreviewLine]:
        school = school_of(db, actor, school_id, Action.WINDOWS_PLAN)
        reading = _Reading(db, school.id, do)
        for name, data in files.items():
            reading.take(read_spreadsheet(name, data))
        if do:
            said = {"lines": sum(line.fate in ("added", "changed") for line in reading.lines)}
            audit.record(db, ctx.clock(), actor.person_id, "resources.import", f"school:{school.id}", None, said)
        return reading.lines

    return in_one_go(plan)


class _Reading:
    """One import: each sheet says by its columns what it holds."""

    def __init__(self, db: Session, school_id: int, do: bool) -> None:
        self.db, self.school_id, self.do = db, school_id, do
        self.lines: list[PreviewLine] = []
        self.blocks = blocks_of(db, school_id)

    def take(self, sheet: Sheet) -> None:
        columns = {" ".join(name.lower().split()): name for name in sheet.columns}
        days = {block.day.lower() for block in self.blocks}
        ways: tuple[tuple[bool, Callable[[Sheet, dict[str, str]], None]], ...] = (
            ("room" in columns and "seats" in columns, self._rooms),
            ("cart" in columns and "devices" in columns, self._carts),
            ("class" in columns and {"day", "block"} <= columns.keys(), self._meetings),
            ("class" in columns and bool(days & columns.keys()), self._timetable),
        )
        fitting = next((way for fits, way in ways if fits), None)
        if fitting is None:
            raise ImportProblem(
                file=sheet.file, found=f"columns {', '.join(sheet.columns)}", allowed=f"known are {SHEETS}", line=1
            )
        fitting(sheet, columns)

    def _rooms(self, sheet: Sheet, columns: dict[str, str]) -> None:
        had = {r.name.casefold(): r for r in self.db.scalars(select(Room).where(Room.school_id == self.school_id))}
        for row, name in self._named(sheet, columns["room"]):
            seats = self._number(sheet, row, columns["seats"], 1)
            old = had.get(name.casefold())
            devices, shared = (old.devices, old.shared) if old else (0, True)
            if "devices" in columns and row[columns["devices"]]:
                devices = self._number(sheet, row, columns["devices"], 0)
            if "shared" in columns and row[columns["shared"]]:
                shared = self._yes(sheet, row, columns["shared"])
            if old and (old.seats, old.devices, old.shared) == (seats, devices, shared):
                self._line("same", "room", row, name)
                continue
            self._line(
                "changed" if old else "added",
                "room",
                row,
                name,
                f"{seats} seats, {devices} devices" + ("" if shared else ", one class's own"),
            )
            if self.do:
                room = old or Room(school_id=self.school_id, name=name)
                room.seats, room.devices, room.shared = seats, devices, shared
                self.db.add(room)

    def _carts(self, sheet: Sheet, columns: dict[str, str]) -> None:
        had = {c.name.casefold(): c for c in self.db.scalars(select(Cart).where(Cart.school_id == self.school_id))}
        for row, name in self._named(sheet, columns["cart"]):
            devices = self._number(sheet, row, columns["devices"], 1)
            old = had.get(name.casefold())
            if old and old.devices == devices:
                self._line("same", "cart", row, name)
                continue
            self._line("changed" if old else "added", "cart", row, name, f"{devices} devices")
            if self.do:
                cart = old or Cart(school_id=self.school_id, name=name)
                cart.devices = devices
                self.db.add(cart)

    def _meetings(self, sheet: Sheet, columns: dict[str, str]) -> None:
        """A row for each meeting."""
        known = {(b.day.casefold(), b.name.casefold()): b.id for b in self.blocks}
        found: dict[str, tuple[SheetRow, list[int]]] = {}
        for row in sheet.rows:
            name, day, block = (row[columns[word]] for word in ("class", "day", "block"))
            id = known.get((day.casefold(), block.casefold()))
            if id is None:
                raise sheet.problem(row, columns["block"], f"block {block!r} of day {day!r}", self._allowed())
            found.setdefault(name.casefold(), (row, []))[1].append(id)
        self._times(columns["class"], found)

    def _timetable(self, sheet: Sheet, columns: dict[str, str]) -> None:
        """A row for each class, its blocks under each kind of day."""
        found: dict[str, tuple[SheetRow, list[int]]] = {}
        for row in sheet.rows:
            name, meets = row[columns["class"]], []
            if name.casefold() in found:
                raise sheet.problem(row, columns["class"], f"{name} again", "each class stands once")
            for day in dict.fromkeys(block.day for block in self.blocks):
                if day.lower() not in columns:
                    continue
                known = {b.name.casefold(): b.id for b in self.blocks if b.day == day}
                column = columns[day.lower()]
                for text in (part for part in re.split(r"[,;\s]+", row[column]) if part not in ("", "-")):
                    if text.casefold() not in known:
                        raise sheet.problem(row, column, f"block {text!r}", self._allowed())
                    meets.append(known[text.casefold()])
            found[name.casefold()] = (row, meets)
        self._times(columns["class"], found)

    def _times(self, column: str, found: dict[str, tuple[SheetRow, list[int]]]) -> None:
        classes = {klass.title.casefold(): klass for klass in classes_of(self.db, self.school_id)}
        now: dict[int, set[int]] = {klass.id: set() for klass in classes.values()}
        for time in self.db.scalars(select(ClassTime).where(ClassTime.class_id.in_(now))):
            now[time.class_id].add(time.block_id)
        names = {b.id: f"{b.day} {b.name}" for b in self.blocks}
        put: dict[int, list[int]] = {}
        for key, (row, meets) in found.items():
            klass = classes.get(key)
            if klass is None:
                self._line("left_out", "class", row, row[column], "no class of this school has this title")
            elif now[klass.id] == set(meets):
                self._line("same", "class", row, klass.title)
            else:
                fate = "changed" if now[klass.id] else "added"
                detail = ", ".join(names[b.id] for b in self.blocks if b.id in meets) or "no block"
                self._line(fate, "class", row, klass.title, detail)
                put[klass.id] = meets
        if self.do and put:
            put_times(self.db, self.school_id, put)

    def _allowed(self) -> str:
        days: dict[str, list[str]] = {}
        for block in self.blocks:
            days.setdefault(block.day, []).append(block.name)
        return "blocks are " + "; ".join(f"{day}: {', '.join(names)}" for day, names in days.items())

    def _named(self, sheet: Sheet, column: str) -> list[tuple[SheetRow, str]]:
        found, seen = [], set[str]()
        for row in sheet.rows:
            name = row[column]
            if not name or len(name) > LONGEST_NAME:
                raise sheet.problem(row, column, repr(name), f"a name of 1 to {LONGEST_NAME} characters")
            if name.casefold() in seen:
                raise sheet.problem(row, column, f"{name} again", "each stands once")
            seen.add(name.casefold())
            found.append((row, name))
        return found

    def _number(self, sheet: Sheet, row: SheetRow, column: str, least: int) -> int:
        number = whole(row[column])
        if number is None or not least <= number <= MOST_SEATS:
            raise sheet.problem(row, column, repr(row[column]), f"a whole number from {least} to {MOST_SEATS}")
        return number

    def _yes(self, sheet: Sheet, row: SheetRow, column: str) -> bool:
        text = row[column].lower()
        if text not in YES + NO:
            raise sheet.problem(row, column, repr(text), "yes or no: whether any class may test there")
        return text in YES

    def _line(self, fate: str, what: str, row: SheetRow, label: str, detail: str = "") -> None:
        line = PreviewLine(fate=fate, what=what, id=f"line {row.line}", label=label, detail=detail)  # type: ignore[arg-type]
        self.lines.append(line)
