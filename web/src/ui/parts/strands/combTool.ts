import { meshTriangles, type Character } from '@oscillum/core/character';
import {
  combHair,
  lineToRest,
  mirroredOnto,
  mirrorPartners,
  posedHair,
  resample,
  restPlaces,
  skinAt,
  type Comb,
  type PosedHair,
  type StrandsLayout,
} from '@oscillum/core/simulate';
import { lengthOfGuide, readGroom, type StrandsPart } from '@oscillum/core/strands';
import type { SurfacePlace } from '../../../stage/meshSurface';
import type { Stage } from '../../../stage/stage';
import type { CombHow } from '../../../state/brushes';
import { sentenceOf } from '../../../state/edits';
import { growAgain, keepGuides, keepPose } from '../../../state/parts/strands/edits';
import type { Dispatch, State } from '../../../state/store';
import { viewSlice } from '../../../state/view';
import { sayTrouble } from '../../kit/say';
import { brushKey, OverStage } from '../../brush/overStage';

/** Hair that is rooted on a side of the skin that faces away by more than this (cosine) is not reached. */
const AWAY = -0.3;
/** Guides are partners across the middle when their roots are no farther apart than this share of their length. */
const LIKE = 0.1;
/** A line begins on the vertex that is within so many px, where it begins beside the mesh. */
const NEAR = 40;
/** Points of a guide that is drawn where there are no others, and the shortest, px. */
const DRAWN = 12;
const SHORTEST = 8;

/** What changes guides themselves. */
export const NEW = new Set<CombHow['does']>(['draw', 'lengthen', 'cut', 'grow along']);

/** A stroke under way. */
type Held =
  | {
      readonly by: 'comb';
      readonly hair: PosedHair;
      readonly changed: Set<number>;
      /** By guide: the one across the middle, or −1; null where one side alone is brushed. */
      readonly partners: Int32Array | null;
      x: number;
      y: number;
    }
  | { readonly by: 'line'; readonly hair: PosedHair; readonly vertex: number; readonly line: number[] };

/**
 * Brushes the guides of hair on the pose that is shown, and draws new ones. One stroke is one edit. , and . make the
 * brush smaller and larger, with Alt weaker and stronger; Esc ends.
 */
export class CombTool extends OverStage {
  private held: Held | null = null;

  constructor(
    host: HTMLElement,
    private readonly stage: Stage,
    private readonly character: Character,
    private readonly store: { dispatch: Dispatch; getState: () => State },
  ) {
    super(host);
    this.begin();
  }

  override dispose(): void {
    super.dispose();
    this.stage.hair.hold(null);
  }

  private part(): StrandsPart | null {
    const { view, shot } = this.store.getState();
    const part = view.combing ? shot.shot?.parts[view.combing] : undefined;
    return part?.kind === 'strands' ? part : null;
  }

  private get how(): CombHow {
    return this.store.getState().view.comb;
  }

  /** The hair as it stands, to be brushed. */
  private hairOf(part: StrandsPart): { hair: PosedHair; layout: StrandsLayout } | null {
    const standing = this.stage.hair.standing(part.id);
    if (!standing) return null;
    const { layout } = standing;
    const hair = posedHair(layout, this.character, standing.posed);
    if (this.how.pose) this.asShown(part, hair, layout);
    return { hair, layout };
  }

  /** Puts hair as it is combed on this frame, or as it is simulated there. */
  private asShown({ id, poses, groom }: StrandsPart, hair: PosedHair, { picked }: StrandsLayout): void {
    const pose = poses.find((p) => p.frame === this.frame);
    const shown = this.stage.hair.shownPlaces(id);
    if (pose && pose.groom.points.join() === groom.points.join()) {
      const guides = readGroom(pose.groom);
      picked.forEach((which, g) => hair.put(g, guides[which]!));
    } else if (shown?.length === hair.places.length) hair.places.set(shown);
  }

  private get frame(): number {
    return Math.round(this.store.getState().view.frame);
  }

  /** Shows the guides as they stand. */
  show(): void {
    const part = this.part();
    const found = part && this.hairOf(part);
    if (found) this.draw(found.hair, new Float64Array(0));
  }

  private draw({ places }: PosedHair, line: Float64Array): void {
    const { combing, frozen } = this.store.getState().view;
    if (combing) this.stage.hair.hold({ part: combing, places, frozen, line });
  }

