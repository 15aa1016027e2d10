import type { Character } from '@oscillum/core/character';
import * as THREE from 'three';
import { NOTHING } from '../sim/picture';
import { ballRound, Cameras, projector, type CameraPlace, type Side } from './cameras';
import { cordWidths } from './cords';
import { Figure } from './figure';
import { Ground } from './ground';
import type { Handle } from './handle';
import { drawHandles, handlesOf } from './handles';
import { drawInk } from './ink';
import { outlineAt } from './outlines';
import { drawsInSoftware, flatContext } from './drawing';
import type { InkScene } from './pen';
import { MeshSurface } from './meshSurface';
import { FigurePose, type Posed } from './pose';
import { Hair } from './hair';
import { Shells } from './shells';
import { drawSplit } from './split';
import { drawsSame, hasDrawn, type DrawnRows, type StageView } from './view';

const DIM = 0.85;

/** The paper stage: a WebGL canvas for the figure and a flat one over it for everything drawn in ink. */
export class Stage {
  private readonly renderer: THREE.WebGLRenderer;
  private readonly scene = new THREE.Scene();
  private readonly cameras: Cameras;
  private readonly overlay: HTMLCanvasElement;
  private figure: Figure | null = null;
  private figurePose: FigurePose | null = null;
  /** For the pose on other frames than the one shown. */
  private otherPose: FigurePose | null = null;
  private overlayPose: FigurePose | null = null;
  private view: StageView | null = null;
  private asked = 0;
  private width = 1;
  private height = 1;
  private readonly resizer: ResizeObserver;
  private inkScene: InkScene | null = null;
  private handles: Handle[] = [];
  private framed = false;
  /** What the WebGL canvas shows; null when it must be drawn whatever the pose. */
  private drawn: { figure: Figure; world: Float64Array; look: number[] } | null = null;
  private drawnRows: DrawnRows | null = null;
  private reach: ReturnType<Figure['reach']> = new Map();
  private readonly ground = new Ground();
  private readonly shells = new Shells();
  readonly hair = new Hair(() => this.repaint());
  /** The meshes of the figure under the pointer, and maps painted on them. */
  readonly surface: MeshSurface;

  constructor(readonly host: HTMLElement) {
    // Drawing in software (no graphics processor) is several times slower with smoothing, and the hand comes first.
    const software = drawsInSoftware();
    this.renderer = new THREE.WebGLRenderer({ antialias: !software, alpha: true });
    this.renderer.setPixelRatio(software ? 1 : Math.min(window.devicePixelRatio, 2));
    this.overlay = document.createElement('canvas');
    for (const c of [this.renderer.domElement, this.overlay]) {
      c.style.cssText = 'position:absolute;inset:0;width:100%;height:100%';
      host.append(c);
    }
    this.overlay.style.pointerEvents = 'none';
    this.scene.add(new THREE.HemisphereLight(0xfffaf0, 0xcbbfa5, 2.3 * DIM));
    const sun = new THREE.DirectionalLight(0xffffff, 1.3 * DIM);
    sun.position.set(2, 4, 3);
    this.scene.add(sun, this.ground.lines, this.shells.group, this.hair.group);
    this.cameras = new Cameras(this.renderer.domElement, () => this.invalidate());
    this.surface = new MeshSurface(
      host,
      () => this.cameras.camera,
      () => this.figure,
      this.repaint,
    );
    this.resizer = new ResizeObserver(() => this.resize());
    this.resizer.observe(host);
    this.resize();
  }

  setCharacter(character: Character | null): void {
    if (this.figure) {
      this.scene.remove(this.figure.group);
      this.figure.dispose();
    }
    this.figure = character ? new Figure(character, this.repaint) : null;
    const pose = () => (character ? new FigurePose(character) : null);
    [this.figurePose, this.otherPose, this.overlayPose] = [pose(), pose(), pose()];
    this.reach = this.figure?.reach() ?? new Map();
    this.framed = false;
    if (this.figure) this.scene.add(this.figure.group);
    this.resize();
  }

