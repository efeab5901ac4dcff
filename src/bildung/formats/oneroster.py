"""OneRoster 1.1 and 1.2 CSV, bulk and delta: organizations, academic sessions, users, classes, enrolments."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from datetime import date
from pathlib import PurePosixPath

from bildung.core.grades import grade_code
from bildung.core.school.names import legible
from bildung.formats.archive import is_archive, open_archive
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import Sheet, SheetRow, read_sheet, unique

FILES = {
    "orgs.csv": ("sourcedId", "name", "type"),
    "academicSessions.csv": ("sourcedId", "title", "type", "startDate", "endDate"),
    "users.csv": ("sourcedId", "givenName", "familyName"),
    "classes.csv": ("sourcedId", "title", "schoolSourcedId"),
    "enrollments.csv": ("sourcedId", "classSourcedId", "userSourcedId", "role"),
}
NAMES = {
    "orgs.csv": ("name",),
    "academicSessions.csv": ("title",),
    "users.csv": ("givenName", "familyName"),
    "classes.csv": ("title", "location"),
    "courses.csv": ("title",),
}
STAFF_ROLES = {
    "teacher": "teacher",
    "aide": "teacher",
    "proctor": "proctor",
    "administrator": "coordinator",
    "siteAdministrator": "coordinator",
    "systemAdministrator": "coordinator",
    "districtAdministrator": "coordinator",
    "principal": "coordinator",
}
FAMILY_ROLES = ("parent", "guardian", "relative")
OPTIONAL = {
    "roles.csv": ("sourcedId", "userSourcedId", "role", "orgSourcedId"),
    "courses.csv": ("sourcedId", "title"),
    "demographics.csv": ("sourcedId", "birthDate"),
}


@dataclass(frozen=True)
class Known:
    """What is here already, for files that refer to it: users by id with their role, class and school ids."""

    users: Mapping[str, str] = field(default_factory=dict)
    classes: frozenset[str] = frozenset()
    schools: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Org:
    id: str
    name: str
    kind: str


@dataclass(frozen=True, kw_only=True)
class RosterSession:
    id: str
    title: str
    kind: str
    start: date
    end: date


@dataclass(frozen=True, kw_only=True)
class User:
    """role: student, teacher, proctor, coordinator or family. agents: ids of users that this one is tied to, a
    student's family or a family's students. relation: the word of the file for a family's role."""

    id: str
    given: str
    family: str
    role: str
    grade: str
    username: str
    school: str
    agents: tuple[str, ...] = ()
    relation: str = ""


@dataclass(frozen=True, kw_only=True)
class RosterClass:
    id: str
    title: str
    school: str
    subject: str
    grade: str
    location: str
    course: str = ""
    period: str = ""
    homeroom: bool = False
    terms: tuple[str, ...] = ()


@dataclass(frozen=True, kw_only=True)
class RosterEnrolment:
    id: str
    klass: str
    user: str
    role: str
    begins: date | None = None
    ends: date | None = None


@dataclass(frozen=True)
class Gone:
    """A row that a delta file takes back. what: person, class or enrolment; for an enrolment also whose and where."""

    what: str
    id: str
    user: str = ""
    klass: str = ""


@dataclass(frozen=True)
class LeftOut:
    """A row that was understood and is not taken, with the reason."""

    file: str
    line: int
    id: str
    reason: str


@dataclass(frozen=True)
class Mended:
    """A name that lost control characters, marks of direction or blanks. name: as it is taken."""

    file: str
    line: int
    column: str
    name: str


@dataclass(frozen=True, kw_only=True)
class Roster:
    """complete: of which kinds (student, staff, family, class, enrolment) the file names all there are, so that
    whoever is missing has left. attributes: user, name of the attribute, value. births: birth dates by user. unread: files
    of the set that are not read here. mended: names that are not taken as they stand."""

    orgs: tuple[Org, ...]
    sessions: tuple[RosterSession, ...]
    users: tuple[User, ...]
    classes: tuple[RosterClass, ...]
    enrolments: tuple[RosterEnrolment, ...]
    left_out: tuple[LeftOut, ...]
    complete: frozenset[str] = frozenset()
    gone: tuple[Gone, ...] = ()
    attributes: tuple[tuple[str, str, str], ...] = ()
    births: Mapping[str, date] = field(default_factory=dict)
    unread: tuple[str, ...] = ()
    mended: tuple[Mended, ...] = ()


