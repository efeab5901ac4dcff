"""Every route with every role against a written table; a new route without a rule fails."""

from __future__ import annotations

import re
from typing import Any
from unittest import mock

from fastapi.testclient import TestClient
from sqlalchemy import select

from bildung.api.app import create_app
from bildung.services.shared.passwords import hash_password
from bildung.store.models import Person, Role, SchoolClass
from tests.support import PASSWORD, WorldCase

# who gets past the door of a route (what they see behind it is a matter of scope, tested with the services)
EVERYBODY = {
    *("nobody", "student", "pupil", "family", "coordinator", "teacher", "proctor", "specialist", "writer", "leader"),
    "substitute",
}
STAFF = {"coordinator", "teacher", "proctor", "specialist", "writer", "leader"}
SESSIONS, BANK, PEOPLE = (
    {"coordinator", "teacher", "proctor"},
    {"coordinator", "teacher", "writer"},
    {"coordinator", "teacher", "specialist"},
)
CLASSES, BOSS = {"coordinator", "teacher"}, {"coordinator"}
MAY: dict[str, set[str]] = {
    "contract": STAFF,
    "welcome": EVERYBODY,
    "signIn": EVERYBODY,
    "joinSession": EVERYBODY,
    "whoseCodes": EVERYBODY,
    "attemptStanding": {"student"},
    "attemptEvents": {"student"},
    "toProvider": EVERYBODY,
    "fromProvider": EVERYBODY,
    "askToJoin": EVERYBODY,
    "joinState": EVERYBODY,
    "checkAnswer": {"student"},
    "reviewSitting": {"student"},
    "sitAgain": {"student"},
    "ownReview": {"pupil"},
    **dict.fromkeys(
        ("waitingForScores", "scoringDesk", "giveScore", "withdrawScore", "skipResponse", "raiseSafetyAlert"), PEOPLE
    ),
    **dict.fromkeys(("responseGroups", "scoreGroup"), PEOPLE),
    **dict.fromkeys(("keepPhrase", "dropPhrase"), PEOPLE),
    **dict.fromkeys(
        (
            "planScoring",
            "scoresFile",
            "earlierScores",
            "keepEarlierScores",
            "scorerAgreement",
            "scorerChoices",
            "alertPersons",
            "nameAlertPersons",
        ),
        BOSS,
    ),
    **dict.fromkeys(("releaseTests", "releasePage", "previewRelease", "familyLetters"), CLASSES),
    **dict.fromkeys(("releaseResults", "withdrawResults", "holdResult"), CLASSES),
    **dict.fromkeys(
        ("paperAttempts", "paperAttempt", "typeAnswers", "paperSheet", "previewPaperAnswers", "applyPaperAnswers"),
        CLASSES,
    ),
    **dict.fromkeys(("sendingPage", "sendResults", "gradebookFiles"), BOSS),
    **dict.fromkeys(
        (
            "masteryGrid",
            "masteryFile",
            "masteryEvidence",
            "masteryCell",
            "studentMastery",
            "masteryStandard",
            "needGroups",
            "keptGroups",
            "masteryDistrict",
            "masteryRules",
            "masteryStudentsFile",
        ),
        CLASSES,
    ),
    **dict.fromkeys(
        (
            "enterEvidence",
            "withdrawEvidence",
            "enterIntervention",
            "endIntervention",
            "keepGroup",
            "changePurpose",
            "leaveGroup",
            "masterySessions",
            "sessionCounts",
            "decideSessions",
            "makePractice",
        ),
        CLASSES,
    ),
    **dict.fromkeys(("previewRules", "changeRules", "moveEvidence"), BOSS),
    **dict.fromkeys(("measures", "growthPair", "growthReport", "growthOccasion", "growthProjection"), CLASSES),
    **dict.fromkeys(("studentGrowth", "studentGrowthReport", "cutScores"), CLASSES),
    **dict.fromkeys(("setGoals", "withdrawGoal"), CLASSES),
    **dict.fromkeys(("reflections", "reflectionsReport", "writeReflection"), CLASSES),
    **dict.fromkeys(("askReflections", "endReflections", "changeDirection", "putCutScores", "settleName"), BOSS),
    **dict.fromkeys(("createMeasure", "addNorms", "previewScores", "applyScores", "measureScores"), BOSS),
    **dict.fromkeys(("scoreColumns", "scoreDoubts", "typeScore", "levelWhileTyping"), BOSS),
    **dict.fromkeys(("testService", "fetchScores", "fetchText"), BOSS),
    "familyReview": {"family"},
    "familyResults": BOSS,
    **dict.fromkeys(("listCorrections", "correctable", "previewCorrection", "correct", "undoCorrection"), BOSS),
    **dict.fromkeys(("mixedForms", "scoreAsForm"), BOSS),
    **dict.fromkeys(("safetyAlerts", "closeSafetyAlert"), STAFF),
    **dict.fromkeys(("studentTest", "printStudentTest", "sayToStudent"), CLASSES),
    "releaseSession": SESSIONS,
    "getFamily": BANK,
    "addCompanionRule": BANK,
    "dropCompanionRule": BANK,
    "makeCompanion": BANK,
    "correctForm": BANK,
    "aboutCorrection": BANK,
    "moveToCorrection": BANK,
    "trialRun": BANK,
    "markTrial": BANK,
    "readThrough": BANK,
    "changeForm": BANK,
    "lookAtFormDraws": BANK,
    "formPaper": BANK,
    "formUnits": BANK,
    "fillFromUnits": BANK,
    "paperPages": BANK,
    "paperPage": BANK,
    "sessionSheets": SESSIONS,
    "formPackage": BANK,
    "formMap": BANK,
    "bringTest": {"coordinator", "writer"},
    "leaveSitting": {"student"},
    "paper": {"student"},
    "saveAnswers": {"student"},
    "handIn": {"student"},
    "deliverAnswers": EVERYBODY,
    "enterAsSubstitute": EVERYBODY,
    "makeSubstituteCode": SESSIONS,
    "withdrawSubstituteCode": SESSIONS,
    **dict.fromkeys(
        ("startRound", "liveRound", "liveScreen", "liveEvents", "findToAsk", "askClass", "askAgain"), CLASSES
    ),
    **dict.fromkeys(("showToClass", "endRound", "pressDevices", "responseDevices", "bindDevices"), CLASSES),
    **{name: {"pupil"} for name in ("ownLive", "answerLive", "ownLiveEvents")},
    "roomSign": {"student"},
    "ownPage": {"pupil"},
    "joinFromOwn": {"pupil"},
    "ownSignOut": {"pupil"},
    "familyPage": {"family"},
    "familyPassword": {"family"},
    "familySignOut": {"family"},
    "signOut": STAFF,
    "me": STAFF,
    "waitingPages": STAFF,
    "today": STAFF,
    "findAnything": STAFF,
    "firstSteps": STAFF,
    "changePassword": STAFF,
    "setLetterKeys": STAFF,
    "listSignIns": STAFF,
    "endSignIn": STAFF,
    "listColleagues": CLASSES,
    "showClasses": CLASSES,
    "hideClasses": CLASSES,
    "listPeople": PEOPLE,
    "peopleOverview": PEOPLE,
    "getPerson": PEOPLE,
    "rosterCheck": BOSS,
    "settleRoster": BOSS,
    "confirmAccount": BOSS,
    "unbindAccount": BOSS,
    "withdrawDecision": BOSS,
    "newOwnCode": BOSS,
    "resetPassword": BOSS,
    "exportRecord": BOSS,
    "printRecord": BOSS,
    "erasePerson": BOSS,
    "searchLog": BOSS,
    "testingDay": {"coordinator", "leader"},
    "printTestingDay": {"coordinator", "leader"},
    "calendarFeed": STAFF,
    "makeCalendarFeed": STAFF,
    "revokeCalendarFeed": STAFF,
    "readCalendarFeed": EVERYBODY,
    "resources": {"coordinator", "leader"},
    "planBoard": {"coordinator", "leader"},
    "exportPlan": {"coordinator", "leader"},
    "saveRooms": BOSS,
    "saveBells": BOSS,
    "saveStaffHours": BOSS,
    "planVersions": {"coordinator", "leader"},
    "keepPlan": BOSS,
    "comparePlans": {"coordinator", "leader"},
    "dropPlan": BOSS,
    "restorePlan": BOSS,
    "blockTime": BOSS,
    "closeRoom": BOSS,
    "reopenRoom": BOSS,
    "openChoosing": BOSS,
    "closeChoosing": BOSS,
    "remindTeachers": BOSS,
    "blockChoices": STAFF,
    "chooseBlock": STAFF,
    "timetable": {"coordinator", "leader"},
    "saveTimetable": BOSS,
    "previewResources": BOSS,
    "applyResources": BOSS,
    "makePlan": BOSS,
    "waysOut": BOSS,
    "takeWayOut": BOSS,
    "moveByHand": BOSS,
    "undoMove": BOSS,
    "publishPlan": BOSS,
    "releasePlan": BOSS,
    "lookAtPlan": BOSS,
    "stopPlan": BOSS,
    "accommodationsPage": {"coordinator", "leader", "teacher", "specialist"},
    "enterAccommodation": {"coordinator", "teacher", "specialist"},
    "changeAccommodation": {"coordinator", "teacher", "specialist"},
    "endAccommodation": {"coordinator", "teacher", "specialist"},
    "approveAccommodations": BOSS,
    "declineAccommodation": BOSS,
    "setCaseManager": BOSS,
    "grantRole": BOSS,
    "takeRoleBack": BOSS,
    "addFamily": BOSS,
    "unlinkFamily": BOSS,
    "previewPeople": BOSS,
    "applyPeople": BOSS,
    "importColumns": BOSS,
    "lookAtJob": BOSS,
    "stopJob": BOSS,
    "supportColumns": BOSS,
    "previewSupport": BOSS,
    "applySupport": BOSS,
    "previewRollover": BOSS,
    "applyRollover": BOSS,
    "listClasses": CLASSES,
    "getClass": CLASSES,
    "classCodes": CLASSES,
    "setDoor": CLASSES,
    "settleRequest": CLASSES,
    "listGroups": PEOPLE,
    "getGroup": PEOPLE,
    "makeGroup": CLASSES,
    "tryRule": CLASSES,
    "changeGroup": CLASSES,
    "putMembers": CLASSES,
    "putStaff": CLASSES,
    "endGroup": CLASSES,
    "getYear": PEOPLE,
    "makeYear": BOSS,
    "changeYear": BOSS,
    "closeDays": BOSS,
    "openDays": BOSS,
    "changeWindow": BOSS,
    "listPlans": CLASSES,
    "getPlan": CLASSES,
    "sayTaught": CLASSES,
    "previewPlans": BOSS,
    "applyPlans": BOSS,
    "getSettings": BOSS,
    "changeSettings": BOSS,
    "putAttribute": BOSS,
    "endAttribute": BOSS,
    "getRecords": BOSS,
    "lookAtRecords": BOSS,
    "decideRecords": BOSS,
    "getFramework": BANK,
    "exportFramework": BANK,
    "standardTexts": STAFF,
    "previewFramework": {"coordinator", "writer"},
    "applyFramework": {"coordinator", "writer"},
    "makeMain": {"coordinator", "writer"},
    "changeStandard": {"coordinator", "writer"},
    "bankHealth": BANK,
    "findItems": BANK,
    "bankFields": BANK,
    "lookAtExport": BANK,
    "exportItems": BANK,
    "itemPage": BANK,
    "compareItems": BANK,
    "createItem": BANK,
    "openDraft": BANK,
    "saveDraft": BANK,
    "discardDraft": BANK,
    "reviewDraft": BANK,
    "finishDraft": BANK,
    "moveItem": BANK,
    "commentItem": BANK,
    "settleComment": BANK,
    "copyItem": BANK,
    "offerItem": BANK,
    "makeDraws": BANK,
    "tryAnswer": BANK,
    "lookAtDraws": BANK,
    "listStimuli": BANK,
    "getStimulus": BANK,
    "createStimulus": BANK,
    "saveStimulus": BANK,
    "lookAtTags": BANK,
    "tagItems": BANK,
    "tagHistory": BANK,
    "undoTags": BANK,
    "uploadMedia": BANK,
    "getMedia": STAFF | {"student", "pupil", "family"},
    "bankOverview": BANK,
    "previewItems": {"coordinator", "writer"},
    "applyItems": {"coordinator", "writer"},
    "testKinds": BANK,
    "listBlueprints": BANK,
    "createBlueprint": BANK,
    "getBlueprint": BANK,
    "saveBlueprint": BANK,
    "assembleForms": BANK,
    "keepForms": BANK,
    "lookAtAssembly": BANK,
    "stopAssembly": BANK,
    "formOutlook": BANK,
    "formChecks": BANK,
    "equalItems": BANK,
    "writing": BANK,
    "listForms": BANK,
    "getForm": BANK,
    "createForm": BANK,
    "setFormItems": BANK,
    "publishForm": BANK,
    "setFormSecurity": BANK,
    "calendar": SESSIONS,
    "listSessions": SESSIONS,
    "getSession": SESSIONS,
    "sessionEvents": SESSIONS,
    "sessionCards": SESSIONS,
    "createWindow": BOSS,
    "copyWindows": BOSS,
    "whoseSittings": SESSIONS,
    "windowForms": CLASSES,
    "sessionChoices": CLASSES,
    "scheduleSessions": CLASSES,
    "closeSession": SESSIONS,
    "changeSessions": CLASSES,
    "cancelSessions": CLASSES,
    "placeStudents": CLASSES,
    "unplaceStudent": CLASSES,
    "splitSession": CLASSES,
    "mergeSession": CLASSES,
    "proposeMakeups": CLASSES,
    "scheduleMakeups": CLASSES,
    "suggestCovers": CLASSES,
    "reassignSessions": CLASSES,
    "participation": SESSIONS,
    "owedTests": SESSIONS,
    "printParticipation": CLASSES,
    "listExemptions": PEOPLE,
    "exemptStudents": BOSS,
    "endExemption": BOSS,
    "listRequirements": CLASSES,
    "addRequirement": BOSS,
    "dropRequirement": BOSS,
    "listWindowDates": SESSIONS,
    "putWindowDates": BOSS,
    "dropWindowDates": BOSS,
    "endWindowEarly": BOSS,
    "openSessionAgain": SESSIONS,
    "settleLateAnswers": SESSIONS,
    "reportRoster": SESSIONS,
    "markSitting": SESSIONS,
    "roomAction": SESSIONS,
    "reopenAttempt": SESSIONS,
    "stopSchool": BOSS,
    "irregularities": CLASSES,
    "settleIrregularity": CLASSES,
    "recordAccommodation": SESSIONS,
    "formChoices": SESSIONS,
    "sessionSupport": SESSIONS,
    "assignSupport": CLASSES,
    "withdrawSupport": CLASSES,
    "settleForm": SESSIONS,
    "listSat": CLASSES,
    "whose": CLASSES,
    "quality": CLASSES,
    "workings": CLASSES,
    "compareGroups": CLASSES,
    "givenAnswers": CLASSES,
    "qualityJob": CLASSES,
    "figureText": CLASSES,
    "stopQualityJob": CLASSES,
    "qualityScope": CLASSES,
    "subScores": CLASSES,
    "judgedItem": CLASSES,
    "tryOut": CLASSES,
    "responseGrid": CLASSES,
    "openedStudent": CLASSES,
    "compareClasses": CLASSES,
    "functioning": CLASSES,
    "mistakes": CLASSES,
    "effort": CLASSES,
    "trust": CLASSES,
    "reteach": CLASSES,
    "listVerdicts": BANK,
    "sayVerdict": CLASSES,
    "reportQuestions": CLASSES,
    "reportSample": CLASSES,
    "listReports": CLASSES,
    "makeReport": CLASSES,
    "reportFile": CLASSES,
    "dropReport": CLASSES,
    "answersFile": CLASSES,
    "listViews": CLASSES,
    "keepView": CLASSES,
    "dropView": CLASSES,
}