  protected readonly down = (e: PointerEvent): void => {
    const part = e.button === 0 && !e.altKey && this.on(e) ? this.part() : null;
    const found = part && this.hairOf(part);
    if (!part || !found) return;
    const { hair } = found;
    if (this.how.pose && NEW.has(this.how.does))
      return sayTrouble('A pose keeps its guides and their lengths: brush the groom for that.');
    if (this.how.does === 'draw' || this.how.does === 'grow along') {
      const begin = this.beginLine(part, e);
      if (!begin) return;
      this.held = { by: 'line', hair, vertex: begin.vertex, line: begin.at };
    } else {
      const felt = this.feltAt(hair, e.clientX, e.clientY);
      // Beside the hair the press is the camera's.
      if (!felt.some((f) => f > 0)) return;
      const partners = this.how.mirror ? partnersIn(hair) : null;
      this.held = { by: 'comb', hair, changed: new Set(), partners, x: e.clientX, y: e.clientY };
      if (this.how.does === 'freeze') this.freeze(hair, felt);
      else this.touch(part, e);
    }
    e.stopImmediatePropagation();
    this.host.setPointerCapture(e.pointerId);
  };

  /** Where a line begins: on the mesh under the pointer, or on its vertex that is nearest to it. */
  private beginLine({ mesh }: StrandsPart, e: PointerEvent): { vertex: number; at: number[] } | null {
    const place: SurfacePlace | null = this.stage.surface.at(e.clientX, e.clientY, mesh.node);
    if (place) return { vertex: place.vertex, at: place.point.toArray() };
    const page = this.stage.surface.onPage(mesh.node);
    let [vertex, far] = [-1, NEAR];
    for (let v = 0; 2 * v < page.length; v++) {
      const d = Math.hypot(page[2 * v]! - e.clientX, page[2 * v + 1]! - e.clientY);
      if (d < far) [vertex, far] = [v, d];
    }
    if (vertex < 0) return null;
    return { vertex, at: [...this.stage.surface.placesOf(mesh.node).subarray(3 * vertex, 3 * vertex + 3)] };
  }

  /** How much of the brush each point of some hair feels, at a point of the page. */
  private feltAt({ places, first, normals }: PosedHair, x: number, y: number): Float64Array {
    const { radius, strength, tips } = this.how;
    const { surface } = this.stage;
    const page = surface.toPage(places);
    const { from, flat } = surface.eye();
    const felt = new Float64Array(places.length / 3);
    for (let g = 0; g + 1 < first.length; g++) {
      const [lo, last] = [first[g]!, first[g + 1]! - 1];
      const sight = [from.x, from.y, from.z].map((p, a) => (flat ? p : p - places[3 * lo + a]!));
      const faces = sight.reduce((s, d, a) => s + d * normals[3 * g + a]!, 0);
      if (faces < AWAY * Math.hypot(...sight)) continue;
      for (let i = lo; i <= last; i++) {
        const d = Math.hypot(page[2 * i]! - x, page[2 * i + 1]! - y) / radius;
        const along = 1 - tips * (1 - (i - lo) / (last - lo));
        if (d < 1) felt[i] = strength * along * (1 - d * d) ** 2;
      }
    }
    return felt;
  }

  /** Brushes what is under the pointer, by how far it went. */
  private touch(part: StrandsPart, e: PointerEvent): void {
    if (this.held?.by !== 'comb') return;
    const { hair, changed, partners, x, y } = this.held;
    const { does } = this.how;
    const [dx, dy] = [e.clientX - x, e.clientY - y];
    const felt = this.feltAt(hair, e.clientX, e.clientY);
    const dab = { does: does as Comb, felt, ...this.wayOf(hair, dx, dy, e) };
    const frozen = new Set(this.store.getState().view.frozen);
    const touched = combHair({ ...hair, frozen }, dab, this.surfaceOf(part));
    for (const g of touched) changed.add(g);
    if (partners) mirror(hair, partners, touched, changed);
    Object.assign(this.held, { x: e.clientX, y: e.clientY });
    this.draw(hair, new Float64Array(0));
  }

