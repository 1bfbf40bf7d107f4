"""The pieces of the case as a file to print or to go on with: STL, 3MF, OBJ or STEP, in millimetres, beside each other on the bed."""

from __future__ import annotations

from typing import Literal

from ..design import Design
from ..design.problems import DocumentError, Problem
from .bodies import things
from .pieces import on_the_bed, pieces
from .step_file import StepSolid, flat_faces, step_file

MOST_OPENINGS = 200
CaseFormat = Literal["stl", "3mf", "obj", "step"]
CONTENT_TYPES: dict[CaseFormat, str] = {
    "stl": "model/stl",
    "3mf": "model/3mf",
    "obj": "model/obj",
    "step": "model/step",
}


def openings_of(design: Design) -> int:
    """How many things show or plug through the case.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> part = design.parts[0]
    >>> through = part.model_copy(update={"body": part.body.model_copy(update={"through": "left"})})
    >>> shown = design.model_copy(update={"parts": [through, *design.parts[1:]]})
    >>> openings_of(design), openings_of(shown)
    (0, 1)
    """
    return sum(x.body is not None and x.body.through is not None for x in things(design))


def case_file(design: Design, kind: CaseFormat) -> bytes:
    """The file. Raises DocumentError where the case has no inside, or too many openings.

    >>> from ember_core.catalogue import built_in
    >>> from ember_core.recipes import Answers, begin
    >>> design = begin(Answers(recipe="handheld"), built_in()).design
    >>> case_file(design, "svg")[:4]
    b'<svg'
    """
    openings = openings_of(design)
    if openings > MOST_OPENINGS:
        words = f"{openings} things show or plug through it, and {MOST_OPENINGS} openings are the most that are drawn"
        raise DocumentError([Problem("/enclosure", words)])
    if design.enclosure.shape is not None:
        raise DocumentError([Problem("/enclosure/shape", "the case comes from a file: it is there already")])
    made = on_the_bed(pieces(design))
    if not made:
        raise DocumentError(
            [Problem("/enclosure/outer_mm", "the walls take all of the case: there is nothing to print")]
        )
    if kind == "step":
        return step_file([StepSolid(piece.vertices, flat_faces(piece.vertices, piece.faces)) for piece in made])
    import trimesh  # takes a while to import

    scene = trimesh.Scene()
    for piece in made:
        mesh = trimesh.Trimesh(piece.vertices, piece.faces, process=False)
        scene.add_geometry(mesh, node_name=piece.name, geom_name=piece.name)
    found = scene.export(file_type=kind)  # type: ignore[no-untyped-call]
    return found.encode() if isinstance(found, str) else bytes(found)
