"""Accommodations, groups and attributes of many students at once, from a pasted table or a file."""

from __future__ import annotations

from collections import defaultdict
from datetime import date
from typing import Any

from sqlalchemy import delete, func, or_, select
from sqlalchemy.orm import Session

from bildung.core.accommodations.kinds import SOURCES, UNLIMITED, value_of
from bildung.core.errors import Refused
from bildung.core.school.timing import extra_time
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import NO, YES, Sheet, SheetRow
from bildung.formats.spreadsheet import read_spreadsheet
from bildung.services.calendar.years import local_today
from bildung.services.people.accommodations import Entered, add, described, finish
from bildung.services.people.changes import moved
from bildung.services.shared import audit
from bildung.services.shared.access import Action, Actor, scope
from bildung.services.shared.codes import as_typed
from bildung.services.shared.context import Context
from bildung.services.shared.staging import Planner, Preview, PreviewLine, decide, in_one_go, stage
from bildung.store.models import Accommodation, Attribute, AttributeValue, Group, GroupMember, Person

WHO = ("student number", "sign-in code", "name")
YES_NO = {
    "breaks": "breaks",
    "several days": "multi_day",
    "small group": "small_group",
    "individual proctor": "own_proctor",
    "text-to-speech": "read_aloud",
    "human reader": "human_reader",
    "scribe": "scribe",
    "sign language": "sign_language",
    "calculator": "calculator",
    "bilingual dictionary": "dictionary",
    "large print": "large_print",
}
VALUED = {"extended time": "extra_time", "form": "form", "language": "directions", "other": "other"}
ABOUT = ("subject", "source", "from", "until", "note")
OTHER = (*VALUED, *ABOUT, "group", "leaves group")
_SPELT = {
    "id": "student number",
    "number": "student number",
    "code": "sign-in code",
    "own code": "sign-in code",
    "student": "name",
    "time": "extended time",
    "extra time": "extended time",
    "own proctor": "individual proctor",
    "read aloud": "text-to-speech",
}


def preview(ctx: Context, actor: Actor, files: dict[str, bytes]) -> Preview:
    """Look at what a table of accommodations, groups and attributes would change."""
    scope(actor, Action.SUPPORT_WRITE)
    return stage(ctx, actor, "support", files, _planner(ctx, actor))


def apply(ctx: Context, actor: Actor, id: str, yes: bool = False) -> Preview:
    """Take in what was looked at; refused where something has moved since."""
    scope(actor, Action.SUPPORT_WRITE)
    return decide(ctx, actor, "support", id, _planner(ctx, actor), yes)


def _planner(ctx: Context, actor: Actor) -> Planner:
    def plan(db: Session, files: dict[str, bytes], do: bool) -> list[PreviewLine]:
        edit = _Edit(ctx, db, actor, do)
        for name, data in files.items():
            edit.take(read_spreadsheet(name, data))
        if do and edit.touched:
            moved(db, edit.touched)
        return edit.lines

    return in_one_go(plan)


