"""The API below /api/; every other path is the interface, which routes by itself."""

from __future__ import annotations

import hashlib
import json
from functools import cache

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.urls import path, re_path

from .api import api

NOT_BUILT = "The interface is not built yet. './ember start' builds it."


def interface(request: HttpRequest) -> HttpResponse:
    page = settings.WEB_DIST / "index.html"
    if not page.exists():
        return HttpResponse(NOT_BUILT, status=503, content_type="text/plain")
    response = HttpResponse(page.read_bytes())
    response.headers["Cache-Control"] = "no-cache"
    return response


@cache
def _description() -> tuple[bytes, str]:
    """The API's description and its tag: it does not change while the process lives."""
    text = json.dumps(api.get_openapi_schema(), default=str).encode()
    return text, f'"{hashlib.sha256(text).hexdigest()[:32]}"'


def description(request: HttpRequest) -> HttpResponse:
    text, tag = _description()
    same = tag in request.headers.get("If-None-Match", "")
    response = HttpResponse(status=304) if same else HttpResponse(text, content_type="application/json")
    response.headers["ETag"] = tag
    response.headers["Cache-Control"] = "no-cache"
    return response


handler500 = "config.problems.server_error"
urlpatterns = [
    path("api/openapi.json", description),
    path("api/", api.urls),
    re_path(r"^(?!api/|assets/|static/).*$", interface),
]