  /** How far the brush went at the depth of each point, and on which side of it each lies. */
  private wayOf({ places }: PosedHair, dx: number, dy: number, e: PointerEvent) {
    const { surface } = this.stage;
    const { right, up } = surface.eye();
    const page = surface.toPage(places);
    const aside = surface.toPage(places.map((p, o) => p + 0.01 * right.getComponent(o % 3)));
    const way = new Float64Array(places.length);
    const side = new Float64Array(places.length / 3);
    const long = Math.hypot(dx, dy);
    const across = right.clone().multiplyScalar(-dy).addScaledVector(up, -dx);
    if (long > 0) across.divideScalar(long);
    else across.copy(right);
    for (let i = 0; i < side.length; i++) {
      const [px, py] = [page[2 * i]!, page[2 * i + 1]!];
      const metres = 0.01 / (Math.hypot(aside[2 * i]! - px, aside[2 * i + 1]! - py) || 1);
      for (let a = 0; a < 3; a++)
        way[3 * i + a] = metres * (dx * right.getComponent(a) - dy * up.getComponent(a));
      const off = long > 0 ? (px - e.clientX) * -dy + (py - e.clientY) * dx : px - e.clientX;
      side[i] = off < 0 ? -1 : 1;
    }
    return { way, side, across: across.toArray() };
  }

  private known: { node: number; frame: number; surface: ReturnType<typeof skinAt> } | null = null;
  /** The skin as it is posed, which hair is kept out of. */
  private surfaceOf({ mesh: { node } }: StrandsPart): ReturnType<typeof skinAt> {
    const frame = this.store.getState().view.frame;
    if (this.known?.node !== node || this.known.frame !== frame) {
      const surface = skinAt(this.character, node, this.stage.surface.placesOf(node));
      this.known = { node, frame, surface };
    }
    return this.known.surface;
  }

  /** Leaves what is under the brush alone from now on. */
  private freeze({ first }: PosedHair, felt: Float64Array): void {
    const { frozen } = this.store.getState().view;
    const more = new Set(frozen);
    for (let g = 0; g + 1 < first.length; g++)
      if (felt.subarray(first[g]!, first[g + 1]!).some((f) => f > 0)) more.add(g);
    if (more.size === frozen.length) return;
    this.store.dispatch(viewSlice.actions.frozenSet([...more]));
    this.show();
  }

  protected readonly move = (e: PointerEvent): void => {
    const part = this.held || this.on(e) ? this.part() : null;
    if (!part) return this.leave();
    const { held } = this;
    if (held) e.stopImmediatePropagation();
    else if (e.buttons === 0) e.stopImmediatePropagation();
    const { does, radius } = this.how;
    this.showRing(e, held?.by === 'line' || does === 'draw' || does === 'grow along' ? 8 : 2 * radius, does);
    if (held?.by === 'line') {
      const [x, y, z] = held.line as [number, number, number];
      const at = this.stage.planeAt(this.stage.surface.eye().from.clone().set(x, y, z))(e.clientX, e.clientY);
      held.line.push(...at);
      const drawn = Array.from({ length: held.line.length / 3 - 1 }, (_, k) =>
        held.line.slice(3 * k, 3 * k + 6),
      ).flat();
      this.draw(held.hair, Float64Array.from(drawn));
    } else if (held && does === 'freeze')
      this.freeze(held.hair, this.feltAt(held.hair, e.clientX, e.clientY));
    else if (held) this.touch(part, e);
  };

  protected readonly up = (e: PointerEvent): void => {
    const { held } = this;
    this.held = null;
    const part = held && this.part();
    if (!held || !part) return;
    e.stopImmediatePropagation();
    if (held.by === 'line') this.keepLine(part, held);
    else if (held.changed.size > 0) {
      const { does } = this.how;
      const name = `${does[0]!.toUpperCase()}${does.slice(1)} hair`;
      this.keep(part, name, held.hair.toRest());
    }
  };

  /** Grows a guide along the line that was drawn. */
  private keepLine(part: StrandsPart, { hair, vertex, line }: Extract<Held, { by: 'line' }>): void {
    const drawn = Float64Array.from(line);
    const page = this.stage.surface.toPage(Float64Array.from([...line.slice(0, 3), ...line.slice(-3)]));
    this.show();
    if (Math.hypot(page[2]! - page[0]!, page[3]! - page[1]!) < SHORTEST) return;
    const { node } = part.mesh;
    const now = this.stage.surface.placesOf(node);
    const rest = restPlaces(this.character, node, this.store.getState().shot.shot!.character.metresPerUnit);
    if (this.how.does === 'grow along') return this.growAlong(part, vertex, drawn, now, rest);
    const own = new Float64Array(3 * (part.growth?.points ?? DRAWN));
    resample(own, 0, drawn, own.length / 3, lengthOfGuide(drawn));
    const corners = cornersAt(this.character, node, vertex, now, drawn);
    const guide = corners && lineToRest(own, corners, now, rest);
    if (!guide) return sayTrouble('No hair can stand there: the mesh has no area at that place.');
    const guides = [...hair.toRest(), guide];
    if (this.how.mirror) guides.push(guide.map((x, o) => (o % 3 === 0 ? -x : x)));
    this.keep(part, 'Draw a guide', guides);
  }

