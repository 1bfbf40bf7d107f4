"""A faceted solid as a STEP file, for tests: nobody else's file is needed."""

from __future__ import annotations

import numpy as np

from ember_core.enclosure.step_file import StepSolid, step_file


def wedge(x: float, y: float, z: float, unit: str = "MILLI") -> bytes:
    """Half a cuboid, cut from one of its long edges to the opposite one."""
    points = np.array([(0, 0, 0), (x, 0, 0), (x, y, 0), (0, y, 0), (0, 0, z), (0, y, z)], dtype=float)
    faces = [[0, 3, 2, 1], [0, 1, 4], [3, 5, 2], [0, 4, 5, 3], [1, 2, 5, 4]]
    return step_file([StepSolid(points, [[face] for face in faces])], unit=unit)
