import { morphedVertices, skinVertices, type Character } from '@oscillum/core/character';
import type { Part } from '@oscillum/core/shot';
import {
  drawnPoints,
  layLook,
  layOutStrands,
  planLook,
  posedGroom,
  type StrandsLayout,
} from '@oscillum/core/simulate';
import type { Groom, Look } from '@oscillum/core/strands';
import * as THREE from 'three';
import type { Standing } from './parts/kind';

type StrandsPart = Extract<Part, { kind: 'strands' }>;

/** How much lighter or darker a strand may be than another. */
const SHADES = 0.16;

/** One part's hair as it is drawn: ribbons that face the camera. */
interface Drawn {
  readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.MeshBasicMaterial>;
  readonly layout: ReturnType<typeof layOutStrands>;
  readonly plan: ReturnType<typeof planLook>;
  readonly places: Float32Array;
  readonly skin: Float64Array;
  readonly of: {
    character: Character;
    groom: Groom;
    node: number;
    strands: number;
    spread: number;
    points: number;
    metres: number;
  };
  coloured: Look | null;
  /** The pose it was laid on last, and where its guides stood, m. */
  posed: Posed | null;
  curves: Float64Array | null;
}

/** A point of a guide as it is shown: which guide of the groom, how far along it, and where, m. */
export interface GuidePoint {
  readonly guide: number;
  readonly along: number;
  readonly at: readonly [number, number, number];
}

const GUIDE = [0.02, 0.3, 0.27];
const PALE = [0.75, 0.72, 0.62];

/** Hair that a hand is brushing: where its guides are, which are left alone, and a line that is drawn, m. */
interface Held {
  readonly part: string;
  readonly places: Float64Array;
  readonly frozen: readonly number[];
  readonly line: Float64Array;
}

type Posed = Parameters<typeof posedGroom>[2];

/** The strands between guides, on the stage. What they are made of is found again only when it changes. */
export class Hair {
  readonly group = new THREE.Group();
  private readonly drawn = new Map<string, Drawn>();
  /** What a hand is brushing or drawing. */
  private held: Held | null = null;
  private readonly guides = new THREE.LineSegments(
    new THREE.BufferGeometry(),
    new THREE.LineBasicMaterial({ vertexColors: true, depthTest: false, transparent: true }),
  );

  constructor(private readonly repaint: () => void) {
    this.guides.frustumCulled = false;
    this.guides.renderOrder = 1;
    this.group.add(this.guides);
  }

  /** Some hair as it stands on the pose that is shown; null where it is not drawn. */
  standing(part: string): { layout: StrandsLayout; posed: Posed } | null {
    const drawn = this.drawn.get(part);
    return drawn?.posed ? { layout: drawn.layout, posed: drawn.posed } : null;
  }

  /** Where the points of some hair stand as it is shown, m: its roots and the ends of its links; null for none. */
  shownPlaces(part: string): Float64Array | null {
    const curves = this.drawn.get(part)?.curves;
    return curves ? Float64Array.from(curves) : null;
  }

  /** The ends of the links of its guides as they are shown. */
  points(part: string): GuidePoint[] {
    const drawn = this.drawn.get(part);
    const places = this.shownPlaces(part);
    if (!drawn || !places) return [];
    const out: GuidePoint[] = [];
    let from = 0;
    drawn.layout.guides.forEach((g, k) => {
      const links = g.length / 3 - 1;
      for (let i = 1; i <= links; i++) {
        const o = 3 * (from + i);
        const at = [places[o]!, places[o + 1]!, places[o + 2]!] as const;
        out.push({ guide: drawn.layout.picked[k]!, along: i / links, at });
      }
      from += links + 1;
    });
    return out;
  }

  /** Draws hair with its guides at some places, and lines (6 numbers each) beside them, until it is null. */
  hold(held: Held | null): void {
    this.held = held;
    this.guides.visible = held !== null;
    if (held) this.drawGuides(held);
    this.repaint();
  }

