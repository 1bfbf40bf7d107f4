// The case and its bodies in space, drawn on demand. Millimetres, z upwards; nothing is reckoned here but where things are drawn.
import {
  AmbientLight,
  BoxGeometry,
  BufferGeometry,
  Color,
  DirectionalLight,
  DoubleSide,
  EdgesGeometry,
  Group,
  LineBasicMaterial,
  LineDashedMaterial,
  LineSegments,
  MathUtils,
  Mesh,
  MeshBasicMaterial,
  MeshLambertMaterial,
  Plane,
  Raycaster,
  Scene,
  Vector2,
  Vector3,
  WebGLRenderer,
  type Material,
  type Object3D,
} from "three";
import type { Body } from "../../design/types";
import type { MadeOf } from "../../design/types";
import { APART_FARTHER, Eye } from "./eye";
import { extruded, geometryOf, several, point, rounded, shadow, surface } from "./shapes";

export type Triple = readonly [number, number, number];
export type Shown = {
  where: string;
  name: string;
  body: Body;
  tint: string;
  made: MadeOf;
  swelling: Triple;
  copies: readonly (readonly number[])[]; // where several lie from the first one on
  window: readonly (readonly number[])[];
  near: number | null; // how near to what it stands, where warmth is shown
};
export type Content = {
  outer: Triple;
  walls: readonly number[];
  corner: number;
  innerCorner: number;
  split: number;
  own: Own | null;
  bodies: readonly Shown[];
  thin: readonly { at_mm: readonly number[]; status: string }[];
  theme: string;
  /** half the diagonal that is framed [mm], so that several are seen at one scale; its own where none is given */
  around?: number;
};
export type Part = { corners: number[][]; faces: number[][] };
export type Own = { lower: Part | null; upper: Part | null };
export type Label = { name: string; x: number; y: number };
export type Line = { begin: readonly number[]; end: readonly number[]; tint: string };
export type Cut = { axis: 0 | 1 | 2; at: number } | null;
type Told = {
  hover: (where: string | null) => void;
  select: (where: string | null) => void;
  dragging: (where: string, by: Triple) => Triple;
  dropped: (where: string, by: Triple) => void;
  placed: (names: readonly Label[]) => void;
};

const SIDES = ["left", "right", "front", "back", "bottom", "top"] as const;
// how dark a body is, from paper to charcoal; the cell is ember
const DARK: Record<MadeOf, number> = { cell: 0.5, board: 0.42, glass: 0.85, metal: 0.16, case: 0.06, other: 0.28 };
const MARK_MM = 1.2;

/** Whether the browser has what a scene needs. */
export function canDraw(): boolean {
  const context = document.createElement("canvas").getContext("webgl2");
  context?.getExtension("WEBGL_lose_context")?.loseContext();
  return context !== null;
}

export class CaseScene {
  private renderer: WebGLRenderer;
  private scene = new Scene();
  private eye: Eye;
  private shell = new Group();
  private lid = new Group();
  private bodies = new Group();
  private lines = new Group();
  private windows = new Group();
  private ground = new Group();
  private content: Content | null = null;
  private apart = false;
  private named = false;
  private cut: Cut = null;
  private selected: string | null = null;
  private measured: readonly Line[] = [];
  private asked = 0;
  private drag: { where: string; axis: number; plane: Plane; from: Vector3; by: Triple } | null = null;

  constructor(
    private canvas: HTMLCanvasElement,
    /** null: it is only looked at, nothing is chosen or moved */
    private told: Told | null,
    private colour: (name: string) => string,
  ) {
    this.renderer = new WebGLRenderer({ canvas, antialias: true, alpha: true, preserveDrawingBuffer: true }); // to be printed
    this.renderer.localClippingEnabled = true;
    this.eye = new Eye(canvas, this.draw);
    const sun = new DirectionalLight("white", 1.6);
    sun.position.set(-0.4, -0.8, 1);
    this.scene.add(
      new AmbientLight("white", 1.7),
      sun,
      this.shell,
      this.lid,
      this.bodies,
      this.lines,
      this.windows,
      this.ground,
    );
    canvas.addEventListener("pointerdown", this.down, true);
    canvas.addEventListener("pointermove", this.move);
    canvas.addEventListener("pointerup", this.up);
    canvas.addEventListener("pointercancel", this.cancel);
  }

  dispose() {
    cancelAnimationFrame(this.asked);
    this.canvas.removeEventListener("pointerdown", this.down, true);
    this.canvas.removeEventListener("pointermove", this.move);
    this.canvas.removeEventListener("pointerup", this.up);
    this.canvas.removeEventListener("pointercancel", this.cancel);
    this.eye.dispose();
    for (const group of [this.shell, this.lid, this.bodies, this.lines, this.windows, this.ground]) emptied(group);
    this.renderer.dispose();
    this.renderer.forceContextLoss(); // a browser has few of them
  }

