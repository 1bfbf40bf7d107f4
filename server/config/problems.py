"""The one shape of everything that goes wrong (RFC 9457), also where Django itself answers."""

from __future__ import annotations

import json
import sys
from collections.abc import Callable, Sequence
from dataclasses import asdict
from http import HTTPStatus
from typing import Any

from django.core.exceptions import DisallowedHost, RequestDataTooBig, SuspiciousOperation
from django.db import InterfaceError, OperationalError
from django.http import HttpRequest, HttpResponse, UnreadablePostError

from ember_core import Problem

from .watch import OverTime

MEDIA_TYPE = "application/problem+json"
LARGEST_BODY = 18_000_000  # bytes: two measured discharges of the largest size, with room for the form
RETRY_AFTER_S = 5  # what a client is told to wait where the database does not answer


def problem_response(
    status: int, title: str, errors: Sequence[Problem] = (), *, retry_after_s: int | None = None, **more: Any
) -> HttpResponse:
    """An answer that says no: a title, and the problems at their places."""
    body = {
        "type": "about:blank",
        "title": title,
        "status": status,
        "errors": [asdict(e) for e in errors],
        **more,
    }
    response = HttpResponse(json.dumps(body), status=status, content_type=MEDIA_TYPE)
    if retry_after_s is not None:
        response.headers["Retry-After"] = str(retry_after_s)
    return response


def for_exception(error: BaseException | None) -> HttpResponse:
    """What is said of an exception that nobody handled."""
    match error:
        case OperationalError() | InterfaceError():
            return problem_response(503, "The database does not answer. Nothing was saved; try again in a moment",
                                    retry_after_s=RETRY_AFTER_S)  # fmt: skip
        case OverTime():
            return problem_response(503, "This took too long and was ended. Nothing was saved",
                                    [Problem("", "needs more time than a request may take; make the design smaller")])  # fmt: skip
        case MemoryError():
            return problem_response(503, "This needs too much memory and was ended. Nothing was saved",
                                    [Problem("", "needs too much memory; make the design smaller")])  # fmt: skip
        case RequestDataTooBig():
            return problem_response(413, "The upload is too large", [Problem("", "is larger than 6 MB")])
        case UnreadablePostError():
            return problem_response(400, "The request broke off while it was read. Nothing was saved")
        case _:
            return problem_response(500, "Something went wrong here, not with you. Nothing was saved")


def server_error(request: HttpRequest) -> HttpResponse:
    """Django's handler for exceptions; runs while the exception is the current one."""
    return for_exception(sys.exc_info()[1])


def one_shape(get_response: Callable[[HttpRequest], HttpResponse]) -> Callable[[HttpRequest], HttpResponse]:
    """The host and the announced length are checked before anything is read, and below /api/ every refusal has the one
    shape."""

    def middleware(request: HttpRequest) -> HttpResponse:
        try:
            request.get_host()
        except DisallowedHost:
            return problem_response(400, "This address is not served here", [Problem("", "unknown host name")])
        if _length(request) > LARGEST_BODY:
            said = Problem("", f"is larger than {LARGEST_BODY / 1e6:.0f} MB")
            return problem_response(413, "The upload is too large", [said])
        try:
            response = get_response(request)
        except SuspiciousOperation:
            return problem_response(400, "The request can't be used")
        if not request.path.startswith("/api/") or response.status_code < HTTPStatus.BAD_REQUEST:
            return response
        if response.headers.get("Content-Type") == MEDIA_TYPE:
            return response
        shaped = problem_response(response.status_code, _TITLES.get(response.status_code, response.reason_phrase))
        if "Allow" in response.headers:
            shaped.headers["Allow"] = response.headers["Allow"]
        return shaped

    return middleware


def _length(request: HttpRequest) -> int:
    """The announced length of the body [bytes]; the web server does not hand on more than was announced."""
    announced = str(request.META.get("CONTENT_LENGTH") or "0")
    return int(announced) if announced.isdecimal() else 0


_TITLES = {
    400: "The request can't be used",
    403: "The request did not come from this page; reload it and try again",
    404: "There is no such address",
    405: "This can't be done at this address",
    413: "The upload is too large",
}
