"""The API's own document: everything it answers is said, and said by one name."""

import json
import re
from typing import Any
from unittest import mock

from django.test import SimpleTestCase

from beacon.api import _document_made, api
from wary.job.closing import OUTCOMES, STATES
from wary.rules.assessment import ADJUST, FIND_FAULT, KEEP_TESTING, LEAVE, NOT_READY

FILES = re.compile(r"\.(json|pdf|csv|xlsx)$|/live$")
"""What answers with a file or a stream, and not with JSON of the API's own."""


class Document(SimpleTestCase):
    document: dict[str, Any]
    schemas: dict[str, Any]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.document = json.loads(json.dumps(api.get_openapi_schema(), default=str))
        cls.schemas = cls.document["components"]["schemas"]

    def test_it_is_made_once_and_whoever_has_it_is_told_that_it_is_the_same(self) -> None:
        _document_made.cache_clear()
        with mock.patch.object(api, "get_openapi_schema", wraps=lambda: self.document) as made:
            first, again = (self.client.get("/api/openapi.json") for _ in range(2))
            same = self.client.get("/api/openapi.json", headers={"If-None-Match": first["ETag"]})
            other = self.client.get("/api/openapi.json", headers={"If-None-Match": '"another"'})
        self.addCleanup(_document_made.cache_clear)
        self.assertEqual(made.call_count, 1)
        self.assertEqual((first.status_code, same.status_code, other.status_code), (200, 304, 200))
        self.assertEqual((first.json(), first.content, same.content), (self.document, again.content, b""))

    def bare(self, schema: Any, where: str) -> list[str]:
        """Every place in a schema that says nothing of what stands there."""
        if isinstance(schema, list):
            return [found for number, one in enumerate(schema) for found in self.bare(one, f"{where}[{number}]")]
        if not isinstance(schema, dict):
            return []
        found = []
        if set(schema) <= {"title", "description", "default"}:
            found.append(where)
        if schema.get("additionalProperties") is True or (
            schema.get("type") == "object" and not set(schema) & {"properties", "additionalProperties", "$ref", "allOf"}
        ):
            found.append(f"{where}: anything")
        for key in ("properties", "$defs"):
            for name, one in schema.get(key, {}).items():
                found += self.bare(one, f"{where}.{name}")
        for key in ("items", "additionalProperties", "anyOf", "oneOf", "allOf"):
            if key in schema and schema[key] is not False and schema[key] is not True:
                found += self.bare(schema[key], f"{where}.{key}")
        return found

    def test_nothing_answers_with_just_anything(self) -> None:
        for path, methods in self.document["paths"].items():
            for method, one in methods.items():
                for status, answer in one["responses"].items():
                    for kind, content in answer.get("content", {}).items():
                        where = f"{method} {path} {status} {kind}"
                        if not FILES.search(path):
                            self.assertEqual(self.bare(content.get("schema", {}), where), [], where)

    def test_no_schema_holds_just_anything(self) -> None:
        for name, schema in self.schemas.items():
            self.assertEqual(self.bare(schema, name), [], name)

    def test_calls_states_and_outcomes_are_enumerations(self) -> None:
        calls = self.schemas["StageView"]["properties"]["call"]["enum"]
        self.assertEqual(set(calls), {NOT_READY, KEEP_TESTING, FIND_FAULT, ADJUST, LEAVE})
        self.assertEqual(set(self.schemas["WayView"]["properties"]["outcome"]["enum"]), set(OUTCOMES))
        self.assertEqual(set(self.schemas["SystemRow"]["properties"]["state"]["enum"]), set(STATES))
        self.assertIn("enum", self.schemas["Input"]["properties"]["kind"])

    def test_steps_tools_and_drawings_are_told_apart_by_their_kind(self) -> None:
        text = json.dumps(self.schemas)
        for discriminator in ('"propertyName": "kind"', '"propertyName": "tool"', '"propertyName": "shape"'):
            self.assertIn(discriminator, text)

    def test_every_endpoint_says_what_it_is_for(self) -> None:
        for path, methods in self.document["paths"].items():
            for method, one in methods.items():
                self.assertTrue(one.get("description") or one.get("summary"), f"{method} {path}")
                self.assertTrue(one.get("tags"), f"{method} {path}")
