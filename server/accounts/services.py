"""Accounts: sign-up, sign-in, password change."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, password_validation, update_session_auth_hash
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.core.validators import RegexValidator
from django.db import IntegrityError, transaction
from django.http import HttpRequest

from config.errors import Refused
from ember_core import Problem

from . import throttle

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
    counts = [(throttle.WRONG_FOR_ACCOUNT, name), (throttle.WRONG_FROM_ADDRESS, _address(request))]
    taken = throttle.take(counts, "/password")
    user = authenticate(request, username=name, password=password)
    if user is None:
        raise Refused(422, "Name and password do not match", [Problem("/password", "does not match this name")])
    throttle.give_back(taken)
    login(request, user)
    assert isinstance(user, User)
    return user


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
    taken = throttle.take([(throttle.WRONG_FOR_ACCOUNT, user.username)], "/old")
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
    return str(request.META.get("REMOTE_ADDR", ""))


def _password_problems(path: str, password: str, user: User) -> list[Problem]:
    try:
        password_validation.validate_password(password, user)
    except ValidationError as error:
        return [Problem(path, message) for message in error.messages]
    return []
