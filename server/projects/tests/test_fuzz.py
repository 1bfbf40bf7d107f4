"""Calls and documents that nobody thought of: none makes the server fail, and every refusal has the one shape.

A short seeded run belongs to the tests. A long one: EMBER_FUZZ_CALLS=20000 EMBER_FUZZ_DOCUMENTS=5000 EMBER_FUZZ_SEED=2
./ember test projects.tests.test_fuzz
"""

from __future__ import annotations

import copy
import json
import logging
import os
import random
import time
from collections import Counter
from typing import Any

import requests
from django.conf import settings
from hypothesis import HealthCheck, Phase, given, seed
from hypothesis import settings as hypothesis_settings
from schemathesis import openapi

from config.api import api
from config.problems import MEDIA_TYPE

from .helpers import ApiTestCase

CALLS = int(os.environ.get("EMBER_FUZZ_CALLS", "320"))
DOCUMENTS = int(os.environ.get("EMBER_FUZZ_DOCUMENTS", "40"))
SEED = int(os.environ.get("EMBER_FUZZ_SEED", "1"))
ANSWERS = (
    "remedies",
    "cells",
    "savings",
    "range",
    "outlook",
    "intervals",
    "soc-table",
    "day",
    "charge",
    "heat",
    "rail/main",
    "rail/main-33",
)


class Fuzzed(ApiTestCase):
    def setUp(self) -> None:
        super().setUp()
        self.client.raise_request_exception = False
        logging.disable(logging.CRITICAL)
        self.addCleanup(logging.disable, logging.NOTSET)
        self.seen: Counter[int] = Counter()
        self.slowest = (0.0, "")
        self.failed: list[str] = []

    def call(self, label: str, method: str, path: str, body: Any, headers: dict[str, str]) -> None:
        began = time.perf_counter()
        kind = headers.pop("Content-Type", "application/json")
        response = self.client.generic(method, path, body or b"", content_type=kind, headers=headers)
        self.slowest = max(self.slowest, (time.perf_counter() - began, label))
        self.seen[response.status_code] += 1
        shaped = response.status_code < 400 or response.headers.get("Content-Type") == MEDIA_TYPE
        if response.status_code >= 500 or not shaped:
            self.failed.append(f"{response.status_code} {label} {path} {str(body)[:2000]}")

    def judge(self) -> None:
        if CALLS + DOCUMENTS > 2000:
            print(dict(self.seen), "slowest", self.slowest)
        labels = Counter(" ".join(f.split()[:3]) for f in self.failed)
        self.assertEqual(self.failed[:5], [], f"{len(self.failed)} failed: {labels}")


class Calls(Fuzzed):
    def test_no_call_makes_the_server_fail(self) -> None:
        variant = self.new_variant()
        real = {"variant_id": variant["id"], "project_id": variant["project"]["id"], "revision_id": variant["revision"]["id"],
                "rail_id": "main"}  # fmt: skip
        operations = [found.ok() for found in openapi.from_dict(api.get_openapi_schema()).get_all_operations()]  # type: ignore[union-attr]
        for operation in operations:
            self._try(operation, real, max(2, CALLS // len(operations)))
        self.assertGreater(self.seen[200], CALLS // 20)  # not everything bounced off
        self.judge()

    def _try(self, operation: Any, real: dict[str, Any], calls: int) -> None:
        @seed(SEED)
        @hypothesis_settings(
            max_examples=calls, database=None, deadline=None, phases=[Phase.generate],
            suppress_health_check=list(HealthCheck),
        )  # fmt: skip
        @given(case=operation.as_strategy())
        def work(case: Any) -> None:
            for name in case.path_parameters or {}:
                if name in real and hash(str(case.body)) % 3:
                    case.path_parameters[name] = real[name]
            try:
                request = requests.Request(**case.as_transport_kwargs(base_url="http://testserver")).prepare()
            except (UnicodeError, requests.RequestException, ValueError):
                return  # can't be put on a wire
            headers = {name: str(value) for name, value in request.headers.items() if name != "Cookie"}
            self.client.force_login(self.ada)
            self.call(operation.label, str(request.method), request.path_url, request.body, headers)

        work()


class Documents(Fuzzed):
    def test_no_distorted_document_makes_the_server_fail(self) -> None:
        choose = random.Random(SEED)
        originals = [json.loads(p.read_text()) for p in sorted((settings.ROOT / "demo").glob("*.json"))]
        for i in range(DOCUMENTS):
            body = json.dumps(distorted(choose.choice(originals), choose))
            self.call(f"document {i}", "POST", "/api/evaluate", body, {})
            if i % 5 == 0:
                self.call(f"answer {i}", "POST", f"/api/answers/{ANSWERS[i // 5 % len(ANSWERS)]}", body, {})

        self.judge()


VALUES: tuple[Any, ...] = (None, True, "", " ", "x" * 200, "\x00", "=1+1", 0, -1, 1, 7, 1e-320, 1e-300, 1e-12, 1e-3, 0.999999, 1e3, 1e9, 1e15, 1e308, -1e-9,
          10**40, [], {}, [0], "battery", "main", "off")  # fmt: skip


def distorted(document: dict[str, Any], choose: random.Random) -> dict[str, Any]:
    """A copy with one to four of its places changed: a value of another kind or size, something left out, doubled, moved or
    taken from another place."""
    changed = copy.deepcopy(document)
    for _ in range(choose.choice((1, 1, 1, 2, 2, 3, 4))):
        places = list(_places(changed))
        numbers = [(h, k) for h, k in places if isinstance(h[k], int | float) and not isinstance(h[k], bool)]
        lists = [(h, k) for h, k in places if isinstance(h[k], list)]
        holder, key = choose.choice(numbers if choose.random() < 0.6 else lists if choose.random() < 0.3 else places)
        value = holder[key]
        if (holder, key) in numbers and choose.random() < 0.8:
            holder[key] = (
                value * 10 ** choose.uniform(-2, 2) ** choose.choice((1, 3)) if value else choose.choice(VALUES)
            )
        elif isinstance(value, list) and choose.random() < 0.8:
            holder[key] = choose.sample(value, len(value)) * choose.choice((1, 1, 2, 40))
            del holder[key][choose.choice((0, 1, 3, 200)) :]
        elif isinstance(holder, dict) and choose.random() < 0.3:
            del holder[key]
        elif choose.random() < 0.5:
            holder[key] = choose.choice(VALUES)
        else:
            other, place = choose.choice(places)
            holder[key] = copy.deepcopy(other[place])
    return changed


def _places(value: Any) -> Any:
    """Every place in a document, as what holds it and its key there."""
    for key in value if isinstance(value, dict) else range(len(value)):
        yield value, key
        if isinstance(value[key], dict | list):
            yield from _places(value[key])
