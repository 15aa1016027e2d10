import type { Character } from '@oscillum/core/character';
import { fromPoint, gradient, inLasso, Stroke, toVertices } from '@oscillum/core/maps';
import type { SurfacePlace } from '../../stage/meshSurface';
import type { Stage } from '../../stage/stage';
import {
  isPainted,
  keepShares,
  labelOf,
  paintMeshFor,
  shareText,
  sharesOf,
  symmetryOf,
  type PaintedPart,
} from '../../state/paint';
import type { Dispatch, State } from '../../state/store';
import type { BrushHow } from '../../state/brushes';
import { viewSlice } from '../../state/view';
import { brushKey, OverStage } from './overStage';

/** Dabs follow each other at this share of the brush's radius. */
const SPACING = 0.3;
/** Dabs between two movements of the pointer at most. */
const MOST = 12;

/** What is painted now. */
interface Sheet {
  readonly part: PaintedPart;
  readonly key: string;
  readonly metres: number;
}

/** What is drawn across the picture, whether it begins on the mesh or not. */
const DRAWN: readonly BrushHow['does'][] = ['gradient', 'lasso'];

/** A stroke under way: a brush over the surface, or a line or loop drawn across the picture. */
type Held =
  | { readonly by: 'brush'; readonly stroke: Stroke; x: number; y: number }
  | { readonly by: 'line'; readonly x: number; readonly y: number; values: Float64Array }
  | {
      readonly by: 'loop';
      readonly loop: [number, number][];
      readonly before: Float64Array;
      values: Float64Array;
    };

/**
 * Paints maps of shares on the meshes of parts: while a map is painted, presses on its mesh are the brush's, and those
 * beside it the camera's. One stroke is one edit. Shift softens; , and . make the brush smaller and larger, with Alt
 * weaker and stronger.
 */
export class BrushTool extends OverStage {
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

  private sheet(): Sheet | null {
    const { view, shot } = this.store.getState();
    const part = view.painting && shot.shot?.parts[view.painting.part];
    if (!view.painting || !part || !isPainted(part)) return null;
    return { part, key: view.painting.key, metres: shot.shot!.character.metresPerUnit };
  }

  private get how(): BrushHow {
    return this.store.getState().view.brush;
  }

  protected readonly down = (e: PointerEvent) => {
    const sheet = e.button === 0 && !e.altKey && this.on(e) ? this.sheet() : null;
    if (!sheet) return;
    const { does, value, radius, strength, falloff, mirror } = this.how;
    const place = this.stage.surface.at(e.clientX, e.clientY, sheet.part.mesh.node);
    if (!place && !DRAWN.includes(does)) return;
    // Neither the camera nor the picking of joints gets this press.
    e.stopImmediatePropagation();
    this.host.setPointerCapture(e.pointerId);
    const values = Float64Array.from(sharesOf(this.character, sheet.part, sheet.key));
    if (does === 'gradient') {
      this.held = { by: 'line', x: e.clientX, y: e.clientY, values };
      return;
    }
    if (does === 'lasso') {
      this.held = { by: 'loop', loop: [[e.clientX, e.clientY]], before: values, values };
      return;
    }
    if (does === 'from point') return this.spread(sheet, place!);
    const { node } = sheet.part.mesh;
    const stroke = new Stroke(paintMeshFor(this.character, node), values, {
      ...{ value, strength, falloff, radius: radius / sheet.metres },
      kind: e.shiftKey ? 'soften' : does,
      partners: mirror ? symmetryOf(this.character, node).partners : null,
    });
    this.held = { by: 'brush', stroke, x: e.clientX, y: e.clientY };
    this.dab(sheet, place!);
  };

  /** Fills the mesh by how far each point is from the one that was pressed. */
  private spread({ part, key }: Sheet, place: SurfacePlace): void {
    const mesh = paintMeshFor(this.character, part.mesh.node);
    const far = fromPoint(mesh, mesh.pointOf[place.vertex]!).map((s) => s * this.how.value);
    this.store.dispatch(
      keepShares(this.character, part.id, key, `Fill from a point: ${labelOf(part, key)}`, far),
    );
  }

  private dab({ part }: Sheet, place: SurfacePlace): void {
    if (this.held?.by !== 'brush') return;
    const mesh = paintMeshFor(this.character, part.mesh.node);
    this.held.stroke.dab(mesh.pointOf[place.vertex]!);
  }

  private show({ part }: Sheet, values: Float64Array): void {
    const mesh = paintMeshFor(this.character, part.mesh.node);
    this.stage.surface.paint({ node: part.mesh.node, shares: toVertices(mesh, values) });
  }