def read_roster(uploads: dict[str, bytes], known: Known | None = None) -> Roster:
    """A roster from uploaded files by name: one zip, or the CSV files of a folder. A manifest that calls any file a
    delta makes all of it changes to what is known."""
    files: dict[str, bytes] = {}
    for name, data in uploads.items():
        inside = open_archive(name, data) if is_archive(data) else {name: data}
        for path, body in inside.items():
            base = PurePosixPath(path).name
            if base in files:
                raise ImportProblem(file=name, found=f"{base} twice", allowed="each file stands once")
            files[base] = body
    delta = _is_delta(files)
    missing = [name for name in FILES if name not in files]
    if missing and not delta:
        raise ImportProblem(
            file=", ".join(uploads) or "upload",
            found=f"no {', '.join(missing)}",
            allowed=f"needed are {', '.join(FILES)}",
        )
    if delta and len(missing) == len(FILES):
        raise ImportProblem(
            file=", ".join(uploads), found="no file of changes", allowed=f"expected are some of {', '.join(FILES)}"
        )
    wanted = {**FILES, **OPTIONAL}
    sheets = {name: read_sheet(name, files[name], columns) for name, columns in wanted.items() if name in files}
    roster = roster_of(sheets, delta, known or Known())
    return replace(roster, unread=tuple(sorted(files.keys() - wanted.keys() - {"manifest.csv"})))


def roster_of(sheets: dict[str, Sheet], delta: bool, known: Known) -> Roster:
    """The roster that sheets of these columns hold; where they come from does not matter."""
    mended: list[Mended] = []
    sheets = {name: _legible(sheet, NAMES.get(name, ()), mended) for name, sheet in sheets.items()}
    return replace(_Reader(sheets, delta, known).roster(), mended=tuple(mended))


def _legible(sheet: Sheet, columns: tuple[str, ...], mended: list[Mended]) -> Sheet:
    """The sheet with its names as `legible` has them."""
    rows = []
    for row in sheet.rows:
        wrong = {c: better for c in columns if (better := legible(row.get(c))) != row.get(c)}
        if wrong:
            mended += [Mended(sheet.file, row.line, column, better) for column, better in wrong.items()]
        rows.append(SheetRow(row.line, row.cells | wrong) if wrong else row)
    return replace(sheet, rows=tuple(rows)) if mended else sheet


def _is_delta(files: dict[str, bytes]) -> bool:
    """By the manifest, whose lines say of each file that it is bulk, delta or absent."""
    if "manifest.csv" not in files:
        return False
    sheet = read_sheet("manifest.csv", files["manifest.csv"], ("propertyName", "value"))
    modes = {}
    for row in sheet.rows:
        if row["propertyName"].startswith("file."):
            if row["value"] not in ("bulk", "delta", "absent"):
                raise sheet.problem(row, "value", repr(row["value"]), "bulk, delta or absent")
            modes[row["propertyName"]] = row["value"]
    return "delta" in modes.values()


def _a(role: str) -> str:
    return "family" if role == "family" else f"a {role}"


