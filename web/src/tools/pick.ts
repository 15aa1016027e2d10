import { nodesOf } from '@oscillum/core/shot';
import { meshAtRest, type Character } from '@oscillum/core/character';
import type { Stage } from '../stage/stage';
import type { Dispatch, State } from '../state/store';
import { viewSlice } from '../state/view';

/** Pixels a press may wander and still be a click rather than a look round. */
const CLICK_PX = 4;

type Phase = { name: 'idle' } | { name: 'pressed'; x: number; y: number };

/** How near to the outline of a collider a click takes it, px, unless it is on a joint. */
const OUTLINE_PX = 5;
const ON_JOINT_PX = 7;

/**
 * Picks joints, chains and, by their outlines, colliders on the stage: a click selects, with Shift or Ctrl it adds; a
 * drag is left to the camera.
 */
export class PickTool {
  private phase: Phase = { name: 'idle' };
  private hover: number | null = null;

  constructor(
    private readonly host: HTMLElement,
    private readonly stage: Stage,
    private readonly character: Character,
    private readonly store: { dispatch: Dispatch; getState: () => State },
    /** Whether the room has somewhere to work on colliders. */
    private readonly takesColliders: boolean,
  ) {
    host.addEventListener('pointerdown', this.down, true);
    host.addEventListener('pointermove', this.move);
    host.addEventListener('pointerup', this.up, true);
    host.addEventListener('pointerleave', this.leave);
  }

  dispose(): void {
    this.host.removeEventListener('pointerdown', this.down, true);
    this.host.removeEventListener('pointermove', this.move);
    this.host.removeEventListener('pointerup', this.up, true);
    this.host.removeEventListener('pointerleave', this.leave);
  }

  private readonly down = (e: PointerEvent) => {
    if (e.button === 0) this.phase = { name: 'pressed', x: e.clientX, y: e.clientY };
  };

  private readonly move = (e: PointerEvent) => {
    if (e.buttons === 0) this.setHover(this.stage.jointAt(e.clientX, e.clientY));
  };

  private readonly up = (e: PointerEvent) => {
    const { phase } = this;
    this.phase = { name: 'idle' };
    if (phase.name !== 'pressed' || Math.hypot(e.clientX - phase.x, e.clientY - phase.y) > CLICK_PX) return;
    if (this.store.getState().view.pick) return this.answer(e);
    if (this.store.getState().view.strand?.clicking) return this.layPoint(e);
    if (this.stage.jointAt(e.clientX, e.clientY, ON_JOINT_PX) === null && this.takeCollider(e)) return;
    const joint = this.stage.jointAt(e.clientX, e.clientY);
    const add = e.shiftKey || e.ctrlKey || e.metaKey;
    const { dispatch, getState } = this.store;
    // What moves already is selected as the chain it is; what does not, as the joint a chain could begin at.
    const part = Object.values(getState().shot.shot?.parts ?? {}).find((p) =>
      nodesOf(p, true).some((n) => n === joint),
    );
    if (part) dispatch(viewSlice.actions.partsSelected({ parts: [part.id], add }));
    else if (joint !== null) dispatch(viewSlice.actions.jointsSelected({ joints: [joint], add }));
    else if (!add) dispatch(viewSlice.actions.jointsSelected({ joints: [] }));
  };

  /** What a choice waits for: a collider by its outline, or a joint, whatever moves it. */
  private answer(e: PointerEvent): void {
    const { dispatch, getState } = this.store;
    const { asks } = getState().view.pick!;
    const on = this.stage.jointAt(e.clientX, e.clientY, ON_JOINT_PX);
    const collider = on === null ? this.stage.colliderAt(e.clientX, e.clientY, OUTLINE_PX) : null;
    const joint = on ?? this.stage.jointAt(e.clientX, e.clientY);
    if (collider !== null) dispatch(viewSlice.actions.pickSet({ asks, got: { collider } }));
    else if (joint !== null) dispatch(viewSlice.actions.pickSet({ asks, got: { joint } }));
  }

  private takeCollider(e: PointerEvent): boolean {
    const id = this.takesColliders ? this.stage.colliderAt(e.clientX, e.clientY, OUTLINE_PX) : null;
    if (id !== null) this.store.dispatch(viewSlice.actions.thingChosen({ kind: 'collider', id }));
    return id !== null;
  }

  /** A point of a row, where the mesh is clicked, as it stands at rest. */
  private layPoint(e: PointerEvent): void {
    const { dispatch, getState } = this.store;
    const { strand } = getState().view;
    const shot = getState().shot.shot;
    if (!strand || !shot) return;
    // What stands before the mesh does not take the click from it.
    const place = this.stage.surface.at(e.clientX, e.clientY, strand.mesh);
    if (!place) return;
    const { vertex } = place;
    const { metresPerUnit, upAxis } = shot.character;
    const { places } = meshAtRest(this.character, strand.mesh, metresPerUnit, upAxis);
    const [x, y, z] = places.subarray(3 * vertex, 3 * vertex + 3) as unknown as [number, number, number];
    const rows = strand.rows.length > 0 ? strand.rows : [[]];
    dispatch(
      viewSlice.actions.strandSet({
        ...strand,
        rows: [...rows.slice(0, -1), [...rows.at(-1)!, [x, y, z]]],
      }),
    );
  }

  private readonly leave = () => this.setHover(null);

  private setHover(joint: number | null): void {
    if (joint === this.hover) return;
    this.hover = joint;
    this.host.style.cursor = joint === null ? '' : 'pointer';
    this.store.dispatch(viewSlice.actions.hovered(joint));
  }
}