  /** Guides in ink: those that are left alone pale, and what is being drawn. */
  private drawGuides(held: Held): void {
    const layout = this.drawn.get(held.part)?.layout;
    if (!layout) return;
    const [places, colours]: [number[], number[]] = [[], []];
    let i = 0;
    layout.guides.forEach((g, k) => {
      const ink = held.frozen.includes(k) ? PALE : GUIDE;
      for (let end = i + g.length / 3; i + 1 < end; i++) {
        places.push(...held.places.subarray(3 * i, 3 * i + 6));
        colours.push(...ink, ...ink);
      }
      i++;
    });
    places.push(...held.line);
    for (let k = 0; k < held.line.length; k += 3) colours.push(...GUIDE);
    const { geometry } = this.guides;
    // What the graphics processor has of it is let go: it may have other points.
    geometry.dispose();
    geometry.setAttribute('position', new THREE.Float32BufferAttribute(places, 3));
    geometry.setAttribute('color', new THREE.Float32BufferAttribute(colours, 3));
  }

  show(standing: Standing, camera: THREE.Camera): void {
    const { shot } = standing;
    const parts = Object.values(shot.parts).filter((p): p is StrandsPart => p.kind === 'strands');
    for (const [id, d] of this.drawn) if (!parts.some((p) => p.id === id)) this.drop(id, d);
    for (const part of parts) this.lay(part, this.of(part, standing), standing, camera);
  }

  dispose(): void {
    for (const [id, d] of this.drawn) this.drop(id, d);
    this.guides.geometry.dispose();
    this.guides.material.dispose();
  }

  private drop(id: string, { mesh }: Drawn): void {
    mesh.geometry.dispose();
    mesh.material.dispose();
    this.group.remove(mesh);
    this.drawn.delete(id);
  }

  private of(part: StrandsPart, { character, shot }: Standing): Drawn {
    const { groom, look, mesh } = part;
    const metres = shot.character.metresPerUnit;
    const { strands, spread } = look;
    const points = drawnPoints(look);
    const of = { character, groom, node: mesh.node, strands, spread, points, metres };
    const known = this.drawn.get(part.id);
    if (known && (Object.keys(of) as (keyof typeof of)[]).every((k) => known.of[k] === of[k])) return known;
    if (known) this.drop(part.id, known);
    const layout = layOutStrands(character, part, metres);
    const plan = planLook(character, mesh.node, metres, layout.guides, look);
    const made: Drawn = {
      ...{ layout, plan, of, coloured: null, posed: null, curves: null },
      mesh: new THREE.Mesh(
        new THREE.BufferGeometry(),
        new THREE.MeshBasicMaterial({ vertexColors: true, side: THREE.DoubleSide }),
      ),
      places: new Float32Array(3 * points * plan.strands),
      skin: new Float64Array(3 * ((plan.vertices.at(-1) ?? -1) + 1)),
    };
    const { geometry } = made.mesh;
    const corners = 2 * points * plan.strands;
    geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array(3 * corners), 3));
    geometry.setAttribute('color', new THREE.BufferAttribute(new Float32Array(3 * corners), 3));
    geometry.setIndex(new THREE.BufferAttribute(ribbonCorners(plan.strands, points), 1));
    made.mesh.frustumCulled = false;
    this.group.add(made.mesh);
    this.drawn.set(part.id, made);
    return made;
  }

  private lay(part: StrandsPart, drawn: Drawn, { character, posed }: Standing, camera: THREE.Camera): void {
    const { plan, places, skin, mesh } = drawn;
    drawn.posed = { pose: posed.pose, world: posed.simulated };
    const { node } = part.mesh;
    drawn.curves = this.curvesOf(part, drawn, character, posed);
    if (plan.strands === 0) return;
    const weights = posed.morphs.get(node);
    const moved = posed.points.get(node);
    if (moved) skin.set(moved.subarray(0, skin.length));
    else if (weights) morphedVertices(skin, character, node, posed.simulated, weights);
    else skinVertices(skin, character, node, posed.simulated, plan.vertices);
    layLook(places, plan, part.look, drawn.curves, skin);
    widen(mesh.geometry, places, part.look, camera);
    if (drawn.coloured === part.look) return;
    colour(mesh.geometry, plan, part.look);
    drawn.coloured = part.look;
  }

  /** Where the guides of some hair stand. */
  private curvesOf(
    part: StrandsPart,
    { layout }: Drawn,
    character: Character,
    posed: Standing['posed'],
  ): Float64Array {
    // What was simulated with other guides is no more: until it is anew, it stands as it is combed.
    const held = this.held?.part === part.id ? this.held.places : undefined;
    const simulated = held ?? posed.curves.get(part.id)?.places;
    if (simulated?.length === 3 * layout.points) return simulated;
    return posedGroom(layout, character, { pose: posed.pose, world: posed.simulated });
  }
}

