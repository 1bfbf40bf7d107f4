"""The surface of the case, to draw it: its pieces as they are made."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np

from ..case_shape import material
from ..design import Design, ThinSpot
from ..enclosure.case_files import MOST_OPENINGS, openings_of
from ..enclosure.joints import split_mm
from ..enclosure.pieces import pieces, too_thin
from ..figures import record
from ..making import making_of

if TYPE_CHECKING:
    from manifold3d import Manifold


@record
class ShellPart:
    """A closed surface: its corners [mm], and its triangles, three corners each by their position."""

    corners: list[list[float]]
    faces: list[list[int]]


@record
class ShellAnswer:
    """What stays below where it comes apart, and what comes off; null where there is nothing of it. `thin`: where what is made is thinner than its process holds
    at all, an opening, a post or a groove biting into a wall, the thinnest first; none of a case from a file, whose spots are in the document."""

    lower: ShellPart | None
    upper: ShellPart | None
    thin: list[ThinSpot]


def answer_shell(design: Design) -> ShellAnswer:
    """The surface of the case as it is, with its openings, posts and rim as in the files to print; of more openings than are drawn none. A case from a file
    is whole unless the document says where it comes apart."""
    case = design.enclosure
    if case.shape is None and openings_of(design) <= MOST_OPENINGS:
        whole = pieces(design)
        made = {p.name: ShellPart(corners=p.vertices.round(3).tolist(), faces=p.faces.tolist()) for p in whole}
        plain = pieces(_without_letters(design)) if case.labels else whole  # what stands between two strokes is no wall
        thin = too_thin(plain, making_of(case).least_wall)
        return ShellAnswer(lower=made.get("lower piece"), upper=made.get("upper piece"), thin=thin)
    solid = material(case)
    if case.shape is not None and case.split_mm is None:
        return ShellAnswer(lower=_part(solid), upper=None, thin=[])
    upper, lower = solid.split_by_plane((0.0, 0.0, 1.0), split_mm(case))
    return ShellAnswer(lower=_part(lower), upper=_part(upper), thin=[])


def _without_letters(design: Design) -> Design:
    return design.model_copy(update={"enclosure": design.enclosure.model_copy(update={"labels": []})})


def _part(solid: Manifold) -> ShellPart | None:
    if not solid.num_tri():
        return None
    mesh = solid.to_mesh()
    corners = np.asarray(mesh.vert_properties, dtype=float)[:, :3].round(3)
    return ShellPart(corners=corners.tolist(), faces=np.asarray(mesh.tri_verts).tolist())
