"""Tables of parts that somebody brings: read in a process of its own where they are workbooks, and what their columns were agreed to be."""

from __future__ import annotations

import json
import subprocess
import sys
from typing import cast

from django.conf import settings
from django.contrib.auth.models import User
from pydantic import TypeAdapter

from common.transactions import atomic_with_retry
from ember_core import DocumentError, Problem
from ember_core.imports.parts_table import PartsTable
from ember_core.imports.recognise import Role, Table, heading_key, tables_of
from ember_core.imports.workbook import Sheet, is_workbook, read_sheets

from .models import KnownHeading

MOST_SECONDS = 20.0  # by the clock; by the processor it has less
LARGEST_TEXT = 1_500_000
MOST_KNOWN = 500  # headings of an account: those used last
_SHEETS = TypeAdapter(list[Sheet])


def read_tables(user: User, raw: bytes) -> list[Table]:
    """The tables of a file. Raises DocumentError."""
    if is_workbook(raw):
        sheets = _apart(raw)
    elif len(raw) > LARGEST_TEXT:
        raise DocumentError(
            [Problem("", f"is {len(raw) / 1e6:.1f} MB of text; at most {LARGEST_TEXT / 1e6:.1f} MB are read")]
        )
    else:
        sheets = read_sheets(raw)
    found = tables_of(sheets, _known(user))
    if not found:
        raise DocumentError([Problem("", "holds no table: at least a heading and a row, with two columns, are needed")])
    return found


def _apart(raw: bytes) -> list[Sheet]:
    command = [sys.executable, "-m", "ember_core.imports.workbook_process"]
    try:
        done = subprocess.run(
            command, input=raw, capture_output=True, check=False, cwd=settings.ROOT / "core", timeout=MOST_SECONDS
        )
        answer = json.loads(done.stdout)
    except (subprocess.TimeoutExpired, ValueError):
        raise DocumentError(
            [Problem("", "takes more time or memory than a table of parts needs; it is not read")]
        ) from None
    if "problem" in answer:
        raise DocumentError([Problem("", answer["problem"])])
    return _SHEETS.validate_python(answer["sheets"])


def _known(user: User) -> dict[str, tuple[Role, str, str | None]]:
    rows = KnownHeading.objects.filter(owner=user).values_list("heading", "role", "state", "unit")
    return {heading: (cast(Role, role), state, unit) for heading, role, state, unit in rows}


@atomic_with_retry
def remember(user: User, table: PartsTable) -> None:
    """What the columns of a table that was taken over are."""
    agreed = {heading_key(c.heading): c for c in table.columns if c.heading}
    KnownHeading.objects.filter(owner=user, heading__in=agreed).delete()
    KnownHeading.objects.bulk_create(
        KnownHeading(owner=user, heading=key, role=c.role, state=c.state, unit=c.unit) for key, c in agreed.items()
    )
    kept = KnownHeading.objects.filter(owner=user).values_list("pk", flat=True)[:MOST_KNOWN]
    KnownHeading.objects.filter(owner=user).exclude(pk__in=list(kept)).delete()
