import { randomId } from '../api/ids';
import { makePose, rootMatrix, worldMatrices, type Character } from '@oscillum/core/character';
import { Collider, ColliderId, withMinded } from '@oscillum/core/model';
import { isChain, type ChainPart } from '@oscillum/core/chain';
import type { Shot } from '@oscillum/core/shot';
import { Matrix4, Quaternion, Vector3 } from 'three';
import { otherSide } from './otherSide';
import { change } from './edits';
import type { Thunk } from './store';

type List = ChainPart['collidesWith']['colliders'];

/**
 * Whether a chain touches a collider or another chain, or all or none of the colliders. Chains touch when either minds
 * the other, so both are told.
 */
export function setTouch(
  part: string,
  what: 'colliders' | 'parts',
  id: string | readonly string[],
  on = true,
): Thunk {
  return change('Set what it touches', (d) => {
    const p = d.parts[part];
    if (!isChain(p)) return;
    if (what === 'colliders') {
      if (id === 'all' || typeof id !== 'string') p.collidesWith.colliders = id as List;
      else p.collidesWith.colliders = withMinded(p.collidesWith.colliders, Object.keys(d.colliders), id, on);
      return;
    }
    const others = (of: string) => Object.keys(d.parts).filter((x) => x !== of);
    p.collidesWith.parts = withMinded(p.collidesWith.parts, others(part), id as string, on);
    const q = d.parts[id as string];
    if (isChain(q) && !on) q.collidesWith.parts = withMinded(q.collidesWith.parts, others(q.id), part, false);
  });
}

/**
 * Puts the like of a collider on the other side of the body: mirrored across the middle of the character at rest,
 * riding the joint of the other side's name. One that it was mirrored to before is put right.
 */
export function mirrorCollider(id: string, character: Character): Thunk {
  return (dispatch, getState) => {
    const { shot } = getState().shot;
    const c = shot?.colliders[id];
    if (!shot || !c) return;
    const { rest, middle } = restOf(character, shot);
    const partner = c.attachedTo && otherSide(c.attachedTo.name);
    const node = partner ? character.nodes.findIndex((n) => n.name === partner) : -1;
    const attachedTo = node >= 0 ? { node, name: partner! } : c.attachedTo;
    const joint = (n: number) => {
      const m = new Matrix4().fromArray(rest, 16 * n);
      return {
        place: new Vector3().setFromMatrixPosition(m),
        turn: new Quaternion().setFromRotationMatrix(unscaled(m)),
      };
    };
    const still = { place: new Vector3(), turn: new Quaternion() };
    const from = c.attachedTo ? joint(c.attachedTo.node) : still;
    const to = attachedTo ? joint(attachedTo.node) : still;
    const place = new Vector3(...c.t).applyQuaternion(from.turn).add(from.place);
    place.x = 2 * middle - place.x;
    const turn = from.turn.clone().multiply(new Quaternion(...c.r));
    // Across the plane x = middle.
    turn.set(turn.x, -turn.y, -turn.z, turn.w);
    const inverse = to.turn.clone().invert();
    const name = otherSide(c.name) ?? `${c.name}, other side`;
    // The one that was mirrored before, or one of its shape that rides the joint of the other side.
    const rider = Object.values(shot.colliders).find(
      (x) => node >= 0 && x.attachedTo?.node === node && x.shape.kind === c.shape.kind && x.id !== c.id,
    );
    const there = (c.twin && shot.colliders[c.twin]) || rider;
    const fresh = there?.id ?? ColliderId.parse(`c${randomId(8)}`);
    const mirrored = Collider.parse({
      ...c,
      id: fresh,
      name: there?.name ?? name,
      twin: c.id,
      order: there?.order ?? c.order + 0.5,
      attachedTo,
      t: place.sub(to.place).applyQuaternion(inverse).toArray(),
      r: inverse.multiply(turn).normalize().toArray(),
      keys: [],
    });
    dispatch(
      change('Mirror collider', (d) => {
        d.colliders[fresh] = mirrored;
        d.colliders[c.id]!.twin = fresh;
      }),
    );
  };
}

/** World matrices at rest, m, and the x of the plane between the two sides: where the root stands. */
function restOf(character: Character, shot: Shot): { rest: Float64Array; middle: number } {
  const rest = new Float64Array(16 * character.nodes.length);
  const { metresPerUnit, upAxis } = shot.character;
  worldMatrices(character, makePose(character), rootMatrix(metresPerUnit, upAxis), rest);
  return { rest, middle: rest[16 * (character.joints[0] ?? 0) + 12] ?? 0 };
}

function unscaled(m: Matrix4): Matrix4 {
  return new Matrix4().extractRotation(m);
}