  /** Grows it anew, leaning the way of a line that was drawn on the skin. */
  private growAlong(
    part: StrandsPart,
    vertex: number,
    drawn: Float64Array,
    now: Float64Array,
    rest: Float64Array,
  ): void {
    const corners = cornersAt(this.character, part.mesh.node, vertex, now, drawn);
    const ends = Float64Array.from([...drawn.slice(0, 3), ...drawn.slice(-3)]);
    const line = corners && lineToRest(ends, corners, now, rest);
    if (!line) return sayTrouble('No hair can stand there: the mesh has no area at that place.');
    const way = [0, 1, 2].map((a) => line[3 + a]! - line[a]!);
    const long = Math.hypot(...way);
    // What is mirrored grows on the side of +x.
    const [x, y, z] = way.map((v) => Number((v / long).toFixed(4))) as [number, number, number];
    const flip = part.growth?.mirrored && line[0]! < 0 ? -1 : 1;
    const { dispatch } = this.store;
    dispatch(growAgain(this.character, part.id, 'Grow along a stroke', { way: [flip * x, y, z] }));
  }

  /** Keeps guides as one edit, or says why they cannot be. */
  private keep(part: StrandsPart, name: string, guides: readonly Float64Array[]): void {
    try {
      this.store.dispatch(
        this.how.pose
          ? keepPose(part.id, this.frame, this.whole(part, guides))
          : keepGuides(part.id, name, guides),
      );
    } catch (e) {
      sayTrouble(sentenceOf(e));
    }
  }

  /** All guides of a groom, those that stand somewhere as they are combed. */
  private whole({ id, groom }: StrandsPart, guides: readonly Float64Array[]): Float64Array[] {
    const picked = Array.from(this.stage.hair.standing(id)?.layout.picked ?? []);
    return readGroom(groom).map((own, k) => {
      const combed = guides[picked.indexOf(k)];
      return combed?.length === own.length ? combed : own;
    });
  }

  protected readonly key = (e: KeyboardEvent): void => {
    const asked = this.part() ? brushKey(e) : null;
    if (!asked) return;
    const { dispatch } = this.store;
    const { radius, strength } = this.how;
    if (asked === 'ends') dispatch(viewSlice.actions.combingSet(null));
    else
      dispatch(
        viewSlice.actions.combSet({
          strength: Math.min(1, Math.max(0.02, strength * asked.stronger)),
          radius: Math.min(400, Math.max(4, radius * asked.larger)),
        }),
      );
    e.preventDefault();
    e.stopImmediatePropagation();
  };
}

/** The corners of the triangle of a mesh that has a vertex and whose middle is nearest to where a line begins. */
function cornersAt(
  character: Character,
  node: number,
  vertex: number,
  now: Float64Array,
  line: Float64Array,
): [number, number, number] | null {
  const { indices } = meshTriangles(character, node);
  let [best, far] = [null as [number, number, number] | null, Infinity];
  for (let t = 0; t + 2 < indices.length; t += 3) {
    const corners = [indices[t]!, indices[t + 1]!, indices[t + 2]!] as [number, number, number];
    if (!corners.includes(vertex)) continue;
    const d = [0, 1, 2].reduce(
      (s, a) => s + (corners.reduce((m, v) => m + now[3 * v + a]! / 3, 0) - line[a]!) ** 2,
      0,
    );
    if (d < far) [best, far] = [corners, d];
  }
  return best;
}

/** The guides of some hair that stand across the middle from each other. */
function partnersIn(hair: PosedHair): Int32Array {
  const guides = hair.toRest();
  const long = guides.reduce((s, g) => s + lengthOfGuide(g), 0) / Math.max(1, guides.length);
  return mirrorPartners(guides, LIKE * long);
}

/** Gives guides across the middle what was brushed, where they were not brushed themselves. */
function mirror(
  hair: PosedHair,
  partners: Int32Array,
  touched: readonly number[],
  changed: ReadonlySet<number>,
): void {
  const guides = hair.toRest();
  for (const g of touched) {
    const p = partners[g]!;
    if (p >= 0 && !changed.has(p)) hair.put(p, mirroredOnto(guides[g]!, guides[p]!));
  }
}
