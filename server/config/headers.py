"""A content security policy: everything comes from the application itself. What a secret link leads to is in no index, and its address is told to nobody.
And how long an answer of the API took, by the clock and by the processor, for a browser's own tools to show."""

from __future__ import annotations

import time
from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

POLICY = (
    "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self'; "
    "connect-src 'self'; frame-ancestors 'none'; base-uri 'self'; form-action 'self'"
)

SHARED = ("/shared/", "/api/shared/", "/api/calendars/")


def content_security_policy(
    get_response: Callable[[HttpRequest], HttpResponse],
) -> Callable[[HttpRequest], HttpResponse]:
    def middleware(request: HttpRequest) -> HttpResponse:
        response = get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        if request.path.startswith(SHARED):
            response.headers["X-Robots-Tag"] = "noindex, nofollow"
            response.headers["Referrer-Policy"] = "no-referrer"
            response.headers.setdefault("Cache-Control", "private, no-store")
        return response

    return middleware


def server_timing(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    def middleware(request: HttpRequest) -> HttpResponse:
        began, worked = time.perf_counter(), time.thread_time()
        response = get_response(request)
        if request.path.startswith("/api/"):
            whole, work = time.perf_counter() - began, time.thread_time() - worked
            response.headers["Server-Timing"] = f"all;dur={1e3 * whole:.1f}, work;dur={1e3 * work:.1f}"
        return response

    return middleware