class _Edit:
    def __init__(self, ctx: Context, db: Session, actor: Actor, do: bool) -> None:
        self.ctx, self.db, self.actor, self.do = ctx, db, actor, do
        self.lines: list[PreviewLine] = []
        self.touched: set[int] = set()
        allowed = scope(actor, Action.SUPPORT_WRITE)
        self.students = db.scalars(
            select(Person).where(Person.kind == "student", Person.active.is_(True), allowed).order_by(Person.id)
        ).all()
        self.attributes = {a.name.lower(): a for a in db.scalars(select(Attribute))}
        today = local_today(ctx, db)
        self.now: defaultdict[int, list[Accommodation]] = defaultdict(list)
        running = or_(Accommodation.until.is_(None), Accommodation.until >= today)
        for one in db.scalars(select(Accommodation).where(running).order_by(Accommodation.id)):
            self.now[one.person_id].append(one)
        groups = select(Group).where(or_(scope(actor, Action.GROUPS_WRITE)))
        self.groups = {g.name.lower(): g for g in db.scalars(groups)}

    def take(self, sheet: Sheet) -> None:
        columns = {}
        for column in sheet.columns:
            word = " ".join(column.lower().replace("_", " ").split())
            word = _SPELT.get(word, word)
            if word not in (*WHO, *YES_NO, *OTHER) and word not in self.attributes:
                known = ", ".join((*WHO, *YES_NO, *OTHER, *(a.name for a in self.attributes.values())))
                raise ImportProblem(
                    file=sheet.file, found=f"column {column!r}", allowed=f"known are {known}", line=1, column=column
                )
            columns[word] = column
        if not any(w in columns for w in WHO):
            raise ImportProblem(
                file=sheet.file, found="no column that says who", allowed=f"one of {', '.join(WHO)}", line=1
            )
        if all(w in WHO for w in columns):
            raise ImportProblem(
                file=sheet.file,
                found="nothing to change",
                allowed=f"beside who: {', '.join((*YES_NO, *OTHER))}",
                line=1,
            )
        seen: dict[tuple[int, str], int] = {}
        for row in sheet.rows:
            person, why = self._who(row, columns)
            label = next((row.get(columns[w]) for w in ("name", *WHO) if w in columns and row.get(columns[w])), "")
            if person is None:
                self.lines.append(
                    PreviewLine(fate="left_out", what="student", id=f"line {row.line}", label=label, detail=why)
                )
                continue
            which = person.id, row.get(columns["subject"]).casefold() if "subject" in columns else ""
            if which in seen:
                raise sheet.problem(
                    row,
                    columns[next(w for w in WHO if w in columns)],
                    f"{person.name} again (line {seen[which]})",
                    "one row per student, or per student and subject",
                )
            seen[which] = row.line
            self._needs(sheet, row, columns, person)
            self._attributes(row, columns, person)
            self._groups(row, columns, person)

    def _who(self, row: SheetRow, columns: dict[str, str]) -> tuple[Person | None, str]:
        """By number, else by sign-in code, else by name where only one student is called so."""
        for word, matches in (
            ("student number", lambda p, text: p.source_id == text),
            ("sign-in code", lambda p, text: p.code == as_typed(text)),
            ("name", lambda p, text: text.lower() in (p.name.lower(), f"{p.family}, {p.given}".lower())),
        ):
            text = row.get(columns[word]) if word in columns else ""
            if text:
                found = [p for p in self.students if matches(p, text)]
                if len(found) == 1:
                    return found[0], ""
                return None, f"{'no one' if not found else f'{len(found)} students'} with this {word} among yours"
        return None, "the row does not say who"

    def _needs(self, sheet: Sheet, row: SheetRow, columns: dict[str, str], person: Person) -> None:
        about = self._about(sheet, row, columns)
        theirs = [
            one
            for one in self.now.get(person.id, [])
            if (one.subject.casefold(), one.test_kind) == (about.get("subject", "").casefold(), "")
        ]
        come, go, told = list[Entered](), list[Accommodation](), False
        for word, kind in (YES_NO | VALUED).items():
            text = row.get(columns[word]) if word in columns else ""
            if not text:
                continue
            told = True
            value = self._value(sheet, row, columns[word], word, text)
            has = [one for one in theirs if one.kind == kind]
            go += [one for one in has if one.value != value]
            if value is not None and not any(one.value == value for one in has):
                come.append(Entered(kind=kind, value=value, **about))
        if not come and not go:
            if told:
                self.lines.append(
                    PreviewLine(fate="same", what="accommodation", id=person.source_id, label=person.name)
                )
            return
        self.lines.append(
            PreviewLine(
                fate="changed" if go else "added",
                what="accommodation",
                id=person.source_id,
                label=person.name,
                detail="; ".join(
                    [f"ends: {described(one)}" for one in go] + [f"new: {described(one)}" for one in come]
                ),
            )
        )
        if self.do:
            for one in go:
                finish(self.db, self.ctx, self.actor, one)
            for wanted in come:
                add(self.db, self.ctx, self.actor, person.id, wanted)
            self.touched.add(person.id)

    def _about(self, sheet: Sheet, row: SheetRow, columns: dict[str, str]) -> dict[str, Any]:
        """What all accommodations of a row share: subject, source, dates, note."""
        found: dict[str, Any] = {}
        for word, name in (("subject", "subject"), ("note", "note")):
            if word in columns:
                found[name] = row.get(columns[word])
        if source := row.get(columns["source"]).lower() if "source" in columns else "":
            spelled = {says.lower(): name for name, says in SOURCES.items()} | {name: name for name in SOURCES}
            if source not in spelled:
                raise sheet.problem(row, columns["source"], repr(source), ", ".join(SOURCES.values()))
            found["source"] = spelled[source]
        for word, name in (("from", "start"), ("until", "until")):
            if text := row.get(columns[word]) if word in columns else "":
                try:
                    found[name] = date.fromisoformat(text)
                except ValueError:
                    raise sheet.problem(row, columns[word], repr(text), "a date such as 2026-12-31") from None
        if found.get("start") and found.get("until") and found["until"] < found["start"]:
            raise sheet.problem(row, columns["until"], str(found["until"]), "a day after the first")
        return found

    def _value(self, sheet: Sheet, row: SheetRow, column: str, word: str, text: str) -> str | None:
        """What a kind takes, "" where it takes nothing; None where the table says that there is none."""
        if word in YES_NO:
            if text.lower() not in YES + NO:
                raise sheet.problem(row, column, repr(text), "yes, no, or empty for no change")
            return "" if text.lower() in YES else None
        if word == "extended time":
            if text.lower() in (UNLIMITED, "no limit"):
                return UNLIMITED
            factor = self._factor(sheet, row, column, text)
            return f"{factor:g}" if factor > 1 else None
        if text.lower() in ("-", "none", "general"):
            return None
        try:
            return value_of(VALUED[word], text.lower() if word == "form" else text)
        except Refused as error:
            raise sheet.problem(row, column, repr(text), str(error)) from None

    @staticmethod
    def _factor(sheet: Sheet, row: SheetRow, column: str, text: str) -> float:
        """1.25, 125%, +25% and x1.25 are one thing."""
        plain = text.lower().replace(",", ".").replace(" ", "").lstrip("x×")
        try:
            if plain in NO:
                return 1.0
            if plain.endswith("%"):
                share = float(plain.rstrip("%")) / 100
                return extra_time(1 + share if plain.startswith("+") or share < 1 else share)
            return extra_time(float(plain))
        except (ValueError, Refused):
            raise sheet.problem(row, column, repr(text), "a factor such as 1.25 or 25%, at most 4") from None

    def _attributes(self, row: SheetRow, columns: dict[str, str], person: Person) -> None:
        for name, attribute in self.attributes.items():
            text = row.get(columns[name]) if name in columns else ""
            if not text:
                continue
            value = self.db.get(AttributeValue, (attribute.id, person.id))
            old = value.value if value else None
            if old == text:
                self.lines.append(PreviewLine(fate="same", what=attribute.name, id=person.source_id, label=person.name))
                continue
            self.lines.append(
                PreviewLine(
                    fate="changed" if old else "added",
                    what=attribute.name,
                    id=person.source_id,
                    label=person.name,
                    detail=f"{old} → {text}" if old else text,
                )
            )
            if self.do:
                self.db.merge(AttributeValue(attribute_id=attribute.id, person_id=person.id, value=text))
                self._log("attribute.change", person, old, text)

    def _groups(self, row: SheetRow, columns: dict[str, str], person: Person) -> None:
        for word, joins in (("group", True), ("leaves group", False)):
            names = row.get(columns[word]) if word in columns else ""
            for name in filter(None, (part.strip() for part in names.split(";"))):
                group = self.groups.get(name.lower())
                if group is None:
                    self.lines.append(
                        PreviewLine(
                            fate="left_out",
                            what="group",
                            id=name,
                            label=person.name,
                            detail="there is no such group; create it first",
                        )
                    )
                elif group.rule is not None:
                    self.lines.append(
                        PreviewLine(
                            fate="left_out",
                            what="group",
                            id=name,
                            label=person.name,
                            detail="its members follow a rule",
                        )
                    )
                else:
                    self._member(group, person, joins)

    def _member(self, group: Group, person: Person, joins: bool) -> None:
        is_in = self.db.scalar(
            select(func.count())
            .select_from(GroupMember)
            .where(GroupMember.group_id == group.id, GroupMember.person_id == person.id)
        )
        if bool(is_in) == joins:
            self.lines.append(
                PreviewLine(fate="same", what="group", id=person.source_id, label=f"{person.name} in {group.name}")
            )
            return
        self.lines.append(
            PreviewLine(
                fate="added" if joins else "changed",
                what="group",
                id=person.source_id,
                label=f"{person.name} in {group.name}",
                detail="" if joins else "leaves the group",
            )
        )
        if self.do:
            if joins:
                self.db.add(GroupMember(group_id=group.id, person_id=person.id))
                self.db.flush()
            else:
                self.db.execute(
                    delete(GroupMember).where(GroupMember.group_id == group.id, GroupMember.person_id == person.id)
                )
            self._log("group.member", person, None, {"group": group.name, "in": joins})

    def _log(self, action: str, person: Person, before: Any, after: Any) -> None:
        self.touched.add(person.id)
        audit.record(self.db, self.ctx.clock(), self.actor.person_id, action, f"person:{person.id}", before, after)


def columns_known(ctx: Context, actor: Actor) -> list[str]:
    """What a table may have as columns, for the page."""
    scope(actor, Action.SUPPORT_WRITE)
    with ctx.store.read() as db:
        return [*WHO, *OTHER[:1], *YES_NO, *OTHER[1:], *db.scalars(select(Attribute.name).order_by(Attribute.name))]
