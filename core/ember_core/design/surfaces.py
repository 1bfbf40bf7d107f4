"""Closed surfaces of the document as solids (manifold3d), made once for each content."""

from __future__ import annotations

import atexit
from functools import lru_cache
from typing import TYPE_CHECKING

import numpy as np

from .basics import Surface

if TYPE_CHECKING:
    from manifold3d import Manifold

KEPT = 64


def solid_of(surface: Surface) -> Manifold | None:
    """The solid inside a surface; None where it is not closed, or inside out."""
    return _solid(*surface.content)


@lru_cache(maxsize=KEPT)
def _solid(corners: bytes, faces: bytes) -> Manifold | None:
    from manifold3d import Error, Manifold, Mesh  # only where there is a surface

    mesh = Mesh(
        np.frombuffer(corners).reshape(-1, 3).astype(np.float32),
        np.frombuffer(faces, dtype=np.uint32).reshape(-1, 3).copy(),
    )
    solid = Manifold(mesh)
    return solid if solid.status() == Error.NoError and solid.volume() > 0 else None


atexit.register(_solid.cache_clear)  # solids that are left at the end are complained about
