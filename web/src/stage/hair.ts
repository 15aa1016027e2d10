import { skinVertices, type Character } from '@oscillum/core/character';
import type { Part } from '@oscillum/core/shot';
import { DRAWN_POINTS, layLook, layOutStrands, planLook, posedGroom } from '@oscillum/core/simulate';
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
  readonly of: { character: Character; groom: Groom; node: number; strands: number; metres: number };
  coloured: Look | null;
}

/** The strands between guides, on the stage. What they are made of is found again only when it changes. */
export class Hair {
  readonly group = new THREE.Group();
  private readonly drawn = new Map<string, Drawn>();

  show(standing: Standing, camera: THREE.Camera): void {
    const { shot } = standing;
    const parts = Object.values(shot.parts).filter((p): p is StrandsPart => p.kind === 'strands');
    for (const [id, d] of this.drawn) if (!parts.some((p) => p.id === id)) this.drop(id, d);
    for (const part of parts) this.lay(part, this.of(part, standing), standing, camera);
  }

  dispose(): void {
    for (const [id, d] of this.drawn) this.drop(id, d);
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
    const of = { character, groom, node: mesh.node, strands: look.strands, metres };
    const known = this.drawn.get(part.id);
    if (known && (Object.keys(of) as (keyof typeof of)[]).every((k) => known.of[k] === of[k])) return known;
    if (known) this.drop(part.id, known);
    const layout = layOutStrands(character, part, metres);
    const plan = planLook(character, mesh.node, metres, layout.guides, look.strands);
    const made: Drawn = {
      ...{ layout, plan, of, coloured: null },
      mesh: new THREE.Mesh(
        new THREE.BufferGeometry(),
        new THREE.MeshBasicMaterial({ vertexColors: true, side: THREE.DoubleSide }),
      ),
      places: new Float32Array(3 * DRAWN_POINTS * plan.strands),
      skin: new Float64Array(3 * ((plan.vertices.at(-1) ?? -1) + 1)),
    };
    const { geometry } = made.mesh;
    const points = 2 * DRAWN_POINTS * plan.strands;
    geometry.setAttribute('position', new THREE.BufferAttribute(new Float32Array(3 * points), 3));
    geometry.setAttribute('color', new THREE.BufferAttribute(new Float32Array(3 * points), 3));
    geometry.setIndex(new THREE.BufferAttribute(ribbonCorners(plan.strands), 1));
    made.mesh.frustumCulled = false;
    this.group.add(made.mesh);
    this.drawn.set(part.id, made);
    return made;
  }

  private lay(part: StrandsPart, drawn: Drawn, { character, posed }: Standing, camera: THREE.Camera): void {
    const { plan, places, skin, mesh } = drawn;
    if (plan.strands === 0) return;
    skinVertices(skin, character, part.mesh.node, posed.simulated, plan.vertices);
    // What was simulated with other guides is no more: until it is anew, it stands as it is combed.
    const simulated = posed.curves.get(part.id)?.places;
    const curves =
      simulated?.length === 3 * drawn.layout.points
        ? simulated
        : posedGroom(drawn.layout, character, { pose: posed.pose, world: posed.simulated });
    layLook(places, plan, part.look, curves, skin);
    widen(mesh.geometry, places, part.look, camera);
    if (drawn.coloured === part.look) return;
    colour(mesh.geometry, plan, part.look);
    drawn.coloured = part.look;
  }
}

/** Corners of the triangles of ribbons: two points across at each point along. */
function ribbonCorners(strands: number): Uint32Array {
  const out: number[] = [];
  for (let s = 0; s < strands; s++)
    for (let j = 0; j + 1 < DRAWN_POINTS; j++) {
      const p = 2 * (DRAWN_POINTS * s + j);
      out.push(p, p + 1, p + 2, p + 1, p + 3, p + 2);
    }
  return Uint32Array.from(out);
}

/** Puts both edges of each ribbon across the way it goes, as the camera sees it. */
function widen(
  geometry: THREE.BufferGeometry,
  places: Float32Array,
  { width, taper }: Look,
  camera: THREE.Camera,
): void {
  const position = geometry.getAttribute('position') as THREE.BufferAttribute;
  const out = position.array as Float32Array;
  const flat = !(camera as THREE.PerspectiveCamera).isPerspectiveCamera;
  const e = camera.matrixWorld.elements;
  const [cx, cy, cz] = flat ? [e[8]!, e[9]!, e[10]!] : [e[12]!, e[13]!, e[14]!];
  const last = DRAWN_POINTS - 1;
  for (let o = 0, q = 0; o < places.length; o += 3, q += 6) {
    const j = (o / 3) % DRAWN_POINTS;
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
  const [root, tip, at] = [new THREE.Color(look.root), new THREE.Color(look.tip), new THREE.Color()];
  for (let s = 0; s < strands; s++) {
    const shade = 1 + SHADES * chances[5 * s + 3]!;
    for (let j = 0; j < DRAWN_POINTS; j++) {
      at.copy(root)
        .lerp(tip, j / (DRAWN_POINTS - 1))
        .multiplyScalar(shade);
      for (let k = 0; k < 2; k++) attribute.setXYZ(2 * (DRAWN_POINTS * s + j) + k, at.r, at.g, at.b);
    }
  }
  attribute.needsUpdate = true;
}
