"""A client with two people and a document to work on."""

from __future__ import annotations

import json
from typing import Any

from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import TestCase

from ember_core.imports.new_gadget import new_gadget
from ember_core.imports.parts_list import read_parts_list

PARTS = b"name,sleep [uA],active [mA]\nBrain,12,46\nEar,0.5,0.65\n"


def document() -> dict[str, Any]:
    return new_gadget("Bell", read_parts_list(PARTS)).model_dump(mode="json")


class ApiTestCase(TestCase):
    def setUp(self) -> None:
        self.ada = User.objects.create_user("ada", password="ember-and-ash-7")
        self.bo = User.objects.create_user("bo", password="ember-and-ash-8")
        self.client.force_login(self.ada)

    def send(self, method: str, path: str, body: Any = None, status: int = 200) -> Any:
        data = body if isinstance(body, bytes | str) else json.dumps(body)
        response = self.client.generic(method, f"/api{path}", data, content_type="application/json")
        self.assertEqual(response.status_code, status, response.content[:600])
        return response.json() if response.content else None

    def upload(self, path: str, content: bytes, status: int = 200, **fields: str) -> Any:
        file = SimpleUploadedFile("file", content)
        response = self.client.post(f"/api{path}", {"file": file, **fields})
        self.assertEqual(response.status_code, status, response.content[:600])
        return response.json()

    def new_variant(self) -> dict[str, Any]:
        project = self.upload("/projects/from-parts", PARTS, name="Bell")
        made: dict[str, Any] = self.send("GET", f"/variants/{project['variants'][0]['id']}")
        return made

    def save(self, variant: dict[str, Any], design: dict[str, Any], status: int = 200, **more: Any) -> Any:
        body = {"base": variant["revision"]["id"], "design": design, **more}
        return self.send("POST", f"/variants/{variant['id']}/revisions", body, status)
