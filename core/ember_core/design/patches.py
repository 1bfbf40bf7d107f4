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
    """The design after a patch, checked anew. Raises DocumentError where the result is not a design. What no operation reaches stays the same object: it
    was checked when it was made."""
    operations = [
        {"op": p.op, "path": p.path} if p.op == "remove" else {"op": p.op, "path": p.path, "value": p.value}
        for p in patch
    ]
    paths = [tuple(_keys(p.path)) for p in patch]
    shifted = {path[:-1] for path, p in zip(paths, patch, strict=True) if p.op != "replace"}
    opened = _opened(design, (), paths, shifted)
    return build_design(jsonpatch.apply_patch(opened, operations, in_place=True))


def _keys(path: str) -> list[str]:
    return [key.replace("~1", "/").replace("~0", "~") for key in path.split("/")[1:]]


Keys = tuple[str, ...]


def _opened(value: Any, here: Keys, paths: list[Keys], shifted: set[Keys]) -> Any:
    """Plain data along some paths, copied; all else as it is. Lists whose items are `shifted` are plain altogether, as later paths may lead to any of them."""
    inner = [path for path in paths if len(path) > len(here) and path[: len(here)] == here]
    if not inner:
        return value
    if isinstance(value, Model):
        children = {name: getattr(value, name) for name in type(value).model_fields}
        return {name: _opened(child, (*here, name), inner, shifted) for name, child in children.items()}
    if isinstance(value, list | tuple):
        if here in shifted:
            return [_plain(item) for item in value]
        return [_opened(item, (*here, str(k)), inner, shifted) for k, item in enumerate(value)]
    return dict(value) if isinstance(value, dict) else value


def apply(design: Design, remedy: Remedy) -> Design:
    return apply_patch(design, remedy.patch)
