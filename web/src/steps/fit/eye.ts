// From where a case is looked at: named views, turned and nearer, several as one.
import { MathUtils, PerspectiveCamera, Vector3 } from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";

type Triple = readonly [number, number, number];

const VIEWS: Record<string, Triple> = {
  "from the corner": [-0.62, -1, 0.72],
  "from above": [0, -0.001, 1],
  "from the front": [0, -1, 0.001],
  "from the right": [1, 0, 0.001],
};
export const VIEW_NAMES = Object.keys(VIEWS);

export const APART_FARTHER = 1.35;
const OTHER_SHAPE = 0.2; // of the picture: from there on it is framed anew
const TURN = MathUtils.degToRad(7);

/** Of a case, so much is seen of it in each direction [mm]. */
export const halfDiagonal = (outer: Triple): number => new Vector3(...outer).length() / 2;

export class Eye {
  readonly camera = new PerspectiveCamera(32, 1, 1, 20000);
  private controls: OrbitControls;
  private view = "from the corner";
  private others: readonly Eye[] = [];
  private led = false;

  constructor(
    canvas: HTMLCanvasElement,
    private changed: () => void,
  ) {
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.enableDamping = false;
    this.controls.addEventListener("change", () => {
      if (!this.led) for (const other of this.others) other.follow(this.arm());
      this.changed();
    });
  }

  dispose() {
    this.controls.dispose();
  }

  /** Whether the pointer turns it. */
  set enabled(on: boolean) {
    this.controls.enabled = on;
  }

  /** The picture has another shape; tells whether it should be framed anew. */
  reshape(aspect: number): boolean {
    const before = this.camera.aspect;
    this.camera.aspect = aspect;
    this.camera.updateProjectionMatrix();
    return Math.abs(aspect / before - 1) > OTHER_SHAPE;
  }

  look({ outer, around }: { outer: Triple; around?: number }, apart: boolean, name = this.view) {
    const from = VIEWS[name];
    if (!from) return;
    this.view = name;
    const middle = new Vector3(...outer).multiplyScalar(0.5);
    const sine = Math.sin(MathUtils.degToRad(this.camera.fov / 2));
    const narrow = Math.min(this.camera.aspect, 1);
    const far = ((around ?? halfDiagonal(outer)) / sine / narrow) * 0.96 * (apart ? APART_FARTHER : 1);
    this.camera.near = far / 50;
    this.camera.far = far * 50;
    this.camera.updateProjectionMatrix();
    this.controls.target.copy(middle);
    this.go(new Vector3(...from).normalize().multiplyScalar(far));
    this.changed();
  }

  /** Goes around the case, as the arrow keys do. */
  orbit(sideways: number, upwards: number) {
    const arm = this.arm();
    const flat = Math.hypot(arm.x, arm.y);
    const around = Math.atan2(arm.y, arm.x) + sideways * TURN;
    const high = MathUtils.clamp(Math.atan2(arm.z, flat) + upwards * TURN, -1.55, 1.55);
    const far = arm.length();
    this.go(
      arm.set(Math.cos(around) * Math.cos(high), Math.sin(around) * Math.cos(high), Math.sin(high)).multiplyScalar(far),
    );
  }

  zoom(factor: number) {
    this.go(this.arm().multiplyScalar(factor));
  }

  /** The others are turned as this one is. */
  lead(others: readonly Eye[]) {
    this.others = others;
  }

  /** Moves without the others. */
  alone(move: () => void) {
    this.led = true;
    move();
    this.led = false;
  }

  private follow(arm: Vector3) {
    this.alone(() => this.go(arm));
  }

  private arm = () => this.camera.position.clone().sub(this.controls.target);

  private go(arm: Vector3) {
    this.camera.position.copy(this.controls.target).add(arm);
    this.controls.update();
  }
}
