"""A faceted solid as a STEP file, for tests: nobody else's file is needed."""

from __future__ import annotations

import numpy as np

HEAD = """ISO-10303-21;
HEADER;
FILE_DESCRIPTION((''),'2;1');
FILE_NAME('made-up','2026-01-01T00:00:00',(''),(''),'','','');
FILE_SCHEMA(('AUTOMOTIVE_DESIGN'));
ENDSEC;
DATA;
"""


def step_file(points: list[tuple[float, float, float]], faces: list[list[int]], unit: str = "MILLI") -> bytes:
    """A solid with plane faces, each a list of its corners seen from outside against the clock."""
    lines: list[str] = []

    def add(text: str) -> str:
        lines.append(text)
        return f"#{len(lines)}"

    context = add("APPLICATION_CONTEXT('core data for automotive mechanical design processes')")
    add(f"APPLICATION_PROTOCOL_DEFINITION('international standard','automotive_design',2000,{context})")
    product = add(
        f"PRODUCT('p','p','',({add(f'PRODUCT_CONTEXT({chr(39) * 2},{context},{chr(39)}mechanical{chr(39)})')}))"
    )
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
    corners = [add(f"CARTESIAN_POINT('',({x:.6f},{y:.6f},{z:.6f}))") for x, y, z in points]
    where = np.asarray(points, dtype=float)
    sides = []
    for face in faces:
        a, b, c = where[face[0]], where[face[1]], where[face[2]]
        normal = np.cross(b - a, c - a)
        normal, along = normal / np.linalg.norm(normal), (b - a) / np.linalg.norm(b - a)
        ways = [add(f"DIRECTION('',({v[0]:.9f},{v[1]:.9f},{v[2]:.9f}))") for v in (normal, along)]
        plane = add(f"PLANE('',{add(f'AXIS2_PLACEMENT_3D({chr(39) * 2},{corners[face[0]]},{ways[0]},{ways[1]})')})")
        loop = add(f"POLY_LOOP('',({','.join(corners[i] for i in face)}))")
        bound = add(f"FACE_OUTER_BOUND('',{loop},.T.)")
        sides.append(add(f"FACE_SURFACE('',({bound}),{plane},.T.)"))
    solid = add(f"FACETED_BREP('',{add(f'CLOSED_SHELL({chr(39) * 2},({chr(44).join(sides)}))')})")
    found = add(f"FACETED_BREP_SHAPE_REPRESENTATION('',({solid}),{space})")
    add(f"SHAPE_DEFINITION_REPRESENTATION({shape},{found})")
    data = "".join(f"#{i}={text};\n" for i, text in enumerate(lines, start=1))
    return (HEAD + data + "ENDSEC;\nEND-ISO-10303-21;\n").encode()


def wedge(x: float, y: float, z: float, unit: str = "MILLI") -> bytes:
    """Half a cuboid, cut from one of its long edges to the opposite one."""
    points = [(0, 0, 0), (x, 0, 0), (x, y, 0), (0, y, 0), (0, 0, z), (0, y, z)]
    faces = [[0, 3, 2, 1], [0, 1, 4], [3, 5, 2], [0, 4, 5, 3], [1, 2, 5, 4]]
    return step_file([(float(a), float(b), float(c)) for a, b, c in points], faces, unit)