  show(view: StageView): void {
    const before = this.view;
    this.view = view;
    const seen = before && hasDrawn(this.drawnRows, view) ? { ...view, picture: before.picture } : view;
    if (before && drawsSame(before, seen)) {
      if (!this.asked) this.tellDrawn(view);
      return;
    }
    // Rows are told of just before the browser's next picture: drawn at once, they are in it.
    if (before?.tint !== view.tint || before?.without !== view.without) this.drawn = null;
    if (before?.litMesh !== view.litMesh || before?.litRegion !== view.litRegion) {
      this.figure?.light(view.litRegion ? null : view.litMesh);
      this.drawn = null;
    }
    if (before && before.picture !== view.picture) {
      cancelAnimationFrame(this.asked);
      this.draw();
    } else this.invalidate();
  }

  /** Looks at the whole figure, or at some of its joints, as posed now, from a side or from where the camera is. */
  frame(side?: Side, nodes: readonly number[] = []): void {
    if (!this.figurePose || !this.view) return;
    const { simulated } = this.figurePose.show(this.view.shot, this.view.picture, this.view.frame);
    const sphere = nodes.length > 0 ? ballRound(simulated, nodes) : this.ballOf(simulated, this.figurePose);
    this.cameras.lookAt(sphere, side);
    this.framed = true;
    this.invalidate();
  }

  /** Where the camera stands, to come back to, and how large the stage is, px. */
  place(): CameraPlace & { readonly width: number; readonly height: number } {
    return { ...this.cameras.place(), width: this.width, height: this.height };
  }

  lookFrom(place: CameraPlace): void {
    this.cameras.lookFrom(place);
    this.framed = true;
    this.invalidate();
  }

  /** A ball round the figure in a pose. */
  private ballOf(world: Float64Array, { character }: FigurePose): THREE.Sphere {
    const box = new THREE.Box3();
    const p = new THREE.Vector3();
    const ball = new THREE.Box3();
    const matrix = new THREE.Matrix4();
    for (const [node, { centre, radius }] of this.reach) {
      matrix.fromArray(world, 16 * node);
      const across = 2 * radius * matrix.getMaxScaleOnAxis();
      ball.setFromCenterAndSize(p.copy(centre).applyMatrix4(matrix), new THREE.Vector3().setScalar(across));
      box.union(ball);
    }
    if (box.isEmpty()) for (const j of character.joints) box.expandByPoint(p.fromArray(world, 16 * j + 12));
    if (box.isEmpty()) box.expandByPoint(new THREE.Vector3());
    return box.getBoundingSphere(new THREE.Sphere());
  }

  /** The joint whose place on screen is nearest to a point of the page, within some px; null when there is none. */
  jointAt(clientX: number, clientY: number, within = 14): number | null {
    if (!this.inkScene || !this.figurePose) return null;
    const r = this.host.getBoundingClientRect();
    let best = within;
    let found: number | null = null;
    for (const j of this.figurePose.character.joints) {
      const p = this.inkScene.project(this.inkScene.posed.simulated, 16 * j + 12);
      const d = Math.hypot(p[0] - (clientX - r.left), p[1] - (clientY - r.top));
      if (d < best - 0.5) {
        best = d;
        found = j;
      }
    }
    return found;
  }

  character(): Character | null {
    return this.figurePose?.character ?? null;
  }

  /** Turn of a joint as its source has it, and the picture's right, in the world. */
  axesAt(joint: number): { turn: THREE.Quaternion; right: THREE.Vector3 } {
    const matrix = new THREE.Matrix4();
    if (this.inkScene) matrix.fromArray(this.inkScene.posed.source, 16 * joint);
    return {
      turn: new THREE.Quaternion().setFromRotationMatrix(new THREE.Matrix4().extractRotation(matrix)),
      right: new THREE.Vector3().setFromMatrixColumn(this.cameras.camera.matrixWorld, 0),
    };
  }

  /** From the page to the plane through a joint that faces the camera; null before anything is drawn. */
  planeThrough(joint: number): ((clientX: number, clientY: number) => [number, number, number]) | null {
    if (!this.inkScene) return null;
    return this.planeAt(new THREE.Vector3().fromArray(this.inkScene.posed.simulated, 16 * joint + 12));
  }

