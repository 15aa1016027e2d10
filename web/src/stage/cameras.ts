import * as THREE from 'three';
import { OrbitControls } from 'three/examples/jsm/controls/OrbitControls.js';

export type Side = 'side' | 'front' | 'three-quarter' | 'top';

const DIRECTIONS: Record<Side, [number, number, number]> = {
  side: [1, 0.12, 0.001],
  front: [0, 0.12, 1],
  'three-quarter': [0.75, 0.28, 0.75],
  top: [0.001, 1, 0],
};
/** Where a camera stands and looks. */
export interface CameraPlace {
  readonly target: THREE.Vector3;
  readonly at: THREE.Vector3;
  readonly zoom: number;
}

/**
 * The stage's two cameras, with perspective and without, that look at the same from the same side; and the hand on
 * them.
 */
export class Cameras {
  private readonly perspective = new THREE.PerspectiveCamera(28, 1, 0.01, 1000);
  private readonly parallel = new THREE.OrthographicCamera(-1, 1, 1, -1, 0.01, 1000);
  camera: THREE.PerspectiveCamera | THREE.OrthographicCamera = this.perspective;
  private readonly controls: OrbitControls;
  /** Where the figure stood when the camera last went along with it. */
  private followed: THREE.Vector3 | null = null;
  private aspect = 1;

  constructor(canvas: HTMLCanvasElement, changed: () => void) {
    this.controls = new OrbitControls(this.camera, canvas);
    this.controls.addEventListener('change', changed);
    this.controls.mouseButtons = {
      LEFT: THREE.MOUSE.ROTATE,
      MIDDLE: THREE.MOUSE.PAN,
      RIGHT: THREE.MOUSE.PAN,
    };
  }

  dispose(): void {
    this.controls.dispose();
  }

  /** Looks at a whole ball, from a side or from where the camera is. */
  lookAt(sphere: THREE.Sphere, side?: Side): void {
    const radius = Math.max(sphere.radius, 1e-3) * 0.9;
    const direction = side
      ? new THREE.Vector3(...DIRECTIONS[side]).normalize()
      : this.camera.position.clone().sub(this.controls.target).normalize();
    if (direction.lengthSq() < 0.5) direction.set(...DIRECTIONS['three-quarter']).normalize();
    const { fov, aspect } = this.perspective;
    const distance = radius / (Math.sin((fov * Math.PI) / 360) * Math.min(1, aspect));
    this.controls.target.copy(sphere.center);
    this.parallel.zoom = 1;
    for (const camera of [this.perspective, this.parallel]) {
      camera.position.copy(sphere.center).addScaledVector(direction, distance);
      camera.near = distance / 100;
      camera.far = distance * 100;
    }
    this.refit();
    this.controls.update();
    this.followed = null;
  }

  place(): CameraPlace {
    return {
      target: this.controls.target.clone(),
      at: this.camera.position.clone(),
      zoom: this.parallel.zoom,
    };
  }

  lookFrom({ target, at, zoom }: CameraPlace): void {
    this.controls.target.copy(target);
    for (const camera of [this.perspective, this.parallel]) camera.position.copy(at);
    this.parallel.zoom = zoom;
    this.refit();
    this.controls.update();
    this.followed = null;
  }

  /** The stage has another size. */
  fit(width: number, height: number): void {
    this.aspect = width / height;
    this.refit();
  }

  /** Both cameras show as much at the target as the perspective one's distance gives. */
  private refit(): void {
    const { perspective, parallel } = this;
    const distance = this.camera.position.distanceTo(this.controls.target);
    const half = Math.tan((perspective.fov * Math.PI) / 360) * distance;
    perspective.aspect = this.aspect;
    Object.assign(parallel, { top: half, bottom: -half });
    Object.assign(parallel, { left: -half * perspective.aspect, right: half * perspective.aspect });
    perspective.updateProjectionMatrix();
    parallel.updateProjectionMatrix();
  }

  /** With perspective or without, looking at the same from the same side. */
  lookFlat(flat: boolean): void {
    const next = flat ? this.parallel : this.perspective;
    if (next === this.camera) return;
    const { target } = this.controls;
    const direction = this.camera.position.clone().sub(target);
    // A parallel camera comes nearer by its zoom, the other by its distance.
    const distance = flat ? direction.length() : direction.length() / this.parallel.zoom;
    next.position.copy(target).addScaledVector(direction.normalize(), distance);
    next.near = distance / 100;
    next.far = distance * 100;
    this.camera = next;
    this.parallel.zoom = 1;
    this.controls.object = next;
    this.refit();
    this.controls.update();
  }

  /** Takes the camera along with a place; null lets it go. */
  goAlong(place: THREE.Vector3 | null): void {
    if (place && this.followed) {
      const way = place.clone().sub(this.followed);
      this.controls.target.add(way);
      this.camera.position.add(way);
      this.controls.update();
    }
    this.followed = place;
  }
}

/** A ball round some joints in a pose. */
export function ballRound(world: Float64Array, nodes: readonly number[]): THREE.Sphere {
  const points = nodes.map((n) => new THREE.Vector3().fromArray(world, 16 * n + 12));
  const ball = new THREE.Sphere().setFromPoints(points);
  ball.radius = Math.max(1.2 * ball.radius, 1e-3);
  return ball;
}

/** From places in the world (3 numbers at i of a list) to the picture, px; far away for what is behind the camera. */
export function projector(
  camera: THREE.Camera,
  width: number,
  height: number,
): (a: ArrayLike<number>, i: number) => [number, number] {
  const m = new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse).elements;
  return (a, i) => {
    const x = a[i]!,
      y = a[i + 1]!,
      z = a[i + 2]!;
    const w = m[3]! * x + m[7]! * y + m[11]! * z + m[15]!;
    const px = (m[0]! * x + m[4]! * y + m[8]! * z + m[12]!) / w;
    const py = (m[1]! * x + m[5]! * y + m[9]! * z + m[13]!) / w;
    return w > 0 ? [((px + 1) / 2) * width, ((1 - py) / 2) * height] : [-1e4, -1e4];
  };
}