# a school leader reads everything of the school, and neither starts nor corrects anything
LEADER = {
    name
    for name, roles in MAY.items()
    if roles in (STAFF, PEOPLE, BANK, SESSIONS, CLASSES)
    or name in ("getMedia", "welcome", "signIn", "joinSession", "whoseCodes", "toProvider", "fromProvider")
    or name in ("askToJoin", "joinState")
} - {
    *(
        *("waitingForScores", "scoringDesk", "giveScore", "withdrawScore", "skipResponse", "raiseSafetyAlert"),
        *("paperSheet", "previewPaperAnswers", "applyPaperAnswers"),
        *("keepPhrase", "dropPhrase", "responseGroups", "scoreGroup"),
        *("releaseTests", "releasePage", "previewRelease", "releaseResults", "withdrawResults", "holdResult"),
        *("familyLetters", "paperAttempts", "paperAttempt", "typeAnswers", "setGoals", "withdrawGoal"),
        *("enterEvidence", "withdrawEvidence", "enterIntervention", "endIntervention", "keepGroup", "changePurpose"),
        *("leaveGroup", "masterySessions", "sessionCounts", "decideSessions", "makePractice"),
        "releaseSession",
        "closeSession",
        "openSessionAgain",
        "settleLateAnswers",
        "markSitting",
        "roomAction",
        "reopenAttempt",
        "irregularities",
        "settleIrregularity",
        "recordAccommodation",
        "sessionCards",
        "makeSubstituteCode",
        "withdrawSubstituteCode",
        "startRound",
        "liveRound",
        "liveScreen",
        "liveEvents",
        "findToAsk",
        "askClass",
        "askAgain",
        "showToClass",
        "endRound",
        "pressDevices",
        "responseDevices",
        "bindDevices",
    ),
    *("enterAccommodation", "changeAccommodation", "endAccommodation", "formChoices", "settleForm"),
    *("assignSupport", "withdrawSupport"),
    *("sessionSheets", "classCodes", "setDoor", "settleRequest", "makeGroup", "tryRule", "changeGroup", "putMembers"),
    *(
        "putStaff",
        "endGroup",
        "sayTaught",
        "scheduleSessions",
        "windowForms",
        "sessionChoices",
        "changeSessions",
        "cancelSessions",
    ),
    *("placeStudents", "unplaceStudent", "splitSession", "mergeSession", "proposeMakeups", "scheduleMakeups"),
    *("suggestCovers", "reassignSessions", "printParticipation", "listRequirements", "setFormSecurity"),
    *("showClasses", "hideClasses", "createItem", "writing", "openDraft", "saveDraft", "discardDraft"),
    *("reviewDraft", "finishDraft", "moveItem", "copyItem", "offerItem", "makeDraws", "createStimulus"),
    *("saveStimulus", "lookAtTags", "tagHistory", "tagItems", "undoTags", "uploadMedia", "createBlueprint"),
    *(
        "saveBlueprint",
        "assembleForms",
        "keepForms",
        "lookAtAssembly",
        "stopAssembly",
        "addCompanionRule",
        "dropCompanionRule",
    ),
    *("makeCompanion", "correctForm", "moveToCorrection", "fillFromUnits", "changeForm", "createForm", "setFormItems"),
    *("publishForm",),
}
# interventionists hold sessions as proctors do
for name in ("calendar", *(name for name, roles in MAY.items() if roles is SESSIONS)):
    MAY[name] = MAY[name] | {"specialist"}