  /** The same through any place. */
  planeAt(through: THREE.Vector3): (clientX: number, clientY: number) => [number, number, number] {
    const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(
      this.cameras.camera.getWorldDirection(new THREE.Vector3()),
      through,
    );
    const ray = new THREE.Raycaster();
    return (clientX, clientY) => {
      const r = this.host.getBoundingClientRect();
      const at = new THREE.Vector2(
        ((clientX - r.left) / r.width) * 2 - 1,
        1 - ((clientY - r.top) / r.height) * 2,
      );
      ray.setFromCamera(at, this.cameras.camera);
      return (ray.ray.intersectPlane(plane, new THREE.Vector3()) ?? through).toArray();
    };
  }

  /** The handle nearest to a point of the page, within some pixels. */
  handleAt(clientX: number, clientY: number, within: number): Handle | null {
    if (!this.inkScene) return null;
    const r = this.host.getBoundingClientRect();
    let best = within;
    let found: Handle | null = null;
    // Those drawn last lie on top.
    for (const handle of this.handles) {
      const p = this.inkScene.project(handle.at.toArray(), 0);
      const d = Math.hypot(p[0] - (clientX - r.left), p[1] - (clientY - r.top));
      if (d <= best) {
        best = d;
        found = handle;
      }
    }
    return found;
  }

  /** The collider whose outline is drawn at a point of the page, within some pixels. */
  colliderAt(clientX: number, clientY: number, within: number): string | null {
    if (!this.inkScene?.view.showColliders) return null;
    const r = this.host.getBoundingClientRect();
    return outlineAt(this.inkScene, clientX - r.left, clientY - r.top, within);
  }

  /** Where a joint is on the page, for tests and for leading the eye. */
  placeOf(joint: number): { x: number; y: number } | null {
    if (!this.inkScene) return null;
    const r = this.host.getBoundingClientRect();
    const p = this.inkScene.project(this.inkScene.posed.simulated, 16 * joint + 12);
    return { x: r.left + p[0], y: r.top + p[1] };
  }

  /** Draws another view from where the camera stands, paper, figure and ink together; the stage stays as it was. */
  still(view: StageView, onto: HTMLCanvasElement): void {
    const before = this.view;
    this.view = view;
    this.drawn = null;
    this.draw();
    const figure = this.renderer.domElement;
    // Encoders take even sizes only.
    onto.width = figure.width & ~1;
    onto.height = figure.height & ~1;
    const g = onto.getContext('2d')!;
    g.fillStyle = getComputedStyle(document.documentElement).getPropertyValue('--paper') || '#f5efe2';
    g.fillRect(0, 0, onto.width, onto.height);
    g.drawImage(figure, 0, 0);
    g.drawImage(this.overlay, 0, 0);
    this.view = before;
    this.drawn = null;
    this.invalidate();
  }

  /** A picture of the stage as it stands, as a data URL. */
  picture(): string {
    // The drawing buffer is only there until the browser has shown it.
    this.drawn = null;
    this.draw();
    return this.renderer.domElement.toDataURL('image/webp', 0.85);
  }

  dispose(): void {
    cancelAnimationFrame(this.asked);
    this.resizer.disconnect();
    this.cameras.dispose();
    this.figure?.dispose();
    this.ground.dispose();
    this.shells.dispose();
    this.hair.dispose();
    this.renderer.dispose();
    this.renderer.forceContextLoss();
    this.host.replaceChildren();
  }

  private readonly repaint = (): void => {
    this.drawn = null;
    this.invalidate();
  };

  private invalidate(): void {
    if (!this.asked) this.asked = requestAnimationFrame(() => this.draw());
  }

  /**
   * Whether the figure has to be drawn anew: a joint, a morph, a vertex or the camera has moved, or the picture is not
   * of it.
   */
  private moved({ simulated: world, morphs, points, curves }: Posed, figure: Figure): boolean {
    const { camera } = this.cameras;
    camera.updateMatrixWorld();
    const { drawn } = this;
    const look = [
      ...camera.matrixWorld.elements,
      ...camera.projectionMatrix.elements,
      ...[...morphs.values()].flatMap((w) => Array.from(w)),
    ];
    const same =
      points.size === 0 &&
      curves.size === 0 &&
      drawn !== null &&
      drawn.figure === figure &&
      drawn.world.length === world.length &&
      drawn.look.every((x, i) => x === look[i]) &&
      drawn.world.every((x, i) => x === world[i]);
    if (!same) this.drawn = { figure, world: world.slice(), look };
    return !same;
  }

