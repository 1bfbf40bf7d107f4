"""Solids with flat faces as a STEP file (ISO 10303-21, automotive design): what is flat is one face with its holes, what is round is facets."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass

import numpy as np

from ..numeric import Array

HEAD = """ISO-10303-21;
HEADER;
FILE_DESCRIPTION((''),'2;1');
FILE_NAME('{name}','',(''),(''),'','','');
FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));
ENDSEC;
DATA;
"""
SAME_PLANE = 1e-5  # of a normal's parts; and as many times a millimetre from the origin


@dataclass(frozen=True)
class StepSolid:
    """A closed solid: `points` [mm], (n, 3), and its flat faces, each its loops, the outer one first: positions of corners, seen from outside against
    the clock, holes the other way round."""

    points: Array
    faces: list[list[list[int]]]


def step_file(solids: list[StepSolid], name: str = "case", unit: str = "MILLI") -> bytes:
    """The file; `unit` is the prefix of the metre that its lengths are in.

    >>> file = step_file([])
    >>> file.startswith(b"ISO-10303-21;"), file.rstrip().endswith(b"END-ISO-10303-21;")
    (True, True)
    """
    lines: list[str] = []

    def add(text: str) -> str:
        lines.append(text)
        return f"#{len(lines)}"

    context = add("APPLICATION_CONTEXT('core data for automotive mechanical design processes')")
    add(f"APPLICATION_PROTOCOL_DEFINITION('international standard','automotive_design',2000,{context})")
    mechanical = add(f"PRODUCT_CONTEXT('',{context},'mechanical')")
    product = add(f"PRODUCT('{name}','{name}','',({mechanical}))")
    formation = add(f"PRODUCT_DEFINITION_FORMATION('','',{product})")
    stage = add(f"PRODUCT_DEFINITION_CONTEXT('part definition',{context},'design')")
    definition = add(f"PRODUCT_DEFINITION('design','',{formation},{stage})")
    shape = add(f"PRODUCT_DEFINITION_SHAPE('','',{definition})")
    length = add(f"(LENGTH_UNIT()NAMED_UNIT(*)SI_UNIT({'.' + unit + '.' if unit else '$'},.METRE.))")
    angle = add("(NAMED_UNIT(*)PLANE_ANGLE_UNIT()SI_UNIT($,.RADIAN.))")
    solid_angle = add("(NAMED_UNIT(*)SI_UNIT($,.STERADIAN.)SOLID_ANGLE_UNIT())")
    accuracy = add(f"UNCERTAINTY_MEASURE_WITH_UNIT(LENGTH_MEASURE(1.E-07),{length},'distance_accuracy_value','')")
    space = add(
        f"(GEOMETRIC_REPRESENTATION_CONTEXT(3)GLOBAL_UNCERTAINTY_ASSIGNED_CONTEXT(({accuracy}))"
        f"GLOBAL_UNIT_ASSIGNED_CONTEXT(({length},{angle},{solid_angle}))REPRESENTATION_CONTEXT('',''))"
    )

    def solid_of(solid: StepSolid) -> str:
        corners = [add(f"CARTESIAN_POINT('',({x:.6f},{y:.6f},{z:.6f}))") for x, y, z in solid.points]
        sides = []
        for loops in solid.faces:
            normal, along = directions(solid.points[loops[0]])
            ways = [add(f"DIRECTION('',({v[0]:.9f},{v[1]:.9f},{v[2]:.9f}))") for v in (normal, along)]
            place = add(f"AXIS2_PLACEMENT_3D('',{corners[loops[0][0]]},{ways[0]},{ways[1]})")
            plane = add(f"PLANE('',{place})")
            bounds = []
            for k, loop in enumerate(loops):
                edge = add(f"POLY_LOOP('',({','.join(corners[i] for i in loop)}))")
                bounds.append(add(f"{'FACE_BOUND' if k else 'FACE_OUTER_BOUND'}('',{edge},.T.)"))
            sides.append(add(f"FACE_SURFACE('',({','.join(bounds)}),{plane},.T.)"))
        shell = add(f"CLOSED_SHELL('',({','.join(sides)}))")
        return add(f"FACETED_BREP('',{shell})")

    made = ",".join(solid_of(s) for s in solids)
    found = add(f"FACETED_BREP_SHAPE_REPRESENTATION('',({made}),{space})")
    add(f"SHAPE_DEFINITION_REPRESENTATION({shape},{found})")
    data = "".join(f"#{i}={text};\n" for i, text in enumerate(lines, start=1))
    return (HEAD.format(name=name) + data + "ENDSEC;\nEND-ISO-10303-21;\n").encode()


def directions(points: Array) -> tuple[Array, Array]:
    """(the normal of a flat loop, out of a loop against the clock; one direction in it), unit vectors.

    >>> normal, along = directions(np.array([[0.0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]]))
    >>> normal.tolist()
    [0.0, 0.0, 1.0]
    """
    after = np.roll(points, -1, axis=0)
    normal = np.cross(points, after).sum(axis=0)
    along = after[0] - points[0]
    return normal / np.linalg.norm(normal), along / np.linalg.norm(along)


def flat_faces(points: Array, triangles: np.ndarray) -> list[list[list[int]]]:
    """The flat faces of a closed surface of triangles: neighbours in one plane are one face with its loops.

    >>> from manifold3d import Manifold
    >>> mesh = Manifold.cube((1.0, 1.0, 1.0)).to_mesh()
    >>> len(flat_faces(np.asarray(mesh.vert_properties)[:, :3], np.asarray(mesh.tri_verts)))
    6
    """
    corners = points[triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.maximum(np.linalg.norm(normals, axis=1), 1e-12)
    planes = np.column_stack([normals / length[:, None], np.einsum("ij,ij->i", normals, corners[:, 0]) / length])
    group = _together(planes, triangles)
    edges: dict[int, set[tuple[int, int]]] = defaultdict(set)
    for k, (a, b, c) in enumerate(triangles.tolist()):
        own = edges[int(group[k])]
        for edge in ((a, b), (b, c), (c, a)):
            if edge[::-1] in own:
                own.remove(edge[::-1])
            else:
                own.add(edge)
    faces = []
    for own in edges.values():
        loops = _loops(own)
        loops.sort(key=lambda loop: -_area(points[loop]))
        faces.append(loops)
    return faces


def _together(planes: Array, triangles: np.ndarray) -> np.ndarray:
    """The face of each triangle: those that share an edge and a plane are one, (triangles,)."""
    group = np.arange(len(triangles))

    def top(k: int) -> int:
        while group[k] != k:
            group[k] = group[group[k]]
            k = int(group[k])
        return k

    beside: dict[tuple[int, int], int] = {}
    for k, (a, b, c) in enumerate(triangles.tolist()):
        for u, v in ((a, b), (b, c), (c, a)):
            other = beside.pop((v, u), None)
            if other is None:
                beside[u, v] = k
            elif np.all(np.abs(planes[k] - planes[other]) <= SAME_PLANE * np.array([1, 1, 1, 10])):
                group[top(k)] = top(other)
    return np.array([top(k) for k in range(len(triangles))])


def _loops(edges: set[tuple[int, int]]) -> list[list[int]]:
    """Edges in a row, each corner's next one after it."""
    following: dict[int, list[int]] = defaultdict(list)
    for a, b in sorted(edges):
        following[a].append(b)
    found = []
    while following:
        start = next(iter(following))
        loop, here = [], start
        while following.get(here):
            loop.append(here)
            ways = following[here]
            after = ways.pop()
            if not ways:
                del following[here]
            here = after
        if len(loop) >= 3:
            found.append(loop)
    return found


def _area(points: Array) -> float:
    return float(np.linalg.norm(np.cross(points, np.roll(points, -1, axis=0)).sum(axis=0)))