for name in LEADER:
    MAY[name] = MAY[name] | {"leader"}
# a substitute's code opens one session, and these are all that can be done with it
for name in ("getSession", "sessionEvents", "roomAction", "markSitting", "me", "signOut"):
    MAY[name] = MAY[name] | {"substitute"}


class ApiCase(WorldCase):
    """The application in this process, with a browser of each role."""

    def setUp(self) -> None:
        super().setUp()
        self.session = self.open_session(size=4, items=4).session
        self.app = create_app(self.ctx)
        self.teacher = self.teacher_of(self.class_id())

        def passwords(db: Any) -> None:
            for name, kind, role in (
                ("spec", "staff", "specialist"),
                ("writer", "staff", "writer"),
                ("leader", "staff", "leader"),
                ("kin", "family", ""),
            ):
                db.add(
                    person := Person(
                        source_id=f"local:{name}",
                        given=name,
                        family="X",
                        kind=kind,
                        username=name,
                        password_hash=hash_password(PASSWORD),
                    )
                )
                db.flush()
                if role:
                    db.add(Role(person_id=person.id, role=role))
            for person in db.scalars(
                select(Person).where(Person.source_id.in_(("HM-P01",)) | (Person.id == self.teacher.person_id))
            ):
                person.password_hash = hash_password(PASSWORD)

        self.ctx.store.write(passwords)
        with self.ctx.store.read() as db:
            self.class_code = db.scalars(select(SchoolClass.code).where(SchoolClass.id == self.class_id())).one() or ""
            self.names = {
                "coordinator": "boss",
                "specialist": "spec",
                "writer": "writer",
                "leader": "leader",
                "family": "kin",
                "teacher": db.get_one(Person, self.teacher.person_id).username or "",
                "proctor": db.scalars(select(Person.username).where(Person.source_id == "HM-P01")).one() or "",
            }
        self.code = self.codes_of(self.class_id())[0]

    def client(self, role: str) -> TestClient:
        client = TestClient(self.app, raise_server_exceptions=False)
        if role == "student":
            answer = client.post("/api/sit/join", json={"session_code": self.session.code, "own_code": self.code})
        elif role == "pupil":
            answer = client.post("/api/sit/join", json={"session_code": self.class_code, "own_code": self.code})
        elif role == "substitute":
            code = self.client("coordinator").post(f"/api/sessions/{self.session.id}/substitute").json()["code"]
            answer = client.post("/api/substitute", json={"code": code, "name": "Ines Okoro"})
            client.headers["x-bildung-csrf"] = client.get("/api/me").json()["csrf"]
            assert answer.status_code == 200, answer.text
            return client
        elif role in self.names:
            answer = client.post("/api/signin", json={"username": self.names[role], "password": PASSWORD})
        else:
            return client
        assert answer.status_code == 200, answer.text
        client.headers["x-bildung-csrf"] = answer.json()["csrf"]
        return client


