"""Routes of accounts and sessions."""

from __future__ import annotations

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Schema
from ninja.errors import HttpError
from ninja.utils import check_csrf
from pydantic import Field

from . import services

router = Router(tags=["account"])


class SessionOut(Schema):
    user: str | None
    demo: bool = Field(description="the demo account is offered")


class Credentials(Schema):
    name: str = Field(max_length=150)
    password: str = Field(max_length=200)


class PasswordChange(Schema):
    old: str = Field(max_length=200)
    new: str = Field(max_length=200)


def visitor(request: HttpRequest) -> bool:
    """For routes that need no account: still no requests from other sites."""
    if check_csrf(request) is not None:
        raise HttpError(403, "The request did not come from this page; reload it and try again")
    return True


def _session(request: HttpRequest) -> SessionOut:
    get_token(request)  # sets the CSRF cookie
    user = request.user
    return SessionOut(user=user.get_username() if user.is_authenticated else None, demo=settings.DEMO)


@router.get("/session", response=SessionOut, auth=None)
def read_session(request: HttpRequest) -> SessionOut:
    return _session(request)


@router.post("/session", response=SessionOut, auth=visitor)
def sign_in(request: HttpRequest, response: HttpResponse, body: Credentials) -> SessionOut:
    services.sign_in(request, body.name, body.password)
    services.remember_browser(response, body.name)
    return _session(request)


@router.post("/session/demo", response=SessionOut, auth=visitor)
def sign_in_demo(request: HttpRequest) -> SessionOut:
    services.sign_in_demo(request)
    return _session(request)


@router.delete("/session", response=SessionOut)
def sign_out(request: HttpRequest) -> SessionOut:
    services.sign_out(request)
    return _session(request)


@router.post("/account", response=SessionOut, auth=visitor)
def sign_up(request: HttpRequest, response: HttpResponse, body: Credentials) -> SessionOut:
    services.sign_up(request, body.name, body.password)
    services.remember_browser(response, body.name)
    return _session(request)


@router.post("/account/password", response=SessionOut)
def change_password(request: HttpRequest, body: PasswordChange) -> SessionOut:
    services.change_password(request, request.user, body.old, body.new)  # type: ignore[arg-type]
    return _session(request)
