import { add, length, sub, unit, type V3 } from './shape';

/** A joint of a demo rig: where it rests in the world and what it hangs from. All rest rotations are none. */
export interface Joint {
  readonly name: string;
  readonly parent: number;
  readonly at: V3;
}

/** A rig that grows; joints are known by name. */
export class Rig {
  readonly joints: Joint[] = [];

  joint(name: string, parent: string | null, at: V3): number {
    return this.joints.push({ name, parent: parent === null ? -1 : this.index(parent), at }) - 1;
  }

  /** A row of joints named `name 1`, `name 2`… at points, the first below `parent`. */
  row(name: string, parent: string, points: readonly V3[]): number[] {
    return points.map((p, i) => this.joint(`${name} ${i + 1}`, i === 0 ? parent : `${name} ${i}`, p));
  }

  index(name: string): number {
    const i = this.joints.findIndex((j) => j.name === name);
    if (i < 0) throw new Error(`No joint ${name}`);
    return i;
  }

  at(name: string): V3 {
    return this.joints[this.index(name)]!.at;
  }
}

export type Quat = readonly [number, number, number, number];
export const NO_TURN: Quat = [0, 0, 0, 1];

export function turn(axis: V3, radians: number): Quat {
  const a = unit(axis);
  const s = Math.sin(radians / 2);
  return [a[0] * s, a[1] * s, a[2] * s, Math.cos(radians / 2)];
}

/** a after b. */
export function times(a: Quat, b: Quat): Quat {
  return [
    a[3] * b[0] + a[0] * b[3] + a[1] * b[2] - a[2] * b[1],
    a[3] * b[1] - a[0] * b[2] + a[1] * b[3] + a[2] * b[0],
    a[3] * b[2] + a[0] * b[1] - a[1] * b[0] + a[2] * b[3],
    a[3] * b[3] - a[0] * b[0] - a[1] * b[1] - a[2] * b[2],
  ];
}

export const inverse = (q: Quat): Quat => [-q[0], -q[1], -q[2], q[3]];

export function rotate(q: Quat, v: V3): V3 {
  const r = times(times(q, [v[0], v[1], v[2], 0]), inverse(q));
  return [r[0], r[1], r[2]];
}

/** Yaw (about y), then pitch (about x), then roll (about z), in degrees. */
export function euler(yaw: number, pitch = 0, roll = 0): Quat {
  const r = Math.PI / 180;
  return times(times(turn([0, 1, 0], yaw * r), turn([1, 0, 0], pitch * r)), turn([0, 0, 1], roll * r));
}

/** Turns of hip and knee (in the hip's parent space) that put the ankle at `target`; the knee bends toward −z. */
export function bendLeg(hip: V3, knee: V3, ankle: V3, target: V3): { hip: Quat; knee: Quat } {
  const l1 = length(sub(knee, hip));
  const l2 = length(sub(ankle, knee));
  const reach = sub(target, hip);
  const d = Math.min(length(reach), (l1 + l2) * 0.999);
  const along = unit(reach);
  const cosine = (l1 * l1 + d * d - l2 * l2) / (2 * l1 * d);
  const angle = Math.acos(Math.min(1, Math.max(-1, cosine)));
  // Bend in the plane of the leg and the z axis.
  const side = unit([along[1], -along[0], 0]);
  const axis: V3 = side[0] < 0 ? [-side[0], -side[1], 0] : side;
  const thigh = rotate(turn(axis, angle), along);
  const bent = add(hip, [thigh[0] * l1, thigh[1] * l1, thigh[2] * l1]);
  const hipTurn = between(unit(sub(knee, hip)), thigh);
  const shin = unit(sub(add(hip, [along[0] * d, along[1] * d, along[2] * d]), bent));
  const kneeWorld = between(rotate(hipTurn, unit(sub(ankle, knee))), shin);
  return { hip: hipTurn, knee: times(inverse(hipTurn), times(kneeWorld, hipTurn)) };
}

function between(a: V3, b: V3): Quat {
  const w = 1 + a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
  const q: Quat = [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0], w];
  const n = Math.sqrt(q[0] ** 2 + q[1] ** 2 + q[2] ** 2 + q[3] ** 2);
  return [q[0] / n, q[1] / n, q[2] / n, q[3] / n];
}