class Routes(ApiCase):
    def routes(self) -> list[tuple[str, str, str]]:
        document = self.app.openapi()
        return [
            (entry["operationId"], method.upper(), path)
            for path, methods in document["paths"].items()
            for method, entry in methods.items()
        ]

    def test_every_route_stands_in_the_table(self) -> None:
        self.assertEqual({name for name, _, _ in self.routes()}, set(MAY))

    def test_every_role_on_every_route(self) -> None:
        """Refused at the door is 401 or 403; anything else means that the role got in."""
        last = dict.fromkeys(("signOut", "handIn", "ownSignOut", "familySignOut"), 1) | {"leaveSitting": 2}
        for role in sorted(EVERYBODY):
            client = self.client(role)
            for name, method, path in sorted(self.routes(), key=lambda r: last.get(r[0], 0)):
                if name in ("sessionEvents", "attemptEvents", "liveEvents", "ownLiveEvents") and role in MAY[name]:
                    continue  # a stream that stays open; its door is that of getSession, see below
                answer = client.request(
                    method,
                    re.sub(r"{\w+}", "999999", path),
                    json={} if method != "GET" else None,
                    follow_redirects=False,
                )
                allowed = answer.status_code not in (401, 403)
                self.assertEqual(
                    allowed, role in MAY[name], f"{role} {method} {path}: {answer.status_code} {answer.text[:200]}"
                )
                self.assertLess(answer.status_code, 500, f"{method} {path}")

    def test_a_password_that_was_given_opens_nothing_but_choosing_ones_own(self) -> None:
        boss = self.client("coordinator")
        given = boss.post(f"/api/people/{self.teacher.person_id}/password").json()["password"]
        teacher = TestClient(self.app)
        token = teacher.post("/api/signin", json={"username": self.names["teacher"], "password": given}).json()
        teacher.headers["x-bildung-csrf"] = token["csrf"]
        self.assertTrue(teacher.get("/api/me").json()["must_change"])
        self.assertEqual(teacher.get("/api/sessions").status_code, 403)
        self.assertEqual(teacher.put("/api/me/password", json={"old": given, "new": "my-own-words"}).status_code, 204)
        self.assertEqual(teacher.get("/api/sessions").status_code, 200)

    def test_one_letter_keys_are_off_wherever_who_turned_them_off_signs_in(self) -> None:
        here, there, other = self.client("teacher"), self.client("teacher"), self.client("coordinator")
        self.assertTrue(there.get("/api/me").json()["letter_keys"])
        self.assertEqual(here.put("/api/me/letter-keys", json={"on": False}).status_code, 204)
        self.assertFalse(there.get("/api/me").json()["letter_keys"])
        self.assertTrue(other.get("/api/me").json()["letter_keys"])
        here.put("/api/me/letter-keys", json={"on": True})

    def test_a_write_without_the_token_of_the_page_is_refused(self) -> None:
        client = self.client("coordinator")
        del client.headers["x-bildung-csrf"]
        answer = client.post("/api/forms", json={"name": "x"})
        self.assertEqual(
            (answer.status_code, answer.json()["detail"]), (403, "the page is out of date; reload it and try again")
        )

    def test_signing_in_from_another_site_is_refused(self) -> None:
        client = TestClient(self.app)
        answer = client.post(
            "/api/signin", json={"username": "boss", "password": PASSWORD}, headers={"sec-fetch-site": "cross-site"}
        )
        self.assertEqual(answer.status_code, 403)

    def test_a_signed_out_cookie_opens_nothing(self) -> None:
        client = self.client("coordinator")
        cookie = client.cookies["bildung_staff"]
        client.post("/api/signout")
        again = TestClient(self.app, cookies={"bildung_staff": cookie})
        self.assertEqual(again.get("/api/me").status_code, 401)

    def test_a_wrong_password_says_no_more_than_that(self) -> None:
        said = {
            TestClient(self.app).post("/api/signin", json={"username": name, "password": "wrong"}).json()["detail"]
            for name in ("boss", "nobody-here")
        }
        self.assertEqual(said, {"wrong username or password"})

    def test_sessions_of_others_are_as_if_they_were_not_there(self) -> None:
        proctor = self.client("proctor")
        self.assertEqual(proctor.get(f"/api/sessions/{self.session.id}").status_code, 404)
        self.assertEqual(proctor.get(f"/api/sessions/{self.session.id}/events").status_code, 404)
        self.assertEqual(proctor.get("/api/sessions").json()["sessions"], [])


