"""Accounts: sign-up, sign-in, password change."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, password_validation, update_session_auth_hash
from django.contrib.auth.models import User
from django.core import signing
from django.core.exceptions import ValidationError
from django.core.validators import RegexValidator
from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse

from common.errors import Refused
from ember_core import Problem

from . import throttle

KNOWN, KNOWN_S = (
    "known-browser",
    60 * 60 * 24 * 365,
)  # the cookie of a browser that an account signed in with, and how long it holds
USER_NAME = RegexValidator(r"^[\w.@+-]{3,40}\Z")


def sign_up(request: HttpRequest, name: str, password: str) -> User:
    """A new account, signed in. Raises Refused with the problem at the field."""
    problems = []
    try:
        USER_NAME(name)
    except ValidationError:
        problems.append(Problem("/name", "takes 3 to 40 letters, digits and . @ + - _"))
    problems += _password_problems("/password", password, User(username=name))
    if problems:
        raise Refused(422, "The account can't be made", problems)
    throttle.take([(throttle.SIGN_UPS_FROM_ADDRESS, _address(request))], "/name")
    try:
        with transaction.atomic():
            user = User.objects.create_user(username=name, password=password)
    except IntegrityError:
        raise Refused(422, "The account can't be made", [Problem("/name", f"{name!r} is taken")]) from None
    login(request, user)
    return user


def sign_in(request: HttpRequest, name: str, password: str) -> User:
    """Signs in. Raises Refused where name and password do not match, or after too many that did not (429)."""
    known = _known_here(request, name)
    there = "a browser that it signed in with" if known else _address(request)
    counts = [(throttle.WRONG_FROM_THERE, f"{name} {there}"), (throttle.WRONG_FROM_ADDRESS, _address(request))]
    counts += [] if known else [(throttle.WRONG_FOR_ACCOUNT, name)]
    taken = throttle.take(counts, "/password")
    user = authenticate(request, username=name, password=password)
    if user is None:
        raise Refused(422, "Name and password do not match", [Problem("/password", "does not match this name")])
    throttle.give_back(taken)
    login(request, user)
    assert isinstance(user, User)
    return user


def remember_browser(response: HttpResponse, name: str) -> None:
    """Sets the cookie by which this browser is known to have signed in with an account."""
    response.set_cookie(
        KNOWN, signing.dumps(name.casefold(), salt=KNOWN), max_age=KNOWN_S, httponly=True, samesite="Lax",
    )  # fmt: skip


def _known_here(request: HttpRequest, name: str) -> bool:
    try:
        known = signing.loads(request.COOKIES.get(KNOWN, ""), salt=KNOWN, max_age=KNOWN_S)
    except signing.BadSignature:
        return False
    return bool(known == name.casefold())


def sign_in_demo(request: HttpRequest) -> User:
    """The demo account in one click, where the installation offers it."""
    user = User.objects.filter(username=settings.DEMO_USER).first() if settings.DEMO else None
    if user is None:
        raise Refused(404, "This installation has no demo account")
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return user


def sign_out(request: HttpRequest) -> None:
    logout(request)


def change_password(request: HttpRequest, user: User, old: str, new: str) -> None:
    if settings.DEMO and user.username == settings.DEMO_USER:
        raise Refused(422, "The demo account has no password", [Problem("/old", "the demo account has no password")])
    taken = throttle.take([(throttle.WRONG_FROM_THERE, f"{user.username} signed in")], "/old")
    known = user.check_password(old)
    if known:
        throttle.give_back(taken)
    problems = [] if known else [Problem("/old", "is not your password")]
    problems += _password_problems("/new", new, user)
    if problems:
        raise Refused(422, "The password can't be changed", problems)
    user.set_password(new)
    user.save(update_fields=["password"])
    update_session_auth_hash(request, user)


def _address(request: HttpRequest) -> str:
    """Where a request comes from; behind a proxy that is trusted, what that says."""
    here = str(request.META.get("REMOTE_ADDR", ""))
    if here in settings.TRUSTED_PROXIES:
        named = [x.strip() for x in request.headers.get("X-Forwarded-For", "").split(",")]
        return next((x for x in reversed(named) if x and x not in settings.TRUSTED_PROXIES), here)
    return here


def _password_problems(path: str, password: str, user: User) -> list[Problem]:
    try:
        password_validation.validate_password(password, user)
    except ValidationError as error:
        return [Problem(path, message) for message in error.messages]
    return []
