"""The API below /api/; every other path is the interface, which routes by itself."""

from __future__ import annotations

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


handler500 = "config.problems.server_error"
urlpatterns = [
    path("api/", api.urls),
    re_path(r"^(?!api/|assets/|static/).*$", interface),
]