class StudentSees(ApiCase):
    def test_never_keys_points_codes_or_other_names(self) -> None:
        client = self.client("student")
        text = client.get("/api/sit/paper").text
        paper = client.get("/api/sit/paper").json()
        self.assertEqual(
            set(paper["questions"][0]),
            {"id", "number", "shown", "stimulus", "answer", "part", "hints", "final", "notes", "sketch"},
        )
        for word in ("key", "points", "BAF-", "T-01"):
            self.assertNotIn(word, text)
        with self.ctx.store.read() as db:
            others = db.scalars(select(Person).where(Person.student.is_(True), Person.code != self.code)).all()
        self.assertFalse([p.family for p in others if p.name in text])

    def test_an_answer_sent_is_there_after_a_reload_and_handing_in_twice_is_a_conflict(self) -> None:
        client = self.client("student")
        paper = client.get("/api/sit/paper").json()
        message = {
            "id": "0123456789",
            "question": paper["questions"][0]["id"],
            "answer": "A",
            "takeover": paper["takeover"],
            "sequence": 1,
        }
        if paper["questions"][0]["shown"]["parts"][0]["type"] == "entry":
            message["answer"] = "12"
        receipt = client.post("/api/sit/answers", json={"answers": [message]}).json()
        self.assertEqual(receipt["acknowledged"], ["0123456789"])
        self.assertEqual(client.get("/api/sit/paper").json()["questions"][0]["answer"], message["answer"])
        self.assertEqual(client.post("/api/sit/hand-in").status_code, 200)
        answer = client.post("/api/sit/hand-in")
        self.assertEqual((answer.status_code, answer.headers["content-type"]), (409, "application/problem+json"))
        self.assertIn("already submitted this test; nothing was changed", answer.json()["detail"])