  resize(width: number, height: number) {
    this.renderer.setPixelRatio(Math.min(window.devicePixelRatio, 2));
    this.renderer.setSize(width, height, false);
    if (this.eye.reshape(width / Math.max(height, 1))) this.look();
    this.draw();
  }

  show(content: Content) {
    const first = !this.content;
    const before = this.content?.outer.join();
    this.content = content;
    this.build();
    if (first || before !== content.outer.join()) this.look();
    this.draw();
  }

  select(where: string | null) {
    this.selected = where;
    this.paint();
    this.draw();
  }

  setCut(cut: Cut) {
    this.cut = cut;
    this.clip();
    this.draw();
  }

  setApart(apart: boolean) {
    if (apart === this.apart) return;
    this.apart = apart;
    this.arrange();
    this.rule();
    this.eye.alone(() => this.eye.zoom(apart ? APART_FARTHER : 1 / APART_FARTHER)); // each steps back by itself
  }

  /** Names of the bodies, where they are in the picture. */
  setNamed(named: boolean) {
    this.named = named;
    this.draw();
  }

  setLines(lines: readonly Line[]) {
    this.measured = lines;
    this.rule();
    this.draw();
  }

  private rule() {
    emptied(this.lines);
    for (const { begin, end, tint } of this.measured) {
      const geometry = new BufferGeometry().setFromPoints([point(begin), point(end)]);
      const material = new LineBasicMaterial({ color: this.tint(tint), depthTest: false });
      this.lines.add(new LineSegments(geometry, material));
    }
    this.lines.position.copy(this.bodies.position);
  }

  /** From one of the named views; from the present one where none is given. */
  look(name?: string) {
    if (this.content) this.eye.look(this.content, this.apart, name);
  }

  /** Turns the others as this one is turned. */
  lead(others: readonly CaseScene[]) {
    this.eye.lead(others.map((o) => o.eye));
  }

  /** Goes around the case, as the arrow keys do. */
  orbit(sideways: number, upwards: number) {
    this.eye.orbit(sideways, upwards);
  }

  zoom(factor: number) {
    this.eye.zoom(factor);
  }

  /** Draws once, at the next frame; returns how long the last frame took to ask for. */
  draw = () => {
    cancelAnimationFrame(this.asked);
    this.asked = requestAnimationFrame(() => {
      this.renderer.render(this.scene, this.eye.camera);
      this.told?.placed(this.named ? this.labels() : []);
    });
  };

  private labels(): Label[] {
    const { clientWidth, clientHeight } = this.canvas;
    const names = new Map(this.content?.bodies.map((b) => [b.where, b.name]));
    return this.bodies.children.flatMap((group) => {
      const { where } = group.userData as { where: string };
      if (where.startsWith("/enclosure")) return [];
      const at = group.getWorldPosition(new Vector3()).project(this.eye.camera);
      const x = ((at.x + 1) / 2) * clientWidth;
      const y = ((1 - at.y) / 2) * clientHeight;
      const inside = x > 0 && y > 0 && x < clientWidth && y < clientHeight;
      return inside ? [{ name: names.get(where) ?? "", x, y }] : [];
    });
  }

  private tint = (name: string) => new Color(this.colour(name));

  private build() {
    const content = this.content!;
    for (const group of [this.shell, this.lid, this.bodies, this.windows, this.ground]) emptied(group);
    this.ground.add(shadow(content.outer));
    this.buildShell(content);
    for (const shown of content.bodies) {
      this.bodies.add(this.solid(shown));
      if (shown.window.length) this.windows.add(this.frame(shown.window));
    }
    for (const spot of content.thin) this.shell.add(this.mark(spot.at_mm, spot.status));
    this.clip();
    this.arrange();
    this.paint();
    this.rule();
  }

  /** A small cross in space. */
  private mark(at: readonly number[], status: string): LineSegments {
    const ends = [0, 1, 2].flatMap((axis) =>
      [-1, 1].map((way) => point(at.map((v, i) => (i === axis ? v + way * MARK_MM : v)))),
    );
    const material = new LineBasicMaterial({
      color: this.tint(status === "fail" ? "--fail" : "--watch"),
      depthTest: false,
    });
    return new LineSegments(new BufferGeometry().setFromPoints(ends), material);
  }

