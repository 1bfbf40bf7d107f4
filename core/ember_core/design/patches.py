"""Edits of a design as RFC 6902 JSON Patches: made, and applied."""

from __future__ import annotations

from typing import Any

import jsonpatch

from ..figures import PatchOperation, Remedy
from . import Design, Model
from .references import build_design


def replace(path: str, value: Any) -> PatchOperation:
    return PatchOperation(op="replace", path=path, value=_plain(value))


def add(path: str, value: Any) -> PatchOperation:
    return PatchOperation(op="add", path=path, value=_plain(value))


def remove(path: str) -> PatchOperation:
    return PatchOperation(op="remove", path=path)


def _plain(value: Any) -> Any:
    return value.model_dump(mode="json") if isinstance(value, Model) else value


def apply_patch(design: Design, patch: list[PatchOperation]) -> Design:
    """The design after a patch, checked anew. Raises DocumentError where the result is not a design."""
    operations = [
        {"op": p.op, "path": p.path} if p.op == "remove" else {"op": p.op, "path": p.path, "value": p.value}
        for p in patch
    ]
    return build_design(jsonpatch.apply_patch(design.model_dump(mode="json"), operations, in_place=True))


def apply(design: Design, remedy: Remedy) -> Design:
    return apply_patch(design, remedy.patch)
