// What is drawn in space, as geometry: outlines drawn out, surfaces, bodies about their middle. Millimetres, z upwards.
import {
  BoxGeometry,
  BufferGeometry,
  CanvasTexture,
  CylinderGeometry,
  Euler,
  ExtrudeGeometry,
  MathUtils,
  Mesh,
  MeshBasicMaterial,
  PlaneGeometry,
  Quaternion,
  Shape,
  Vector3,
} from "three";
import { ConvexGeometry } from "three/addons/geometries/ConvexGeometry.js";
import { mergeGeometries } from "three/addons/utils/BufferGeometryUtils.js";
import type { Body } from "../../design/types";

const AXES = ["x", "y", "z"] as const;

export const point = (at: readonly number[]) => new Vector3(at[0], at[1], at[2]);

export function rounded(x0: number, y0: number, x1: number, y1: number, radius: number): Shape {
  const r = Math.min(radius, (x1 - x0) / 2, (y1 - y0) / 2);
  const shape = new Shape();
  shape.moveTo(x0 + r, y0);
  shape.lineTo(x1 - r, y0);
  if (r > 0) shape.absarc(x1 - r, y0 + r, r, -Math.PI / 2, 0, false);
  shape.lineTo(x1, y1 - r);
  if (r > 0) shape.absarc(x1 - r, y1 - r, r, 0, Math.PI / 2, false);
  shape.lineTo(x0 + r, y1);
  if (r > 0) shape.absarc(x0 + r, y1 - r, r, Math.PI / 2, Math.PI, false);
  shape.lineTo(x0, y0 + r);
  if (r > 0) shape.absarc(x0 + r, y0 + r, r, Math.PI, Math.PI * 1.5, false);
  return shape;
}

export function extruded(shape: Shape, from: number, to: number): BufferGeometry {
  const geometry = new ExtrudeGeometry(shape, { depth: to - from, bevelEnabled: false, curveSegments: 10 });
  geometry.translate(0, 0, from);
  return geometry;
}

export function geometryOf(body: Body): BufferGeometry {
  if (body.shape === "cylinder") return round(body);
  if (body.shape === "cuboid") return new BoxGeometry(...body.size_mm);
  if (body.shape === "board") return blocks(body);
  if (body.surface)
    return surface(body.surface.corners_mm, body.surface.faces).translate(
      ...(body.size_mm.map((v) => -v / 2) as [number, number, number]),
    );
  const hull = new ConvexGeometry(body.hull_mm.map((p) => new Vector3(...p)));
  return hull.translate(...(body.size_mm.map((v) => -v / 2) as [number, number, number]));
}

/** A body as often as it is there: the copies lie along the case's axes, however each is turned. */
export function several(geometry: BufferGeometry, body: Body, copies: readonly (readonly number[])[]): BufferGeometry {
  if (copies.length < 2) return geometry;
  const [a, b, c] = body.turn_deg.map(MathUtils.degToRad);
  const back = new Quaternion().setFromEuler(new Euler(a, b, c, "ZYX")).invert();
  const each = copies.map((at) => {
    const { x, y, z } = point(at).applyQuaternion(back);
    return geometry.clone().translate(x, y, z);
  });
  return mergeGeometries(each);
}

/** A surface of triangles, each with corners of its own: its faces are flat. */
export function surface(
  corners: readonly (readonly number[])[],
  faces: readonly (readonly number[])[],
): BufferGeometry {
  const points = faces.flatMap((face) => face.map((i) => point(corners[i]!)));
  const geometry = new BufferGeometry().setFromPoints(points);
  geometry.computeVertexNormals();
  return geometry;
}

/** A board and what is on it, each block by itself. */
function blocks(body: Body): BufferGeometry {
  const boxes = body.blocks.map(({ at_mm, size_mm }) =>
    new BoxGeometry(...size_mm).translate(
      ...(at_mm.map((v, i) => v + size_mm[i]! / 2 - body.size_mm[i]! / 2) as [number, number, number]),
    ),
  );
  const merged = mergeGeometries(boxes);
  for (const box of boxes) box.dispose();
  return merged;
}

function round(body: Body): BufferGeometry {
  const along = AXES.indexOf(body.along);
  const diameter = body.size_mm[along === 0 ? 1 : 0];
  const geometry = new CylinderGeometry(diameter / 2, diameter / 2, body.size_mm[along], 40);
  if (along === 0) geometry.rotateZ(Math.PI / 2);
  if (along === 2) geometry.rotateX(Math.PI / 2);
  return geometry;
}

const SHADOW_PX = 128;

/** What the case throws on the ground: soft, darkest below it. */
export function shadow([x, y]: readonly [number, number, number]): Mesh {
  const drawn = document.createElement("canvas");
  drawn.width = drawn.height = SHADOW_PX;
  const pen = drawn.getContext("2d");
  if (pen) {
    pen.filter = `blur(${SHADOW_PX / 14}px)`;
    pen.fillRect(SHADOW_PX * 0.2, SHADOW_PX * 0.2, SHADOW_PX * 0.6, SHADOW_PX * 0.6);
  }
  const map = new CanvasTexture(drawn);
  const material = new MeshBasicMaterial({ map, transparent: true, opacity: 0.22, depthWrite: false });
  const mesh = new Mesh(new PlaneGeometry(x / 0.6, y / 0.6), material);
  mesh.position.set(x / 2, y / 2, -0.3);
  return mesh;
}