  private resize(): void {
    const w = (this.width = Math.max(1, this.host.clientWidth));
    const h = (this.height = Math.max(1, this.host.clientHeight));
    this.renderer.setSize(w, h, false);
    this.drawn = null;
    const ratio = this.renderer.getPixelRatio();
    this.overlay.width = w * ratio;
    this.overlay.height = h * ratio;
    this.cameras.fit(w, h);
    this.figure?.resize(w, h);
    this.invalidate();
  }

  private draw(): void {
    this.asked = 0;
    const { view, figurePose, figure } = this;
    if (!view || !figurePose || !figure) {
      this.renderer.clear();
      return;
    }
    if (!this.framed) this.frame('three-quarter');
    const posed = figurePose.show(view.shot, view.picture, view.frame, view.larger);
    this.cameras.lookFlat(view.flat);
    const first = figurePose.character.joints[0] ?? 0;
    this.cameras.goAlong(view.follow ? new THREE.Vector3().fromArray(posed.source, 16 * first + 12) : null);
    if (this.moved(posed, figure)) {
      const put = (p: Posed) => {
        figure.pose(p.simulated, p.morphs, p.points, cordWidths(view.shot, view.frame));
        this.surface.tint(view, p, figurePose.character);
        const standing = { ...view, posed: p, character: figurePose.character };
        this.shells.show(view, standing);
        this.hair.show(standing, this.cameras.camera);
      };
      const without = () => put(this.otherPose!.show(view.shot, NOTHING, view.frame));
      this.ground.follow(figurePose.character, posed.source);
      drawSplit(this.renderer, this.scene, this.cameras.camera, view.without, without, () => put(posed));
    }
    const { width, height } = this;
    const project = projector(this.cameras.camera, width, height);
    const { center, radius } = this.ballOf(posed.source, figurePose);
    const ball = { centre: center.toArray(), radius };
    const elsewhere = (frame: number) => this.otherPose!.show(view.shot, view.picture, frame).simulated;
    const overlay = view.overlay
      ? this.overlayPose!.show(view.overlay.shot, view.overlay.picture, view.frame).simulated
      : null;
    const [right, toward] = [0, 2].map((c) =>
      new THREE.Vector3().setFromMatrixColumn(this.cameras.camera.matrixWorld, c),
    ) as [THREE.Vector3, THREE.Vector3];
    this.inkScene = {
      view,
      posed,
      character: figurePose.character,
      elsewhere,
      overlay,
      ball,
      right: right.toArray(),
      toward: toward.toArray(),
      project,
    };
    const ratio = this.renderer.getPixelRatio();
    const context = flatContext(this.overlay);
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, width, height);
    drawInk(context, this.inkScene);
    this.handles = handlesOf(this.inkScene, right, toward);
    drawHandles(context, this.inkScene, this.handles);
    this.host.dataset.handles = this.handles
      .map(({ name, at }) => {
        const [x, y] = project(at.toArray(), 0);
        return `${name} ${x.toFixed(1)} ${y.toFixed(1)}`;
      })
      .join('; ');
    const { frames, version } = view.picture;
    this.drawnRows = { frames, version, done: frames?.done ?? 0 };
    this.tellDrawn(view);
    const hover = view.hoverJoint === null ? null : this.placeOf(view.hoverJoint);
    this.host.dataset.hoverAt = hover ? `${hover.x} ${hover.y}` : '';
  }

  /** Says what is drawn, for tests. */
  private tellDrawn({ frame, picture }: StageView): void {
    const { dataset } = this.host;
    dataset.drawnFrame = String(frame);
    dataset.drawnRun = String(picture.version);
    dataset.drawnWhole = String(!picture.running);
  }
}
