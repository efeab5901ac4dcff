"""What leaves the server has the shape that the contract says."""

from __future__ import annotations

import json
import re
import unittest
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated, Any

from fastapi import FastAPI
from fastapi.testclient import TestClient
from pydantic import BaseModel, TypeAdapter

from bildung.api.shared import contract
from bildung.services.shared.wire import Id, Named, Ref, Word, listed

UI = Path(__file__).parents[3] / "ui" / "openapi.json"


@dataclass(frozen=True)
class Line:
    """id: of the item."""

    id: Id
    answers: Annotated[list[tuple[str, int]], listed(Named)]
    words: Annotated[list[tuple[str, str]], listed(Word)]
    range: tuple[float, float]
    note: str = ""


class Sent(BaseModel):
    word: str = "none"


class Wire(unittest.TestCase):
    def test_an_id_beyond_what_a_browser_counts_arrives_whole(self) -> None:
        whole = 2**53 + 1
        said = TypeAdapter(Ref).dump_json(Ref(whole, "Otter"))
        self.assertEqual(json.loads(said), {"id": "9007199254740993", "name": "Otter"})

    def test_rows_of_a_list_arrive_as_objects_with_names(self) -> None:
        line = Line(7, [("A", 12), ("B", 0)], [("why", "too hard")], (0.25, 0.5))
        self.assertEqual(
            json.loads(TypeAdapter(Line).dump_json(line)),
            {
                "id": "7",
                "answers": [{"name": "A", "value": 12}, {"name": "B", "value": 0}],
                "words": [{"name": "why", "value": "too hard"}],
                "range": [0.25, 0.5],
                "note": "",
            },
        )

    def test_what_an_answer_says_by_default_is_there_all_the_same(self) -> None:
        app = FastAPI()

        @app.post("/line", operation_id="line")
        def line(sent: Sent) -> Line:
            return Line(1, [], [], (0, 1), sent.word)

        contract.install(app)
        schemas = app.openapi()["components"]["schemas"]
        self.assertEqual(schemas["Line"]["required"], ["id", "answers", "words", "range", "note"])
        self.assertNotIn("default", schemas["Line"]["properties"]["note"])
        self.assertNotIn("required", schemas["Sent"])  # whoever asks may skip this column
        self.assertEqual(schemas["Line"]["properties"]["id"]["type"], "string")
        pair = schemas["Line"]["properties"]["range"]
        self.assertEqual((pair["items"]["type"], pair["minItems"], pair["maxItems"]), ("number", 2, 2))
        self.assertEqual(TestClient(app).post("/line", json={}).json()["note"], "none")


class Contract(unittest.TestCase):
    """The contract as it is written for the pages."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.document: dict[str, Any] = json.loads(UI.read_text("utf-8"))
        cls.schemas: dict[str, Any] = cls.document["components"]["schemas"]
        cls.routes = [
            (path, method, route) for path, way in cls.document["paths"].items() for method, route in way.items()
        ]

    def reached(self, part: str) -> set[str]:
        return contract._named(self.document["paths"], part, self.schemas)

    def test_every_field_of_every_answer_is_always_there(self) -> None:
        answers = self.reached("responses") - self.reached("requestBody") - {contract.PROBLEM}
        self.assertGreater(len(answers), 200)
        lax = {
            name: set(schema["properties"]) - set(schema.get("required", ()))
            for name in answers
            if "properties" in (schema := self.schemas[name])
        }
        self.assertEqual({name: fields for name, fields in lax.items() if fields}, {})

    def test_an_id_is_text_wherever_it_stands(self) -> None:
        numbers = [
            f"{name}.{field}"
            for name, schema in self.schemas.items()
            for field, kind in schema.get("properties", {}).items()
            if (field == "id" or field.endswith("_id")) and kind.get("type") in ("integer", "number")
        ]
        self.assertEqual(numbers, [])

    def test_names_are_plain_and_mean_one_thing(self) -> None:
        plain = re.compile(r"(Body_)?[A-Za-z0-9]+")  # FastAPI's own word for the parts of an upload
        self.assertEqual([name for name in self.schemas if not plain.fullmatch(name)], [])
        operations = [route["operationId"] for _, _, route in self.routes]
        self.assertEqual(len(operations), len(set(operations)))
        self.assertEqual([o for o in operations if not re.fullmatch(r"[a-z][A-Za-z0-9]*", o)], [])

    def test_every_route_says_how_it_refuses(self) -> None:
        silent = []
        for path, method, route in self.routes:
            problems = [
                code
                for code, answer in route["responses"].items()
                if code >= "400" and contract.PROBLEM in json.dumps(answer)
            ]
            if not problems:
                silent.append(f"{method} {path}")
        self.assertEqual(silent, [])

    def test_no_reading_takes_a_body_and_no_part_of_a_path_is_left_unsaid(self) -> None:
        for path, method, route in self.routes:
            with self.subTest(f"{method} {path}"):
                self.assertFalse(method == "get" and "requestBody" in route)
                told = {p["name"] for p in route.get("parameters", ()) if p["in"] == "path"}
                self.assertEqual(set(re.findall(r"{(\w+)}", path)), told)
