import type { Character } from '@oscillum/core/character';
import { verticesIn } from '@oscillum/core/sheets';
import * as THREE from 'three';
import type { Figure } from './figure';
import { inkOf } from './parts';
import type { Posed } from './pose';
import type { StageView } from './view';

/** How dark a part of a mesh is that is lit: between two contours. */
const LIT = 0.4;

/** A place on a mesh under the pointer. */
export interface SurfacePlace {
  /** Where it is, m, and the vertex nearest to it. */
  readonly point: THREE.Vector3;
  readonly vertex: number;
  /** Pixels that a metre measures there. */
  readonly pixelsPerMetre: number;
}

/** The meshes of the figure as surfaces: what of them lies under the pointer, and maps drawn on them. */
export class MeshSurface {
  private painting = false;

  constructor(
    private readonly host: HTMLElement,
    private readonly camera: () => THREE.Camera,
    private readonly figure: () => Figure | null,
    private readonly repaint: () => void,
  ) {}

  /** The place of a mesh node under a point of the page; null beside it. */
  at(clientX: number, clientY: number, node: number): SurfacePlace | null {
    const r = this.host.getBoundingClientRect();
    const ray = new THREE.Raycaster();
    ray.setFromCamera(
      new THREE.Vector2(((clientX - r.left) / r.width) * 2 - 1, 1 - ((clientY - r.top) / r.height) * 2),
      this.camera(),
    );
    const hit = this.figure()?.vertexAt(ray, node);
    if (!hit) return null;
    return { point: hit.point, vertex: hit.vertex, pixelsPerMetre: this.pixelsPerMetre(hit.point) };
  }

  /** Pixels that a metre measures at a place. */
  pixelsPerMetre(place: THREE.Vector3): number {
    const r = this.host.getBoundingClientRect();
    const camera = this.camera();
    const [p, q] = [place.clone(), place.clone()].map((v, k) =>
      v
        .addScaledVector(new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, 0), 0.01 * k)
        .project(camera),
    ) as [THREE.Vector3, THREE.Vector3];
    return (Math.hypot((p.x - q.x) * r.width, (p.y - q.y) * r.height) / 2) * 100;
  }

  /** Where the vertices of a mesh node stand, m. */
  placesOf(node: number): Float64Array {
    return this.figure()?.placesOf(node) ?? new Float64Array(0);
  }

  /** Where each vertex of a mesh node is on the page: x and y by turns. */
  onPage(node: number): Float64Array {
    return this.toPage(this.placesOf(node));
  }

  /** The same of any places, m. */
  toPage(places: Float64Array): Float64Array {
    const r = this.host.getBoundingClientRect();
    const out = new Float64Array((2 * places.length) / 3);
    const p = new THREE.Vector3();
    for (let v = 0; v < places.length / 3; v++) {
      p.fromArray(places, 3 * v).project(this.camera());
      out[2 * v] = r.left + ((p.x + 1) / 2) * r.width;
      out[2 * v + 1] = r.top + ((1 - p.y) / 2) * r.height;
    }
    return out;
  }

  /** The picture's right and up, and where the eye is, m in the world; the way it looks where it is infinitely far. */
  eye(): { right: THREE.Vector3; up: THREE.Vector3; from: THREE.Vector3; flat: boolean } {
    const camera = this.camera();
    const column = (c: number) => new THREE.Vector3().setFromMatrixColumn(camera.matrixWorld, c);
    const flat = !(camera as THREE.PerspectiveCamera).isPerspectiveCamera;
    return { right: column(0), up: column(1), from: column(flat ? 2 : 3), flat };
  }

  /** Draws values of 0 and above, one a vertex, on the mesh of a node, the highest the darkest; null draws none. */
  paint(map: { readonly node: number; readonly shares: Float64Array } | null): void {
    this.painting = map !== null;
    const most = map?.shares.reduce((m, s) => Math.max(m, s), 0) ?? 0;
    this.figure()?.paint(map?.node ?? null, map ? map.shares.map((s) => (most > 0 ? s / most : 0)) : null);
    this.repaint();
  }

  /** Tints the meshes of parts as they are posed, where no map is painted. */
  tint(view: StageView, posed: Posed, character: Character): void {
    const { tint, litMesh, litRegion, shot } = view;
    const figure = this.figure();
    if (!figure || this.painting) return;
    figure.paint(null, null);
    if (litRegion && litMesh !== null) {
      const inside = verticesIn(character, litMesh, litRegion);
      figure.paint(
        litMesh,
        Float64Array.from(inside, (v) => LIT * v),
      );
      return;
    }
    if (!tint) return;
    for (const part of Object.values(shot.parts)) {
      const found = inkOf(part).tint?.(part, tint, { ...view, posed, character });
      if (found) figure.paint(found.node, found.shares);
    }
  }
}
