"""Rosters in both versions of the standard, as folder and as zip."""

from __future__ import annotations

import unittest

from bildung.formats.archive import open_archive
from bildung.formats.oneroster import read_roster
from bildung.formats.problem import ImportProblem
from tests.support import small_roster


def replaced(name: str, old: str, new: str) -> dict[str, bytes]:
    files = small_roster(4)
    text = files[name].decode()
    assert old in text, (name, old)
    return files | {name: text.replace(old, new, 1).encode()}


class Rosters(unittest.TestCase):
    def test_a_folder_and_a_zip_of_it_give_the_same_roster(self) -> None:
        from bildung.demo.files import archive

        files = small_roster(4)
        nested = {f"school/{name}": data for name, data in files.items()}
        self.assertEqual(read_roster(files), read_roster({"roster.zip": archive(nested)}))
        self.assertEqual(len(read_roster(files).enrolments), 4 * 2 + 2)

    def test_version_1_2_takes_roles_from_its_own_file(self) -> None:
        files = small_roster(2)
        lines = files["users.csv"].decode().splitlines()
        head = lines[0].split(",")
        drop = {head.index("role"), head.index("orgSourcedIds")}
        rows, roles = [], ["sourcedId,userSourcedId,roleType,role,orgSourcedId"]
        for line in lines[1:]:
            cells = line.split(",")
            roles.append(f"r-{cells[0]},{cells[0]},primary,{cells[head.index('role')]},HM")
            rows.append(",".join(c for at, c in enumerate(cells) if at not in drop))
        header = ",".join(c for at, c in enumerate(head) if at not in drop)
        newer = files | {"users.csv": "\n".join([header, *rows]).encode(), "roles.csv": "\n".join(roles).encode()}
        self.assertEqual(read_roster(newer).users, read_roster(files).users)

    def test_kindergarten_is_read_as_the_standard_writes_it(self) -> None:
        files = small_roster()
        files["users.csv"] = files["users.csv"].replace(b",05", b",KG")
        files["classes.csv"] = files["classes.csv"].replace(b",5,", b",KG,")
        roster = read_roster(files)
        self.assertEqual({u.grade for u in roster.users if u.role == "student"}, {"K"})
        self.assertEqual({c.grade for c in roster.classes}, {"K"})

    def test_what_is_not_taken_has_a_reason(self) -> None:
        files = small_roster(2)
        files["users.csv"] += (
            b"HM-G,true,HM,guardian,,Ada,Bo,\nHM-Z,true,HM,sysop,,Ada,Bo,\nHM-X,false,HM,student,,Cy,Do,05\nHM-Y,true,NO,student,,E,F,05\n"
        )
        files["enrollments.csv"] += (
            b"e1,HM-5M1,HM,HM-G,student\ne2,NONE,HM,HM-S0001,student\ne3,HM-5M1,HM,HM-S0001,student\n"
        )
        left = {(l.id, l.reason) for l in read_roster(files).left_out}  # noqa: E741
        self.assertEqual(
            left,
            {
                ("HM-Z", "role sysop takes no part in tests"),
                ("HM-X", "not enabled in the file"),
                ("HM-Y", "belongs to no school in orgs.csv"),
                ("e1", "family cannot be enrolled as student"),
                ("e2", "class NONE is not among the classes taken"),
                ("e3", "the same person is in this class already"),
            },
        )

    def test_broken_files_are_refused_with_their_place(self) -> None:
        for files, said in (
            ({"orgs.csv": b"sourcedId,name,type\n"}, "no academicSessions.csv, users.csv"),
            (
                replaced("academicSessions.csv", "2026-08-01", "1.8.2026"),
                "academicSessions.csv, line 2, column startDate",
            ),
            (replaced("users.csv", "HM-S0002", "HM-S0001"), "HM-S0001 again"),
            (replaced("classes.csv", "schoolSourcedId", "school"), "no column schoolSourcedId"),
        ):
            with self.assertRaisesRegex(ImportProblem, said):
                read_roster(files)

    def test_a_hostile_zip_is_refused(self) -> None:
        from bildung.demo.files import archive

        bomb = archive({"a.csv": b"0" * 300_000_000})
        for name, data, said in (
            ("out.zip", archive({"../orgs.csv": b"x"}), "a path outside the archive's folder"),
            ("abs.zip", archive({"/etc/orgs.csv": b"x"}), "a path outside the archive's folder"),
            ("bomb.zip", bomb, "expands too far"),
            ("cut.zip", archive({"a": b"x" * 100})[:40], "not a readable zip file"),
        ):
            with self.assertRaisesRegex(ImportProblem, said):
                open_archive(name, data)