/** Corners of the triangles of ribbons: two points across at each point along. */
function ribbonCorners(strands: number, points: number): Uint32Array {
  const out: number[] = [];
  for (let s = 0; s < strands; s++)
    for (let j = 0; j + 1 < points; j++) {
      const p = 2 * (points * s + j);
      out.push(p, p + 1, p + 2, p + 1, p + 3, p + 2);
    }
  return Uint32Array.from(out);
}

/** Puts both edges of each ribbon across the way it goes, as the camera sees it. */
function widen(geometry: THREE.BufferGeometry, places: Float32Array, look: Look, camera: THREE.Camera): void {
  const { width, taper } = look;
  const points = drawnPoints(look);
  const position = geometry.getAttribute('position') as THREE.BufferAttribute;
  const out = position.array as Float32Array;
  const flat = !(camera as THREE.PerspectiveCamera).isPerspectiveCamera;
  const e = camera.matrixWorld.elements;
  const [cx, cy, cz] = flat ? [e[8]!, e[9]!, e[10]!] : [e[12]!, e[13]!, e[14]!];
  const last = points - 1;
  for (let o = 0, q = 0; o < places.length; o += 3, q += 6) {
    const j = (o / 3) % points;
    const [from, to] = [j === 0 ? o : o - 3, j === last ? o : o + 3];
    const tx = places[to]! - places[from]!;
    const ty = places[to + 1]! - places[from + 1]!;
    const tz = places[to + 2]! - places[from + 2]!;
    const vx = flat ? cx : cx - places[o]!;
    const vy = flat ? cy : cy - places[o + 1]!;
    const vz = flat ? cz : cz - places[o + 2]!;
    let [sx, sy, sz] = [ty * vz - tz * vy, tz * vx - tx * vz, tx * vy - ty * vx];
    const half = (width * (1 + (taper - 1) * (j / last))) / 2 / (Math.sqrt(sx * sx + sy * sy + sz * sz) || 1);
    sx *= half;
    sy *= half;
    sz *= half;
    out[q] = places[o]! + sx;
    out[q + 1] = places[o + 1]! + sy;
    out[q + 2] = places[o + 2]! + sz;
    out[q + 3] = places[o]! - sx;
    out[q + 4] = places[o + 1]! - sy;
    out[q + 5] = places[o + 2]! - sz;
  }
  position.needsUpdate = true;
}

/** Colours from root to tip, each strand a little lighter or darker than the next. */
function colour(geometry: THREE.BufferGeometry, { strands, chances }: Drawn['plan'], look: Look): void {
  const attribute = geometry.getAttribute('color') as THREE.BufferAttribute;
  const points = drawnPoints(look);
  const [root, tip, at] = [new THREE.Color(look.root), new THREE.Color(look.tip), new THREE.Color()];
  for (let s = 0; s < strands; s++) {
    const shade = 1 + SHADES * chances[5 * s + 3]!;
    for (let j = 0; j < points; j++) {
      at.copy(root)
        .lerp(tip, j / (points - 1))
        .multiplyScalar(shade);
      for (let k = 0; k < 2; k++) attribute.setXYZ(2 * (points * s + j) + k, at.r, at.g, at.b);
    }
  }
  attribute.needsUpdate = true;
}