  private buildShell({ outer, walls, corner, innerCorner, split, own }: Content) {
    if (own) {
      if (own.lower) this.wall(this.shell, surface(own.lower.corners, own.lower.faces));
      if (own.upper) this.wall(this.lid, surface(own.upper.corners, own.upper.faces));
      return;
    }
    const [x, y, z] = outer;
    const [left, right, front, back, bottom, top] = walls as number[];
    const inside = rounded(left!, front!, x - right!, y - back!, innerCorner);
    const ring = (from: number, to: number) => {
      const shape = rounded(0, 0, x, y, corner);
      if (x > left! + right! && y > front! + back!) shape.holes.push(inside);
      return extruded(shape, from, to);
    };
    const plate = (from: number, to: number) => extruded(rounded(0, 0, x, y, corner), from, to);
    const apart = Math.min(split, z - top!);
    this.wall(this.shell, plate(0, bottom!));
    if (apart > bottom!) this.wall(this.shell, ring(bottom!, apart));
    if (z - top! > Math.max(apart, bottom!)) this.wall(this.lid, ring(Math.max(apart, bottom!), z - top!));
    this.wall(this.lid, plate(z - top!, z));
  }

  private wall(group: Group, geometry: BufferGeometry) {
    const material = new MeshLambertMaterial({
      color: this.tint("--soft"),
      transparent: true,
      opacity: 0.16,
      depthWrite: false,
      side: DoubleSide,
      polygonOffset: true, // what ends in the shell's own face is drawn before it
      polygonOffsetFactor: 1,
      polygonOffsetUnits: 1,
    });
    const mesh = new Mesh(geometry, material);
    mesh.renderOrder = 2;
    const edges = new LineSegments(
      new EdgesGeometry(geometry, 25),
      new LineBasicMaterial({ color: this.tint("--soft"), transparent: true, opacity: 0.75 }),
    );
    group.add(mesh, edges);
  }

  /** What is seen of a body through its wall. */
  private frame(corners: readonly (readonly number[])[]): LineSegments {
    const ends = corners.flatMap((from, i) => [point(from), point(corners[(i + 1) % corners.length]!)]);
    const material = new LineBasicMaterial({ color: this.tint("--ink") });
    return new LineSegments(new BufferGeometry().setFromPoints(ends), material);
  }

  private solid({ where, body, swelling, copies }: Shown): Group {
    const [x, y, z] = body.size_mm;
    const geometry = several(geometryOf(body), body, copies);
    const mesh = new Mesh(geometry, new MeshLambertMaterial({ side: DoubleSide }));
    const edges = new LineSegments(new EdgesGeometry(geometry, 25), new LineBasicMaterial());
    const group = new Group();
    group.add(mesh, edges);
    if (swelling.some((v) => v > 0)) {
      const grown = new EdgesGeometry(new BoxGeometry(x + swelling[0], y + swelling[1], z + swelling[2]));
      const outline = new LineSegments(grown, new LineBasicMaterial({ color: this.tint("--ember") }));
      outline.position.set(swelling[0] / 2, swelling[1] / 2, swelling[2] / 2);
      group.add(outline);
    }
    for (const zone of body.zones) group.add(this.room(body, zone));
    const [a, b, c] = body.turn_deg.map(MathUtils.degToRad);
    group.rotation.set(a!, b!, c!, "ZYX"); // about x, then y, then z
    group.userData = { where, body };
    return group;
  }

  /** The room before a body that must stay free. */
  private room(body: Body, zone: Body["zones"][number]): LineSegments {
    const side = SIDES.indexOf(zone.side);
    const axis = side >> 1;
    const size = body.size_mm.map((v) => Math.max(v + 2 * zone.margin_mm, 0.01)) as [number, number, number];
    size[axis] = zone.depth_mm;
    const edges = new EdgesGeometry(new BoxGeometry(...size));
    const material = new LineDashedMaterial({ color: this.tint("--soft"), dashSize: 1.2, gapSize: 1 });
    const lines = new LineSegments(edges, material);
    lines.computeLineDistances();
    lines.position.setComponent(axis, ((body.size_mm[axis]! + zone.depth_mm) / 2) * (side & 1 ? 1 : -1));
    return lines;
  }

  /** Where everything is: in its place, or pulled apart along z. */
  private arrange() {
    const content = this.content;
    if (!content) return;
    const z = content.outer[2];
    this.lid.position.z = this.apart ? z * 1.4 : 0;
    this.bodies.position.z = this.apart ? z * 0.6 : 0;
    this.windows.position.z = this.bodies.position.z;
    for (const group of this.bodies.children) {
      const { body, where } = group.userData as { body: Body; where: string };
      const moved = this.drag?.where === where ? this.drag.by : [0, 0, 0];
      const at = body.position_mm ?? [0, 0, 0];
      group.position.set(...(at.map((v, i) => v + body.size_mm[i]! / 2 + moved[i]!) as [number, number, number]));
    }
  }