class _Reader:
    def __init__(self, sheets: dict[str, Sheet], delta: bool, known: Known) -> None:
        self.sheets, self.delta, self.known = sheets, delta, known
        self.left_out: list[LeftOut] = []
        self.gone: list[Gone] = []

    def roster(self) -> Roster:
        orgs = tuple(Org(id, row["name"], row["type"]) for id, row in self._active("orgs.csv").items())
        sessions = tuple(
            RosterSession(
                id=id,
                title=row["title"],
                kind=row["type"],
                start=self._date("academicSessions.csv", row, "startDate"),
                end=self._date("academicSessions.csv", row, "endDate"),
            )
            for id, row in self._active("academicSessions.csv").items()
        )
        schools = {org.id for org in orgs if org.kind == "school"} | (self.known.schools if self.delta else set())
        users = self._users(schools)
        classes = self._classes(schools)
        roles = dict(self.known.users) if self.delta else {}
        roles |= {u.id: u.role for u in users}
        ids = {c.id for c in classes} | (self.known.classes if self.delta else set())
        gone = {(g.what, g.id) for g in self.gone}
        enrolments = self._enrolments(
            {id: role for id, role in roles.items() if ("person", id) not in gone},
            {id for id in ids if ("class", id) not in gone},
        )
        return Roster(
            orgs=orgs,
            sessions=sessions,
            users=users,
            classes=classes,
            enrolments=enrolments,
            left_out=tuple(self.left_out),
            complete=self._complete(users),
            gone=tuple(self.gone),
            births=self._births(),
        )

    def _births(self) -> dict[str, date]:
        """From demographics.csv, where the set has one; a row without a date says nothing."""
        rows = self._active("demographics.csv")
        return {id: self._date("demographics.csv", row, "birthDate") for id, row in rows.items() if row["birthDate"]}

    def _complete(self, users: tuple[User, ...]) -> frozenset[str]:
        """Families are often kept elsewhere: they are complete only where the file has any."""
        if self.delta:
            return frozenset()
        kinds = {"student", "staff", "class", "enrolment"}
        return frozenset(kinds | ({"family"} if any(u.role == "family" for u in users) else set()))

    def _active(self, file: str) -> dict[str, SheetRow]:
        sheet = self.sheets.get(file)
        if sheet is None:
            return {}
        rows = unique(sheet, "sourcedId")
        kept: dict[str, SheetRow] = {}
        for id, row in rows.items():
            if row.get("status") == "tobedeleted":
                self._taken_back(file, row)
            elif row.get("status") not in ("", "active", "inactive"):
                raise sheet.problem(row, "status", repr(row["status"]), "active, tobedeleted or empty")
            else:
                kept[id] = row
        return kept

    def _taken_back(self, file: str, row: SheetRow) -> None:
        """In a bulk file a deleted row is as if it were not there; in a delta it ends what is here."""
        what = {"users.csv": "person", "classes.csv": "class", "enrollments.csv": "enrolment"}.get(file)
        if self.delta and what:
            self.gone.append(Gone(what, row["sourcedId"], row.get("userSourcedId"), row.get("classSourcedId")))
        else:
            self._leave(file, row, "marked as deleted in the file")

    def _leave(self, file: str, row: SheetRow, reason: str) -> None:
        self.left_out.append(LeftOut(file, row.line, row.get("sourcedId"), reason))

    def _date(self, file: str, row: SheetRow, column: str) -> date:
        try:
            return date.fromisoformat(row[column])
        except ValueError:
            raise self.sheets[file].problem(row, column, repr(row[column]), "a date such as 2026-08-31") from None

    def _maybe_date(self, file: str, row: SheetRow, column: str) -> date | None:
        return self._date(file, row, column) if row.get(column) else None

    def _users(self, schools: set[str]) -> tuple[User, ...]:
        sheet = self.sheets.get("users.csv")
        if sheet is None:
            return ()
        given_roles: dict[str, list[tuple[str, str]]] = {}
        roles = self.sheets.get("roles.csv")
        if roles is not None:
            for row in roles.rows:
                if row.get("status") != "tobedeleted":
                    given_roles.setdefault(row["userSourcedId"], []).append((row["role"], row["orgSourcedId"]))
        elif "role" not in sheet.columns:
            raise ImportProblem(
                file="users.csv",
                found="no column role and no roles.csv",
                allowed="1.1 has the one, 1.2 the other",
                line=1,
            )
        users = []
        for id, row in self._active("users.csv").items():
            if not row["givenName"] and not row["familyName"]:
                raise sheet.problem(row, "familyName", "no name at all", "a given or a family name")
            orgs = [part.strip() for part in row.get("orgSourcedIds").split(",") if part.strip()]
            known = given_roles.get(id, [(row.get("role"), org) for org in orgs] or [(row.get("role"), "")])
            relation = next((name for name, _ in known if name in FAMILY_ROLES), "")
            role = next((r for r in (self._role(name) for name, _ in known) if r), None)
            if role is None and self.delta and not any(name for name, _ in known):
                role = self.known.users.get(id)
            if role is None:
                names = ", ".join(sorted({name for name, _ in known if name})) or "none"
                self._leave("users.csv", row, f"role {names} takes no part in tests")
                continue
            if row.get("enabledUser").lower() == "false":
                self._leave("users.csv", row, "not enabled in the file")
                continue
            school = next((org for _, org in known if org in schools), "")
            if role == "student" and not school:
                self._leave("users.csv", row, "belongs to no school in orgs.csv")
                continue
            grade = grade_code(row.get("grades").split(",")[0])
            agents = tuple(part.strip() for part in row.get("agentSourceIds").split(",") if part.strip())
            users.append(
                User(
                    id=id,
                    given=row["givenName"],
                    family=row["familyName"],
                    role=role,
                    grade=grade if role == "student" else "",
                    username=row.get("username"),
                    school=school,
                    agents=agents,
                    relation=relation if role == "family" else "",
                )
            )
        return tuple(users)

    @staticmethod
    def _role(name: str) -> str | None:
        if name == "student":
            return "student"
        return "family" if name in FAMILY_ROLES else STAFF_ROLES.get(name)

    def _classes(self, schools: set[str]) -> tuple[RosterClass, ...]:
        classes = []
        courses = (
            {row["sourcedId"]: row["title"] for row in self.sheets["courses.csv"].rows}
            if "courses.csv" in self.sheets
            else {}
        )
        for id, row in self._active("classes.csv").items():
            if row["schoolSourcedId"] not in schools:
                self._leave("classes.csv", row, f"school {row['schoolSourcedId'] or '(empty)'} is not in orgs.csv")
                continue
            grade = grade_code(row.get("grades").split(",")[0])
            subject = row.get("subjects").split(",")[0].strip()
            terms = tuple(part.strip() for part in row.get("termSourcedIds").split(",") if part.strip())
            classes.append(
                RosterClass(
                    id=id,
                    title=row["title"],
                    school=row["schoolSourcedId"],
                    subject=subject,
                    grade=grade,
                    location=row.get("location"),
                    course=courses.get(row.get("courseSourcedId"), ""),
                    period=row.get("periods"),
                    homeroom=row.get("classType") == "homeroom",
                    terms=terms,
                )
            )
        return tuple(classes)

    def _enrolments(self, users: dict[str, str], classes: set[str]) -> tuple[RosterEnrolment, ...]:
        enrolments: list[RosterEnrolment] = []
        seen: set[tuple[str, str]] = set()
        for id, row in self._active("enrollments.csv").items():
            user, klass, role = row["userSourcedId"], row["classSourcedId"], row["role"]
            if user not in users:
                self._leave("enrollments.csv", row, f"user {user or '(empty)'} is not among the users taken")
            elif klass not in classes:
                self._leave("enrollments.csv", row, f"class {klass or '(empty)'} is not among the classes taken")
            elif role not in ("student", "teacher", "aide"):
                self._leave("enrollments.csv", row, f"role {role or '(empty)'} is not held in a class")
            elif (role == "student") != (users[user] == "student") or users[user] == "family":
                self._leave("enrollments.csv", row, f"{_a(users[user])} cannot be enrolled as {role}")
            elif (user, klass) in seen:
                self._leave("enrollments.csv", row, "the same person is in this class already")
            else:
                seen.add((user, klass))
                begins = self._maybe_date("enrollments.csv", row, "beginDate")
                ends = self._maybe_date("enrollments.csv", row, "endDate")
                if begins and ends and ends < begins:
                    raise self.sheets["enrollments.csv"].problem(row, "endDate", str(ends), f"not before {begins}")
                enrolments.append(
                    RosterEnrolment(
                        id=id,
                        klass=klass,
                        user=user,
                        role="student" if role == "student" else "teacher",
                        begins=begins,
                        ends=ends,
                    )
                )
        return tuple(enrolments)
