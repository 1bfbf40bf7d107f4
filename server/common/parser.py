"""JSON bodies are read by the core's reader: with limits on size and depth, and no NaN or infinities."""

from __future__ import annotations

from typing import Any

from django.http import HttpRequest
from ninja.parser import Parser

from ember_core.design.problems import read_json


class CoreParser(Parser):
    def parse_body(self, request: HttpRequest) -> Any:
        return read_json(request.body)