  protected readonly move = (e: PointerEvent) => {
    const sheet = this.held || this.on(e) ? this.sheet() : null;
    if (!sheet) return this.leave();
    const { held } = this;
    if (held) e.stopImmediatePropagation();
    if (held?.by === 'line') return this.drag(sheet, held, e);
    if (held?.by === 'loop') return this.enclose(sheet, held, e);
    const place = this.stage.surface.at(e.clientX, e.clientY, sheet.part.mesh.node);
    if (held) this.follow(sheet, held, e, place);
    // What lies under the mesh is not pointed at meanwhile.
    else if (place && e.buttons === 0) e.stopImmediatePropagation();
    this.point(sheet, e, place);
  };

  /** Dabs all along the way since the pointer last moved. */
  private follow(
    sheet: Sheet,
    held: Extract<Held, { by: 'brush' }>,
    e: PointerEvent,
    place: SurfacePlace | null,
  ): void {
    const step = Math.max(2, SPACING * this.how.radius * (place?.pixelsPerMetre ?? 100));
    const [dx, dy] = [e.clientX - held.x, e.clientY - held.y];
    const count = Math.min(MOST, Math.floor(Math.hypot(dx, dy) / step));
    if (count === 0) return;
    for (let k = 1; k <= count; k++) {
      const [x, y] = [held.x + (dx * k) / count, held.y + (dy * k) / count];
      const on = k === count ? place : this.stage.surface.at(x, y, sheet.part.mesh.node);
      if (on) this.dab(sheet, on);
    }
    [held.x, held.y] = [e.clientX, e.clientY];
    this.show(sheet, held.stroke.values);
  }

  /** Shares grow from 0 where the line began to the brush's value where it ends. */
  private drag(sheet: Sheet, held: Extract<Held, { by: 'line' }>, e: PointerEvent): void {
    const [dx, dy] = [e.clientX - held.x, e.clientY - held.y];
    const long = dx * dx + dy * dy;
    if (long < 16) return;
    const page = this.stage.surface.onPage(sheet.part.mesh.node);
    const mesh = paintMeshFor(this.character, sheet.part.mesh.node);
    const along = new Float64Array(mesh.points);
    mesh.pointOf.forEach((p, v) => {
      along[p] = ((page[2 * v]! - held.x) * dx + (page[2 * v + 1]! - held.y) * dy) / long;
    });
    const { value } = this.how;
    held.values = gradient(along, 0, 1).map((s) => s * value);
    this.show(sheet, held.values);
  }

  /** What the loop encloses and faces the eye gets the brush's value. */
  private enclose(sheet: Sheet, held: Extract<Held, { by: 'loop' }>, e: PointerEvent): void {
    held.loop.push([e.clientX, e.clientY]);
    const { node } = sheet.part.mesh;
    const mesh = paintMeshFor(this.character, node);
    const chosen = inLasso(mesh, this.stage.surface.onPage(node), held.loop);
    const { value, strength } = this.how;
    held.values = held.before.map((s, p) => (chosen[p] ? s + strength * (value - s) : s));
    this.show(sheet, held.values);
  }

  protected readonly up = (e: PointerEvent) => {
    const { held } = this;
    this.held = null;
    const sheet = held && this.sheet();
    if (!held || !sheet) return;
    e.stopImmediatePropagation();
    const values = held.by === 'brush' ? held.stroke.values : held.values;
    const does = { line: 'Draw a gradient of', loop: 'Fill a loop of', brush: 'Paint' }[held.by];
    const name = `${does} ${labelOf(sheet.part, sheet.key)}`;
    this.store.dispatch(keepShares(this.character, sheet.part.id, sheet.key, name, values));
  };

  /** A ring as large as the brush, and the value under it. */
  private point(sheet: Sheet, e: PointerEvent, place: SurfacePlace | null): void {
    const { how } = this;
    if (!place || DRAWN.includes(how.does)) {
      this.leave();
      this.host.style.cursor = DRAWN.includes(how.does) ? 'crosshair' : '';
      return;
    }
    const point = paintMeshFor(this.character, sheet.part.mesh.node).pointOf[place.vertex]!;
    const values =
      this.held?.by === 'brush' ? this.held.stroke.values : sharesOf(this.character, sheet.part, sheet.key);
    const { frame } = this.store.getState().view;
    const text = `${labelOf(sheet.part, sheet.key)} ${shareText(sheet.part, sheet.key, values[point]!, frame)}`;
    this.showRing(e, 2 * how.radius * place.pixelsPerMetre, text);
  }

  protected readonly key = (e: KeyboardEvent) => {
    const asked = this.sheet() ? brushKey(e) : null;
    if (!asked) return;
    const { dispatch } = this.store;
    const { radius, strength } = this.how;
    if (asked === 'ends') dispatch(viewSlice.actions.paintingSet(null));
    else
      dispatch(
        viewSlice.actions.brushSet({
          strength: Math.min(1, Math.max(0.02, strength * asked.stronger)),
          radius: Math.min(100, Math.max(1e-4, radius * asked.larger)),
        }),
      );
    e.preventDefault();
    e.stopImmediatePropagation();
  };
}
