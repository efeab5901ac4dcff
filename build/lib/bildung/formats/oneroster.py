"""OneRoster 1.1 and 1.2 CSV, bulk: organisations, academic sessions, users, classes, enrolments."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from pathlib import PurePosixPath

from bildung.formats.archive import is_archive, open_archive
from bildung.formats.problem import ImportProblem
from bildung.formats.sheet import Row, Sheet, read_sheet, unique

FILES = {
    "orgs.csv": ("sourcedId", "name", "type"),
    "academicSessions.csv": ("sourcedId", "title", "type", "startDate", "endDate"),
    "users.csv": ("sourcedId", "givenName", "familyName"),
    "classes.csv": ("sourcedId", "title", "schoolSourcedId"),
    "enrollments.csv": ("sourcedId", "classSourcedId", "userSourcedId", "role"),
}
STAFF_ROLES = {
    "teacher": "teacher", "aide": "teacher", "proctor": "proctor", "administrator": "coordinator",
    "siteAdministrator": "coordinator", "systemAdministrator": "coordinator", "districtAdministrator": "coordinator",
    "principal": "coordinator",
}  # fmt: skip


@dataclass(frozen=True)
class Org:
    id: str
    name: str
    kind: str


@dataclass(frozen=True)
class AcademicSession:
    id: str
    title: str
    kind: str
    start: date
    end: date


@dataclass(frozen=True)
class User:
    """role: student, teacher, proctor or coordinator."""

    id: str
    given: str
    family: str
    role: str
    grade: str
    username: str
    school: str


@dataclass(frozen=True)
class SchoolClass:
    id: str
    title: str
    school: str
    subject: str
    grade: str
    location: str


@dataclass(frozen=True)
class Enrolment:
    id: str
    klass: str
    user: str
    role: str


@dataclass(frozen=True)
class LeftOut:
    """A row that was understood and is not taken, with the reason."""

    file: str
    line: int
    id: str
    reason: str


@dataclass(frozen=True)
class Roster:
    orgs: tuple[Org, ...]
    sessions: tuple[AcademicSession, ...]
    users: tuple[User, ...]
    classes: tuple[SchoolClass, ...]
    enrolments: tuple[Enrolment, ...]
    left_out: tuple[LeftOut, ...]


def read_roster(uploads: dict[str, bytes]) -> Roster:
    """A roster from uploaded files by name: one zip, or the CSV files of a folder."""
    files: dict[str, bytes] = {}
    for name, data in uploads.items():
        inside = open_archive(name, data) if is_archive(data) else {name: data}
        for path, body in inside.items():
            base = PurePosixPath(path).name
            if base in files:
                raise ImportProblem(name, f"{base} twice", "each file stands once")
            files[base] = body
    missing = [name for name in FILES if name not in files]
    if missing:
        raise ImportProblem(
            ", ".join(uploads) or "upload", f"no {', '.join(missing)}", f"needed are {', '.join(FILES)}"
        )
    sheets = {name: read_sheet(name, files[name], columns) for name, columns in FILES.items()}
    roles = None
    if "roles.csv" in files:
        roles = read_sheet("roles.csv", files["roles.csv"], ("sourcedId", "userSourcedId", "role", "orgSourcedId"))
    return _Reader(sheets, roles).roster()


class _Reader:
    def __init__(self, sheets: dict[str, Sheet], roles: Sheet | None) -> None:
        self.sheets = sheets
        self.roles = roles
        self.left_out: list[LeftOut] = []

    def roster(self) -> Roster:
        orgs = tuple(
            Org(id, row["name"], row["type"])
            for id, row in self._active("orgs.csv").items()
        )  # fmt: skip
        sessions = tuple(
            AcademicSession(
                id, row["title"], row["type"], self._date("academicSessions.csv", row, "startDate"),
                self._date("academicSessions.csv", row, "endDate"),
            )
            for id, row in self._active("academicSessions.csv").items()
        )  # fmt: skip
        schools = {org.id for org in orgs if org.kind == "school"}
        users = self._users(schools)
        classes = self._classes(schools)
        enrolments = self._enrolments({u.id: u for u in users}, {c.id for c in classes})
        return Roster(orgs, sessions, users, classes, enrolments, tuple(self.left_out))

    def _active(self, file: str) -> dict[str, Row]:
        sheet = self.sheets[file]
        rows = unique(sheet, "sourcedId")
        kept: dict[str, Row] = {}
        for id, row in rows.items():
            if row.get("status") == "tobedeleted":
                self._leave(file, row, "marked as deleted in the file")
            elif row.get("status") not in ("", "active", "inactive"):
                raise sheet.problem(row, "status", repr(row["status"]), "active, tobedeleted or empty")
            else:
                kept[id] = row
        return kept

    def _leave(self, file: str, row: Row, reason: str) -> None:
        self.left_out.append(LeftOut(file, row.line, row.get("sourcedId"), reason))

    def _date(self, file: str, row: Row, column: str) -> date:
        try:
            return date.fromisoformat(row[column])
        except ValueError:
            raise self.sheets[file].problem(row, column, repr(row[column]), "a date such as 2026-08-31") from None

    def _users(self, schools: set[str]) -> tuple[User, ...]:
        sheet = self.sheets["users.csv"]
        given_roles: dict[str, list[tuple[str, str]]] = {}
        if self.roles is not None:
            for row in self.roles.rows:
                if row.get("status") != "tobedeleted":
                    given_roles.setdefault(row["userSourcedId"], []).append((row["role"], row["orgSourcedId"]))
        elif "role" not in sheet.columns:
            raise ImportProblem("users.csv", "no column role and no roles.csv", "1.1 has the one, 1.2 the other", 1)
        users = []
        for id, row in self._active("users.csv").items():
            if not row["givenName"] and not row["familyName"]:
                raise sheet.problem(row, "familyName", "no name at all", "a given or a family name")
            orgs = [part.strip() for part in row.get("orgSourcedIds").split(",") if part.strip()]
            known = given_roles.get(id, [(row.get("role"), org) for org in orgs] or [(row.get("role"), "")])
            role = next((r for r in (self._role(name) for name, _ in known) if r), None)
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
            grade = row.get("grades").split(",")[0].strip().lstrip("0") or ("K" if row.get("grades") else "")
            users.append(User(id, row["givenName"], row["familyName"], role, grade, row.get("username"), school))
        return tuple(users)

    @staticmethod
    def _role(name: str) -> str | None:
        return "student" if name == "student" else STAFF_ROLES.get(name)

    def _classes(self, schools: set[str]) -> tuple[SchoolClass, ...]:
        classes = []
        for id, row in self._active("classes.csv").items():
            if row["schoolSourcedId"] not in schools:
                self._leave("classes.csv", row, f"school {row['schoolSourcedId'] or '(empty)'} is not in orgs.csv")
                continue
            grade = row.get("grades").split(",")[0].strip().lstrip("0")
            subject = row.get("subjects").split(",")[0].strip()
            classes.append(SchoolClass(id, row["title"], row["schoolSourcedId"], subject, grade, row.get("location")))
        return tuple(classes)

    def _enrolments(self, users: dict[str, User], classes: set[str]) -> tuple[Enrolment, ...]:
        enrolments: list[Enrolment] = []
        seen: set[tuple[str, str]] = set()
        for id, row in self._active("enrollments.csv").items():
            user, klass, role = row["userSourcedId"], row["classSourcedId"], row["role"]
            if user not in users:
                self._leave("enrollments.csv", row, f"user {user or '(empty)'} is not among the users taken")
            elif klass not in classes:
                self._leave("enrollments.csv", row, f"class {klass or '(empty)'} is not among the classes taken")
            elif role not in ("student", "teacher", "aide"):
                self._leave("enrollments.csv", row, f"role {role or '(empty)'} is not held in a class")
            elif (role == "student") != (users[user].role == "student"):
                self._leave("enrollments.csv", row, f"a {users[user].role} cannot be enrolled as {role}")
            elif (user, klass) in seen:
                self._leave("enrollments.csv", row, "the same person is in this class already")
            else:
                seen.add((user, klass))
                enrolments.append(Enrolment(id, klass, user, "student" if role == "student" else "teacher"))
        return tuple(enrolments)
