"""The bank over the wire: drafts with their conflicts, pictures for who is signed in, what students never get."""

from __future__ import annotations

import io
import zipfile
from typing import Any

from starlette.testclient import TestClient

from tests.api.shared.test_access import ApiCase
from tests.formats.samples import ITEMS
from tests.formats.test_content import picture


class BankWire(ApiCase):
    def draft(self, client: TestClient, code: str, content: Any) -> dict[str, Any]:
        made = client.post("/api/bank/items", json={"code": code, "subject": "Mathematics", "grade": "5"})
        self.assertEqual(made.status_code, 201, made.text)
        first = client.post(f"/api/bank/items/{made.json()['item_id']}/draft").json()
        saved = client.put(
            f"/api/bank/items/{first['item_id']}/draft",
            json={"revision": first["revision"], "content": content, "standards": []},
        )
        self.assertEqual(saved.status_code, 200, saved.text)
        return dict(saved.json())

    def test_a_draft_saved_on_an_old_revision_is_a_conflict_and_a_bad_one_names_its_place(self) -> None:
        client = self.client("coordinator")
        draft = self.draft(client, "W-1", ITEMS["order"].model_dump())
        path = f"/api/bank/items/{draft['item_id']}/draft"
        old = client.put(path, json={"revision": 1, "content": draft["content"]})
        self.assertEqual((old.status_code, old.headers["content-type"]), (409, "application/problem+json"))
        self.assertIn("Hanne Quill changed this item in the meantime", old.json()["detail"])
        for content, place in (
            ({"shown": {"body": "x", "parts": [{"type": "drawing"}]}, "scoring": []}, "parts"),
            ({"scoring": []}, "shown"),
        ):
            bad = client.put(path, json={"revision": draft["revision"], "content": content})
            self.assertEqual(bad.status_code, 422)
            self.assertIn(place, bad.text)
        self.assertEqual(client.post(path).json()["revision"], draft["revision"], "nothing of it was kept")

    def test_an_answer_is_tried_and_a_slip_in_it_is_told(self) -> None:
        client = self.client("writer")
        tried = client.post(
            "/api/bank/try", json={"content": ITEMS["match"].model_dump(), "answers": {"1": "r=u"}}
        ).json()
        self.assertEqual((tried["points"], tried["maximum"], tried["said"]), (1.0, 2.0, "1 of 2 points."))
        bad = client.post("/api/bank/try", json={"content": ITEMS["match"].model_dump(), "answers": {"1": "r=nowhere"}})
        self.assertEqual((bad.status_code, bad.json()["place"]), (422, "answer"))

    def test_a_picture_is_for_who_is_signed_in(self) -> None:
        client = self.client("coordinator")
        kept = client.post("/api/bank/media", files={"file": ("h.png", picture(), "image/png")}).json()
        for role, status in (("coordinator", 200), ("student", 200), ("pupil", 200), ("family", 200), ("nobody", 401)):
            answer = self.client(role).get(kept["address"])
            self.assertEqual(answer.status_code, status, role)
        self.assertEqual(client.get(kept["address"]).headers["x-content-type-options"], "nosniff")
        self.assertEqual(client.get("/api/media/..%2f..%2fbildung.sqlite").status_code, 404)
        refused = client.post("/api/bank/media", files={"file": ("x.svg", b"<svg onload='a()'/>", "image/svg+xml")})
        self.assertEqual((refused.status_code, refused.json()["place"]), (422, "file"))

    def test_a_student_gets_the_stimulus_without_what_staff_call_it(self) -> None:
        client = self.client("coordinator")
        made = client.post(
            "/api/bank/stimuli",
            json={"code": "SECRET-CODE", "title": "The tide", "kind": "passage", "html": "<p>It came.</p>"},
        )
        draft = self.draft(client, "W-2", ITEMS["choice"].model_dump())
        path = f"/api/bank/items/{draft['item_id']}"
        saved = client.put(
            f"{path}/draft",
            json={"revision": draft["revision"], "content": draft["content"], "stimulus_id": made.json()["item_id"]},
        ).json()
        self.assertEqual(client.post(f"{path}/draft/finish", json={"revision": saved["revision"]}).status_code, 204)
        version = client.get(path).json()["item"]["version_id"]
        form = client.post("/api/forms", json={"name": "With a passage"}).json()
        form = client.put(f"/api/forms/{form['id']}/items", json={"revision": 1, "items": [version]}).json()
        client.post(f"/api/forms/{form['id']}/publish", json={"revision": form["revision"]})
        day = self.ctx.clock()
        planned = client.post(
            "/api/sessions",
            json={
                "form_id": form["id"],
                "window_id": str(self.window_id),
                "class_ids": [str(self.class_id("Reading"))],
                "start": day.isoformat(),
                "end": day.replace(hour=13).isoformat(),
                "why": "a test may run on any day",
            },
        )
        self.assertEqual(planned.status_code, 201, planned.text)
        code = client.get(f"/api/sessions/{planned.json()['ids'][0]}").json()["session"]["code"]
        student = TestClient(self.app)
        joined = student.post("/api/sit/join", json={"session_code": code, "own_code": self.code})
        self.assertEqual(joined.status_code, 200, joined.text)
        answer = student.get("/api/sit/paper")
        question = answer.json()["questions"][0]
        self.assertEqual(set(question["stimulus"]), {"title", "kind", "html", "numbered", "media", "told", "credit"})
        for word in ("SECRET-CODE", "compares instead", "Halve it", "Draw it", '"key"'):
            self.assertNotIn(word, answer.text)

    def test_what_is_exported_is_a_package_and_a_line_that_finds_nothing_is_told(self) -> None:
        client = self.client("teacher")
        look = client.get("/api/bank/exports", params={"way": "qti"}).json()
        self.assertEqual((look["items"], look["whole"]), (4, 4))
        file = client.get("/api/bank/exports/file", params={"way": "qti"})
        self.assertIn("imsmanifest.xml", zipfile.ZipFile(io.BytesIO(file.content)).namelist())
        for params, place in (
            ({"way": "qti", "find": "code:NONE"}, "find"),
            ({"way": "fax"}, "way"),
            ({"way": "qti", "find": "p<x"}, "find"),
        ):
            answer = client.get("/api/bank/exports", params=params)
            self.assertEqual((answer.status_code, answer.json()["place"]), (422, place))