class Problems(ApiCase):
    def test_each_is_one_sentence_with_its_place(self) -> None:
        client = self.client("coordinator")
        for answer, status, said in (
            (
                client.post("/api/people/imports", files=[("files", ("users.csv", b"\xff", "text/csv"))]),
                422,
                "users.csv",
            ),
            (
                client.post("/api/bank/imports", files=[("files", ("i.csv", b"code,type\n", "text/csv"))]),
                422,
                "i.csv, line 1: no column stem, key",
            ),
            (
                client.post("/api/sit/join", json={"session_code": "NOSUCH", "own_code": "X"}),
                422,
                "no session or class with this code",
            ),
            (client.get("/api/forms/none"), 404, "no such form"),
            (client.get("/api/nowhere"), 404, "no such address"),
            (client.post("/api/forms", json={"title": 3}), 422, "name: Field required"),
            (client.get("/api/people", params={"limit": "many"}), 422, "limit"),
        ):
            body = answer.json()
            self.assertEqual((answer.status_code, body["status"]), (status, status), answer.text)
            self.assertIn(said, body["detail"])
            self.assertNotIn("Traceback", answer.text)

    def test_a_body_past_the_limit_is_cut_off(self) -> None:
        client = self.client("coordinator")
        answer = client.post(
            "/api/people/imports",
            content=(b"x" * 2**20 for _ in range(80)),
            headers={"content-type": "multipart/form-data; boundary=b"},
        )
        self.assertEqual((answer.status_code, answer.json()["detail"]), (413, "at most 65 MB are taken at once"))

    def test_numbers_and_addresses_beyond_every_count_are_said_and_no_error_of_ours(self) -> None:
        client = self.client("coordinator")
        for path, status in (
            ("/%00", 404),
            ("/api/bank/items/1/compare?before=9223372036854775808&after=1", 422),
            ("/api/bank/items?offset=99999999999999999999", 422),
            ("/api/building/forms/1/trial?seed=9223372036854775808", 422),
            ("/api/building/forms/1/paper/booklet/pages/9223372036854775808", 422),
            ("/api/forms/99999999999999999999", 404),
        ):
            self.assertEqual(client.get(path).status_code, status, path)

    def test_every_whole_number_in_an_address_has_bounds_in_the_contract(self) -> None:
        loose = [
            (path, parameter["name"])
            for path, methods in self.app.openapi()["paths"].items()
            for method in methods.values()
            for parameter in method.get("parameters", ())
            for schema in (parameter["schema"], *parameter["schema"].get("anyOf", ()))
            if schema.get("type") == "integer" and not {"minimum", "maximum"} <= schema.keys()
        ]
        self.assertEqual(loose, [])

    def test_trouble_that_nobody_foresaw_has_a_number_that_stands_in_the_log(self) -> None:
        client = TestClient(self.app, raise_server_exceptions=False)
        with (
            mock.patch("bildung.services.door.signin.welcome", side_effect=RuntimeError("boom")),
            self.assertLogs("bildung", "ERROR") as log,
        ):
            answer = client.get("/api/welcome").json()
        self.assertIn(f"incident {answer['place']},", log.output[0])
        self.assertIn(answer["place"], answer["detail"])
        self.assertNotIn("boom", answer["detail"])

    def test_the_contract_is_for_staff(self) -> None:
        self.assertEqual(TestClient(self.app).get("/api/openapi.json").status_code, 401)
        self.assertIn("paths", self.client("teacher").get("/api/openapi.json").json())

    def test_pages_carry_headers_that_ask_for_nothing_and_transport_security_where_it_is_secure(self) -> None:
        plain = TestClient(self.app).get("/").headers
        secure = TestClient(self.app, base_url="https://school.example").get("/").headers
        self.assertIn("camera=()", plain["permissions-policy"])
        self.assertEqual(plain["cross-origin-opener-policy"], "same-origin")
        self.assertNotIn("strict-transport-security", plain)
        self.assertEqual(secure["strict-transport-security"], "max-age=31536000")

    def test_a_wait_is_said_in_the_answer_too(self) -> None:
        client = TestClient(self.app)
        for _ in range(5):
            client.post("/api/signin", json={"username": "boss", "password": "wrong"})
        answer = client.post("/api/signin", json={"username": " BOSS ", "password": "wrong"})
        self.assertEqual((answer.status_code, answer.headers["retry-after"]), (429, "1"))

    def test_pages_carry_a_strict_policy_and_never_leave_their_folder(self) -> None:
        client = TestClient(self.app)
        answer = client.get("/sessions/3")
        policy = answer.headers["content-security-policy"]
        self.assertIn("default-src 'none'", policy)
        self.assertNotIn("unsafe-inline", policy.split("style-src")[0])
        for path in ("/../pyproject.toml", "/..%2f..%2fpyproject.toml", "/%2e%2e/%2e%2e/pyproject.toml"):
            self.assertNotIn("build-system", client.get(path).text)
