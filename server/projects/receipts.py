"""A receipt for an evaluation: what a revision keeps of it, signed, so that the save that follows need not evaluate the
same document again. It holds only for the very document, person and catalogue that it was made for."""

from __future__ import annotations

import hashlib
from typing import Any

from django.contrib.auth.models import User
from django.core import signing

from catalogue.services import Edition, edition
from ember_core import VERSION, Design, Evaluation

HEADER = "Evaluation-Receipt"
GOOD_FOR_S = 600
_SALT = "evaluation"


def columns(result: Evaluation) -> dict[str, Any]:
    """What a revision keeps of its evaluation."""
    return {
        "runtime_h": result.runtime.total.value,
        "mass_g": result.totals.mass.value or 0.0,
        "cost": result.totals.cost.value or 0.0,
        "gravest": result.findings[0].severity if result.findings else "",
        "findings": len(result.findings),
        "worst": result.findings[0].title[:200] if result.findings else "",
        "core": VERSION,
    }


def issue(user: User, catalogue: Edition, design: Design, result: Evaluation) -> str:
    return signing.dumps({"of": _mark(user, catalogue, design), "columns": columns(result)}, salt=_SALT)


def redeem(receipt: str, user: User, design: Design) -> dict[str, Any] | None:
    """The columns, or None where the receipt is not for this document, is too old or not ours."""
    try:
        held = signing.loads(receipt, salt=_SALT, max_age=GOOD_FOR_S)
    except signing.BadSignature:
        return None
    kept: dict[str, Any] = held["columns"]
    same = held["of"] == _mark(user, edition(user), design) and kept["core"] == VERSION
    return kept if same else None


def _mark(user: User, catalogue: Edition, design: Design) -> str:
    text = f"{user.pk} {catalogue} {design.model_dump_json()}"
    return hashlib.sha256(text.encode()).hexdigest()