  private paint() {
    for (const group of this.bodies.children) {
      const { where } = group.userData as { where: string };
      const shown = this.content?.bodies.find((s) => s.where === where);
      const [mesh, edges] = group.children as [Mesh, LineSegments];
      const chosen = where === this.selected;
      const near = shown?.near ?? null;
      const own = near === null ? this.tint(shown?.tint ?? "--soft") : this.warm(near);
      const face = mesh.material as MeshLambertMaterial;
      const plain = near === null && shown?.tint === "--soft";
      const dark = DARK[shown?.made ?? "other"];
      if (plain) face.color = this.tint("--sheet").lerp(this.tint("--ink"), chosen ? Math.min(dark + 0.3, 1) : dark);
      else
        face.color = this.tint("--sheet").lerp(own, chosen ? 0.7 : near === null ? 0.5 : 0.3 + 0.5 * Math.min(near, 1));
      const line = chosen || plain ? this.tint("--ink") : own;
      (edges.material as LineBasicMaterial).color = chosen ? line : line.lerp(face.color, 0.35);
      (edges.material as LineBasicMaterial).linewidth = chosen ? 2 : 1;
    }
  }

  private warm(near: number): Color {
    return near > 1 ? this.tint("--fail") : this.tint("--soft").lerp(this.tint("--ember"), Math.max(near, 0));
  }

  private clip() {
    const planes: Plane[] = [];
    if (this.cut) {
      const normal = new Vector3();
      normal.setComponent(this.cut.axis, this.cut.axis === 1 ? 1 : -1);
      planes.push(new Plane(normal, this.cut.axis === 1 ? -this.cut.at : this.cut.at));
    }
    for (const group of [this.shell, this.lid, this.bodies])
      group.traverse((o) => {
        const material = (o as Partial<Mesh>).material as Material | undefined;
        if (material) material.clippingPlanes = planes;
      });
  }

  private hit(e: PointerEvent): { where: string; at: Vector3 } | null {
    const ray = this.ray(e);
    const found = ray.intersectObjects(
      this.bodies.children.map((g) => g.children[0]!),
      false,
    );
    const cut = this.cut;
    const kept = found.find(
      (f) => !cut || (cut.axis === 1 ? f.point.y >= cut.at : f.point.getComponent(cut.axis) <= cut.at),
    );
    return kept ? { where: (kept.object.parent as Object3D).userData.where as string, at: kept.point } : null;
  }

  private ray(e: PointerEvent): Raycaster {
    const box = this.canvas.getBoundingClientRect();
    const at = new Vector2(((e.clientX - box.left) / box.width) * 2 - 1, 1 - ((e.clientY - box.top) / box.height) * 2);
    const ray = new Raycaster();
    ray.setFromCamera(at, this.eye.camera);
    return ray;
  }

  private down = (e: PointerEvent) => {
    if (e.button !== 0 || !this.told) return;
    const found = this.hit(e);
    this.told.select(found?.where ?? null);
    if (!found || this.apart) return;
    // it is moved along the case's axes, in the plane that faces the eye most
    const facing = this.eye.camera.getWorldDirection(new Vector3());
    const axis = [0, 1, 2].reduce((a, b) =>
      Math.abs(facing.getComponent(b)) > Math.abs(facing.getComponent(a)) ? b : a,
    );
    const normal = new Vector3();
    normal.setComponent(axis, 1);
    this.drag = {
      where: found.where,
      axis,
      plane: new Plane().setFromNormalAndCoplanarPoint(normal, found.at),
      from: found.at,
      by: [0, 0, 0],
    };
    this.eye.enabled = false;
    this.canvas.setPointerCapture(e.pointerId);
  };

  private move = (e: PointerEvent) => {
    const drag = this.drag;
    if (!drag) {
      if (e.buttons === 0) this.told?.hover(this.hit(e)?.where ?? null);
      return;
    }
    const at = this.ray(e).ray.intersectPlane(drag.plane, new Vector3());
    if (!at) return;
    const by = at.sub(drag.from).setComponent(drag.axis, 0).toArray();
    drag.by = this.told?.dragging(drag.where, by) ?? drag.by;
    this.arrange();
    this.draw();
  };

  private cancel = () => {
    const drag = this.drag;
    this.drag = null;
    this.eye.enabled = true;
    if (drag) this.told?.dropped(drag.where, [0, 0, 0]);
    this.arrange();
    this.draw();
  };

  private up = () => {
    const drag = this.drag;
    this.drag = null;
    this.eye.enabled = true;
    if (drag) this.told?.dropped(drag.where, drag.by);
  };
}

function emptied(group: Group) {
  group.traverse((o) => {
    const drawn = o as Partial<Mesh>;
    drawn.geometry?.dispose();
    (drawn.material as Partial<MeshBasicMaterial> | undefined)?.map?.dispose();
    if (drawn.material) (drawn.material as Material).dispose();
  });
  group.clear();
}
