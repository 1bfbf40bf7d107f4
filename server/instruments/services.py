"""Instruments of an account, and where they may be."""

from __future__ import annotations

import ipaddress
import socket
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User

from common.errors import Refused, not_found
from common.transactions import atomic_with_retry
from ember_core import Problem

from .models import Instrument

MOST_INSTRUMENTS = 20
Address = ipaddress.IPv4Address | ipaddress.IPv6Address


def networks() -> list[ipaddress.IPv4Network | ipaddress.IPv6Network]:
    """Where this server's operator lets accounts reach instruments."""
    return [ipaddress.ip_network(x, strict=False) for x in settings.INSTRUMENT_NETWORKS]


def reached(host: str) -> str:
    """The address that a name stands for, where every one of its addresses lies in a network that is allowed. Raises Refused."""
    allowed = networks()
    if not allowed:
        raise _refused("this server reaches no instruments; its operator names networks in EMBER_INSTRUMENT_NETWORKS")
    try:
        found: list[Address] = [
            ipaddress.ip_address(str(a[4][0])) for a in socket.getaddrinfo(host, None, type=socket.SOCK_STREAM)
        ]
    except (OSError, ValueError, UnicodeError):
        raise _refused("nothing has that name or address") from None
    if not found or any(not any(a.version == n.version and a in n for n in allowed) for a in found):
        raise _refused(f"instruments are reached in {', '.join(map(str, allowed))} only")
    return str(found[0])


def _refused(message: str) -> Refused:
    return Refused(422, "The instrument can't be reached", [Problem("/host", message)])


def instrument_for(user: User, instrument: int) -> Instrument:
    found = user.instruments.filter(pk=instrument).first()
    if found is None:
        raise not_found("instrument")
    return found


@atomic_with_retry
def keep(user: User, **fields: Any) -> Instrument:
    """A new one, or another address of the one of that name."""
    reached(fields["host"])
    if user.instruments.exclude(name=fields["name"]).count() >= MOST_INSTRUMENTS:
        raise Refused(422, "Too many instruments", [Problem("", f"an account has at most {MOST_INSTRUMENTS}")])
    name = fields.pop("name")
    return Instrument.objects.update_or_create(owner=user, name=name, defaults=fields | {"identity": ""})[0]
