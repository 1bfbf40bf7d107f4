"""The surface of the case, to draw it: its pieces as they are made."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ..case_shape import material
from ..design import Design
from ..enclosure.case_files import MOST_OPENINGS, openings_of
from ..enclosure.joints import split_mm
from ..enclosure.pieces import pieces
from ..figures import record

if TYPE_CHECKING:
    from manifold3d import Manifold


@record
class ShellPart:
    """A closed surface: its corners [mm], and its triangles, three corners each by their position."""

    corners: list[list[float]]
    faces: list[list[int]]


@record
class ShellAnswer:
    """What stays below where it comes apart, and what comes off; null where there is nothing of it."""

    lower: ShellPart | None
    upper: ShellPart | None


def answer_shell(design: Design) -> ShellAnswer:
    """The surface of the case as it is, with its openings, posts and rim as in the files to print; of more openings than are drawn none. A case from a file
    is whole unless the document says where it comes apart."""
    case = design.enclosure
    if case.shape is None and openings_of(design) <= MOST_OPENINGS:
        made = {p.name: ShellPart(corners=p.vertices.round(3).tolist(), faces=p.faces.tolist()) for p in pieces(design)}
        return ShellAnswer(lower=made.get("lower piece"), upper=made.get("upper piece"))
    solid = material(case)
    if case.shape is not None and case.split_mm is None:
        return ShellAnswer(lower=_part(solid), upper=None)
    upper, lower = solid.split_by_plane((0.0, 0.0, 1.0), split_mm(case))
    return ShellAnswer(lower=_part(lower), upper=_part(upper))


def _part(solid: Manifold) -> ShellPart | None:
    if not solid.num_tri():
        return None
    mesh = solid.to_mesh()
    corners = np.asarray(mesh.vert_properties, dtype=float)[:, :3].round(3)
    return ShellPart(corners=corners.tolist(), faces=np.asarray(mesh.tri_verts).tolist())
