"""A body, or a whole case, from a file: STL, OBJ, 3MF or STEP, untrusted. What comes out is its size, its closed surface where it has one, simplified
as far as a document bears, and its convex hull; what was wrong with the file and what was done about it is said. On a case its walls are
measured.

Meant for a process of its own with limits on memory and time (`mesh_process.py`): a file may be anything.
"""

from __future__ import annotations

import io
import re
import tempfile
import zipfile
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal, get_args

import numpy as np

from ..design import Surface
from ..design.basics import MOST_CORNERS, MOST_FACES
from ..design.problems import DocumentError, Problem
from ..design.surfaces import solid_of
from ..figures import record
from ..numeric import Array
from ..quantities import show
from .case_walls import CaseReading, measured_case

if TYPE_CHECKING:
    from manifold3d import Manifold

Unit = Literal["mm", "cm", "m", "in"]
UNIT_MM: dict[Unit, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
NAMED_UNITS: dict[str, Unit] = {
    "millimeter": "mm", "millimeters": "mm", "mm": "mm", "centimeter": "cm", "centimeters": "cm", "meter": "m", "meters": "m", "inch": "in", "inches": "in",
}  # fmt: skip
MOST_BODY_CORNERS = 1500  # of a body's surface
AT_ONCE = 32  # directions that many corners are looked at in together
MOST_CLOSED = 0.01  # of its area: larger holes are left open
FINEST_MM, COARSEST_MM = 0.005, 0.2  # by which a surface is simplified
LARGEST_BYTES = 64_000_000
LOOKED_BYTES = 20_000
KNOWN_ENCODINGS = (b"utf-8", b"utf8", b"utf-16", b"us-ascii", b"ascii", b"iso-8859-1")
MOST_UNPACKED = 256_000_000
MOST_TRIANGLES = 500_000
MOST_HULL = 600
USUAL_MM = (3.0, 500.0)  # the largest side of what goes into a gadget: beyond, the unit is asked for
USUAL_CASE_MM = (20.0, 500.0)  # and of a case
STEP_CHORD_MM = 0.01  # how far the triangles of a round face of a STEP file are off from it at most
COMMA = re.compile(rb"^\s*(?:vertex|v)\s+-?\d+,\d", re.MULTILINE)
LARGEST_MM = 2000.0
SMALLEST_MM = 1e-3
FORMATS = {".stl": "stl", ".obj": "obj", ".3mf": "3mf", ".step": "step", ".stp": "step"}


@record
class MeshBody:
    """A body from a file: `size_mm` of the box around it as it lies in the file, `hull_mm` the corners of its convex hull from that box's
    corner on, `surface` its own where it is closed, `off_mm` how far that may be off from the one of the file, and what is to be said of it.
    `doubtful`: the file has no unit and is of an unusual size in the one that was taken. `case` is what was measured on it where it was read as
    one."""

    name: str
    size_mm: list[float]
    hull_mm: list[list[float]]
    triangles: int
    off_mm: float
    volume_mm3: float
    unit: str
    doubtful: bool
    notes: list[str]
    surface: Surface | None = None
    case: CaseReading | None = None


def refuse(message: str) -> DocumentError:
    return DocumentError([Problem("", message)])


def read_mesh(raw: bytes, name: str, unit: Unit | None = None, *, as_case: bool = False) -> MeshBody:
    """The body in a file of that name, or the case; `unit` is what its lengths are in where the file does not say it. A case has to be closed. Raises
    DocumentError."""
    kind = FORMATS.get(Path(name).suffix.lower())
    if kind is None:
        raise refuse(f"{name!r} is none of the files that are read: {', '.join(FORMATS)}")
    if not raw:
        raise refuse("the file is empty")
    if len(raw) > LARGEST_BYTES:
        raise refuse(f"the file has {len(raw) / 1e6:.0f} MB; at most {LARGEST_BYTES / 1e6:.0f} MB are read")
    if unit is not None and unit not in get_args(Unit):
        raise refuse(f"{unit!r} is none of the units {', '.join(get_args(Unit))}")
    vertices, faces, own = _loaded(raw, kind)
    if not len(faces) or not len(vertices):
        raise refuse("there is no surface in it")
    triangles = len(faces)
    if triangles > MOST_TRIANGLES:
        raise refuse(f"it has {len(faces):,} triangles; at most {MOST_TRIANGLES:,} are read. Export it more coarsely")
    if not np.isfinite(vertices).all():
        raise refuse("some of its corners are no numbers")
    taken: Unit = own or unit or "mm"
    points = vertices * UNIT_MM[taken]
    size = np.ptp(points, axis=0)
    if size.max() > LARGEST_MM or size.min() < SMALLEST_MM:
        raise refuse(
            f"it is {' × '.join(f'{v:.4g}' for v in size)} mm, read in {taken}: no body of a gadget. Is it in another unit, or flat?"
        )
    low = points.min(axis=0)
    notes, closed, corners = _looked_over(points - low, faces)
    del vertices, faces, points  # a large one leaves little room
    corners = corners + low
    volume = None if closed is None else float(closed.volume())
    if as_case and closed is None:
        raise refuse("its surface is not closed: walls can't be measured on it. Export it as a closed solid")
    tessellated = STEP_CHORD_MM if kind == "step" else 0.0
    surface, moved = _surface(closed, notes, as_case=as_case)
    off_mm = float(f"{moved + tessellated:.3g}") if surface is not None else 0.0
    if off_mm > 0 and not as_case:
        notes.append(f"it is kept {show(off_mm, 'mm')} farther from everything for what its surface may be off")
    reading = measured_case(closed, size) if as_case and closed is not None else None
    hull, off, around = _hull(corners)
    if off > 0.005:
        notes.append(f"its outline is simplified by up to {show(off, 'mm')}, outwards")
    inside = np.clip(hull - low, 0.0, size)
    least, most = USUAL_CASE_MM if as_case else USUAL_MM
    doubtful = own is None and unit is None and not least <= float(size.max()) <= most
    return MeshBody(
        name=name,
        size_mm=[float(f"{v:.6g}") for v in (surface.size_mm if as_case and surface else size)],
        hull_mm=[[float(f"{v:.5g}") for v in p] for p in inside],
        triangles=triangles,
        off_mm=off_mm,
        volume_mm3=around if volume is None else volume,
        unit=taken,
        doubtful=doubtful,
        notes=notes,
        surface=surface,
        case=reading,
    )


def _loaded(raw: bytes, kind: str) -> tuple[Array, Array, Unit | None]:
    """(corners, triangles, the file's own unit) of everything in a file."""
    import trimesh  # only here: a second of processor time

    if kind == "3mf":
        _check_archive(raw)
    if kind in ("stl", "obj") and COMMA.search(raw[:LOOKED_BYTES]):
        raise refuse("its figures have a decimal comma: export it with a decimal point")
    if kind == "step":
        raw, kind = _from_step(raw), "glb"
    try:
        scene = trimesh.load_scene(
            io.BytesIO(raw), file_type=kind, process=False, maintain_order=True, skip_materials=True
        )
        whole: Any = scene.to_mesh()
    except MemoryError:
        raise
    except Exception as error:
        raise refuse(f"it can't be read as {kind.upper()}: {_first_line(error)}") from None
    own = NAMED_UNITS.get(str(scene.units or "").lower()) if kind in ("3mf", "glb") else None
    return np.asarray(whole.vertices, dtype=float), np.asarray(whole.faces), own


def _first_line(error: Exception) -> str:
    return (str(error).strip().splitlines() or [type(error).__name__])[0][:160]


def _check_archive(raw: bytes) -> None:
    """A 3MF is an archive: of a bearable size when it is unpacked, and without entities of its own."""
    try:
        with zipfile.ZipFile(io.BytesIO(raw)) as archive:
            if sum(x.file_size for x in archive.infolist()) > MOST_UNPACKED:
                raise refuse(f"unpacked it has more than {MOST_UNPACKED / 1e6:.0f} MB")
            for entry in archive.infolist():
                if entry.filename.lower().endswith((".model", ".rels", ".xml")):
                    _check_xml(archive.read(entry))
    except (zipfile.BadZipFile, NotImplementedError, RuntimeError, OSError, EOFError) as error:
        raise refuse(f"it is no 3MF: {_first_line(error)}") from None


def _check_xml(raw: bytes) -> None:
    """Refuses entities of its own anywhere, and encodings in which they could not be seen: a sign of UTF-16 is one of ASCII beside a zero."""
    plain = raw.replace(b"\0", b"")
    if re.search(rb"<!\s*(DOCTYPE|ENTITY)", plain, re.IGNORECASE):
        raise refuse("its XML declares entities of its own; such files are not read")
    named = re.match(rb"^[^<]*<\?xml[^>]*?encoding\s*=\s*[\"']([^\"']*)", plain)
    if (named and named.group(1).lower() not in KNOWN_ENCODINGS) or b"<" not in plain:
        raise refuse("its XML is in another encoding than UTF-8 or UTF-16")


def _from_step(raw: bytes) -> bytes:
    """The surfaces of a STEP file as GLB."""
    import cascadio

    if not raw.lstrip()[:20].startswith(b"ISO-10303-21"):
        raise refuse("it is no STEP file: it does not begin with ISO-10303-21")
    with tempfile.TemporaryDirectory() as folder:
        source, target = Path(folder) / "in.step", Path(folder) / "out.glb"
        source.write_bytes(raw)
        cascadio.step_to_glb(str(source), str(target), tol_linear=STEP_CHORD_MM)
        if not target.exists() or not target.stat().st_size:
            raise refuse("there is no body in the STEP file, or it can't be read")
        return target.read_bytes()


def _looked_over(points: Array, faces: Array) -> tuple[list[str], Manifold | None, Array]:
    """(what is to be said of the surface, the solid inside it if it is closed, its corners, each once). Small holes are closed."""
    import trimesh

    mesh = trimesh.Trimesh(points, faces, process=True)
    notes = []
    lost = len(faces) - len(mesh.faces)
    if lost > 0:
        notes.append(f"{lost} triangles without an area are left out")
    solid = _closed(points, faces)
    if solid is None or solid.volume() < 0:
        wrong_way = not mesh.is_winding_consistent or (mesh.is_watertight and mesh.volume < 0)
        if wrong_way:
            trimesh.repair.fix_normals(mesh)  # type: ignore[no-untyped-call]
            notes.append("its surface was inside out, and is turned")
        area, count = float(mesh.area), len(mesh.faces)
        if not mesh.is_watertight and trimesh.repair.fill_holes(mesh):
            if float(mesh.area) <= area * (1 + MOST_CLOSED):
                notes.append("small holes in its surface are closed")
            else:
                mesh.update_faces(np.arange(len(mesh.faces)) < count)
        solid = _closed(np.asarray(mesh.vertices), np.asarray(mesh.faces)) if mesh.is_watertight else None
    corners = np.asarray(mesh.vertices)
    if solid is None or solid.volume() <= 0:
        notes.append("its surface is not closed, and its hull is judged in its place")
        return notes, None, corners
    return notes, solid, corners


def _closed(points: Array, faces: Array) -> Manifold | None:
    """The solid inside a surface, whose triangles may have corners of their own; none where it is not closed."""
    from manifold3d import Error, Manifold, Mesh

    mesh = Mesh(points.astype(np.float32), np.ascontiguousarray(faces, dtype=np.uint32))
    mesh.merge()
    solid = Manifold(mesh)
    return solid if solid.status() == Error.NoError and solid.num_tri() else None


def _surface(closed: Manifold | None, notes: list[str], *, as_case: bool) -> tuple[Surface | None, float]:
    """(a closed solid's surface as a document takes it, by how much it was moved for that [mm]); what was done is added to the notes."""
    if closed is None:
        return None, 0.0
    surface, moved = simplified(closed, MOST_CORNERS if as_case else MOST_BODY_CORNERS)
    if surface is None and as_case:
        raise refuse(
            f"its surface is too fine: simplified by {COARSEST_MM:g} mm it still has more than {MOST_CORNERS} corners. Leave out what is only for the eye"
        )
    if surface is None:
        notes.append("its surface is too fine for a document; its hull is judged")
    elif moved > 0:
        notes.append(f"its surface is simplified by up to {show(moved, 'mm')}")
    return surface, moved


def simplified(solid: Manifold, most: int) -> tuple[Surface | None, float]:
    """(its surface with so many corners at most, by how much it was moved for that [mm]); none where even the coarsest has more."""
    tolerance = moved = 0.0
    while solid.num_vert() > most or solid.num_tri() > MOST_FACES:
        tolerance = max(2 * tolerance, FINEST_MM)
        if tolerance > COARSEST_MM:
            return None, 0.0
        solid, moved = solid.simplify(tolerance), moved + tolerance
    mesh = solid.to_mesh()
    corners = np.maximum(np.asarray(mesh.vert_properties, dtype=float)[:, :3], 0.0)
    rounded = [(float(f"{x:.6g}"), float(f"{y:.6g}"), float(f"{z:.6g}")) for x, y, z in corners]
    faces = [(int(a), int(b), int(c)) for a, b, c in np.asarray(mesh.tri_verts)]
    surface = Surface(corners_mm=rounded, faces=faces)
    return (surface, moved) if solid_of(surface) is not None else (None, 0.0)


def _hull(points: Array) -> tuple[Array, float, float]:
    """(the corners of a convex hull around all points, by how much it is larger than the true one [mm], the volume of that [mm3])."""
    from manifold3d import Manifold

    solid = Manifold.hull_points(points)
    volume = float(solid.volume())
    whole = np.asarray(solid.to_mesh().vert_properties[:, :3], dtype=float)
    if len(whole) < 4:
        raise refuse("it is flat")
    if len(whole) <= MOST_HULL:
        return whole, 0.0, volume
    count = MOST_HULL - 6
    k = np.arange(count) + 0.5
    high, around = 1 - 2 * k / count, k * np.pi * (1 + 5**0.5)
    flat = np.sqrt(1 - high**2)
    ways = np.concatenate(
        [np.stack([flat * np.cos(around), flat * np.sin(around), high], axis=1), np.eye(3), -np.eye(3)]
    )
    kept = np.unique(np.concatenate([np.argmax(some @ whole.T, axis=1) for some in _few_at_once(ways)]))
    fewer = whole[kept]
    # as far as the true hull stands out of the fewer corners in any of its own directions, all are moved outwards
    normals = _normals(fewer)
    off = max(
        float(np.max((some @ whole.T).max(axis=1) - (some @ fewer.T).max(axis=1))) for some in _few_at_once(normals)
    )
    middle = fewer.mean(axis=0)
    nearest = float(np.min((fewer @ normals.T).max(axis=0) - middle @ normals.T))
    return middle + (fewer - middle) * (1 + off / max(nearest, 1e-6)), off, volume


def _few_at_once(ways: Array) -> list[Array]:
    return np.array_split(ways, -(-len(ways) // AT_ONCE))


def _normals(points: Array) -> Array:
    """The outward normals of the faces of a hull, (faces, 3)."""
    from manifold3d import Manifold

    mesh = Manifold.hull_points(points).to_mesh()
    corners = np.asarray(mesh.vert_properties[:, :3], dtype=float)[np.asarray(mesh.tri_verts)]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    length = np.linalg.norm(normals, axis=1)
    return np.asarray(normals[length > 0] / length[length > 0, None])
