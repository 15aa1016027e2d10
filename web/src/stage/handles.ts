import { withKey, type Collider, type Force, type AddedMotion } from '@oscillum/core/model';
import { isChain } from '@oscillum/core/chain';
import { actionRange, type Shot } from '@oscillum/core/shot';
import { motionAmount } from '@oscillum/core/simulate';
import * as THREE from 'three';
import type { Handle } from './handle';
import { poseHandles, thicknessHandles } from './chainHandles';
import { C, line, type InkScene } from './pen';

/** An arrow as long as the figure's ball is wide stands for a wind of this speed, m/s. */
const WIND_ACROSS = 10;
const LEAST_SIZE = 1e-4;
const LEAST_WIND = 0.05;

const triple = (v: THREE.Vector3): [number, number, number] =>
  v.toArray().map(rounded) as [number, number, number];
const rounded = (x: number) => Number(x.toFixed(5));

/**
 * The handles of what is worked on, as it stands on the frame shown; `right` and `toward` the viewer are the picture's.
 */
export function handlesOf(scene: InkScene, right: THREE.Vector3, toward: THREE.Vector3): Handle[] {
  const { thing, shot } = scene.view;
  if (!thing) return [];
  if (thing.kind === 'force') {
    const force = shot.forces[thing.id];
    return force && !force.muted ? forceHandles(force, scene, right) : [];
  }
  if (thing.kind === 'motion') {
    const motion = shot.addedMotions[thing.id];
    return motion && !motion.muted ? motionHandles(motion, scene, toward) : [];
  }
  if (thing.kind === 'pose' || thing.kind === 'thickness') {
    const part = shot.parts[thing.id];
    if (!isChain(part) || part.muted) return [];
    return thing.kind === 'pose' ? poseHandles(part, scene) : thicknessHandles(part, scene, right);
  }
  const collider = shot.colliders[thing.id];
  return collider && !collider.muted ? colliderHandles(collider, scene, right) : [];
}

function forceHandles(force: Force, { ball }: InkScene, right: THREE.Vector3): Handle[] {
  if (force.kind === 'wind') {
    const from = windFrom(ball);
    const per = (2 * ball.radius) / WIND_ACROSS;
    const direction = new THREE.Vector3(...force.direction).normalize();
    return [
      {
        name: 'Turn the wind',
        at: from.clone().addScaledVector(direction, force.speed * per),
        put: (d, place) => {
          const f = d.forces[force.id];
          const way = place.clone().sub(from);
          const l = way.length();
          if (f?.kind !== 'wind' || l < LEAST_WIND * per) return;
          f.direction = triple(way.divideScalar(l));
          f.speed = rounded(l / per);
        },
      },
    ];
  }
  const at = new THREE.Vector3(...force.t);
  return [
    {
      name: 'Move force',
      at,
      put: (d, place) => {
        const f = d.forces[force.id];
        if (f && f.kind !== 'wind') f.t = triple(place);
      },
    },
    {
      name: 'Set reach',
      at: at.clone().addScaledVector(right, force.radius),
      put: (d, place) => {
        const f = d.forces[force.id];
        if (f && f.kind !== 'wind') f.radius = Math.max(LEAST_SIZE, rounded(place.distanceTo(at)));
      },
    },
  ];
}

/** What keys a motion on this frame, where it goes by keys; and the end of its axis, which points it elsewhere. */
function motionHandles(m: AddedMotion, scene: InkScene, toward: THREE.Vector3): Handle[] {
  const { at, turn, axis } = axisOf(m, scene);
  const end: Handle = {
    name: 'Point the axis',
    at: at.clone().addScaledVector(axis, AXIS * scene.ball.radius),
    put: (d, place) => {
      const own = d.addedMotions[m.id] as AddedMotion | undefined;
      const way = place.clone().sub(at).applyQuaternion(turn.clone().invert());
      if (own && way.length() > LEAST_SIZE) own.axis = triple(way.normalize());
    },
  };
  if (m.kind !== 'keys') return [end];
  return [m.path === 'rotation' ? turnHandle(m, scene, toward) : moveHandle(m, scene), end];
}

/** Where the joint of a motion stands, the turn of the space its axis is in, and the axis in the world. */
function axisOf(m: AddedMotion, { posed }: InkScene) {
  const matrix = new THREE.Matrix4().fromArray(posed.source, 16 * m.joint.node);
  const turn = new THREE.Quaternion();
  if (m.path === 'rotation') turn.setFromRotationMatrix(new THREE.Matrix4().extractRotation(matrix));
  return {
    at: new THREE.Vector3().setFromMatrixPosition(matrix),
    turn,
    axis: new THREE.Vector3(...m.axis).normalize().applyQuaternion(turn),
  };
}

/** The joint itself: dragging it along the axis keys how far it is moved on this frame. */
function moveHandle(m: AddedMotion, scene: InkScene): Handle {
  const frame = Math.round(scene.view.frame);
  const now = motionAmount(m, actionRange(scene.view.shot))(frame);
  const { at, axis } = axisOf(m, scene);
  return {
    name: `Key the move on frame ${frame}`,
    at,
    put: (d, place) => {
      const own = d.addedMotions[m.id] as AddedMotion | undefined;
      if (own) own.keys = withKey(own.keys, frame, rounded(now + place.clone().sub(at).dot(axis)));
    },
  };
}

/** An arm at the joint: dragging it round the axis keys the turn on this frame. */
function turnHandle(turn: AddedMotion, { view, posed, ball }: InkScene, toward: THREE.Vector3): Handle {
  const frame = Math.round(view.frame);
  const now = motionAmount(turn, actionRange(view.shot))(frame);
  const matrix = new THREE.Matrix4().fromArray(posed.source, 16 * turn.joint.node);
  const at = new THREE.Vector3().setFromMatrixPosition(matrix);
  const axis = new THREE.Vector3(...turn.axis).normalize();
  // Any direction across the axis, in the joint's own space, goes with it as it turns.
  const across = new THREE.Vector3(axis.y, axis.z, axis.x).cross(axis).normalize();
  const rotation = new THREE.Matrix4().extractRotation(matrix);
  const [worldAxis, joined] = [axis, across].map((v) => v.clone().applyMatrix4(rotation)) as [
    THREE.Vector3,
    THREE.Vector3,
  ];
  // A turn that is seen from its side is taken by an arm that points at the viewer: dragging it across the axis turns
  // it.
  const seen = toward.clone().addScaledVector(worldAxis, -toward.dot(worldAxis));
  const arm = seen.length() > SEEN_FROM_THE_SIDE ? seen.normalize() : joined;
  const side = worldAxis.clone().cross(arm);
  return {
    name: `Key the turn on frame ${frame}`,
    at: at.clone().addScaledVector(arm, ARM * ball.radius),
    put: (d, place) => {
      const t = d.addedMotions[turn.id] as AddedMotion | undefined;
      const way = place.clone().sub(at);
      const by = (Math.atan2(way.dot(side), way.dot(arm)) * 180) / Math.PI;
      if (t) t.keys = withKey(t.keys, frame, Number((now + by).toFixed(2)));
    },
  };
}

/** Part of the way to the viewer that must lie across the axis of a turn, for it to count as seen from its side. */
const SEEN_FROM_THE_SIDE = 0.87;
/** Length of the arm of a turn and of a drawn axis, as shares of the figure's radius. */
const ARM = 0.35;
const AXIS = 0.5;

/** Where the arrow of a wind begins: over the figure. */
const windFrom = (ball: InkScene['ball']) =>
  new THREE.Vector3(ball.centre[0], ball.centre[1]! + 0.45 * ball.radius, ball.centre[2]);

function colliderHandles(collider: Collider, scene: InkScene, right: THREE.Vector3): Handle[] {
  const { view } = scene;
  const frames = view.picture.frames;
  const k = frames?.colliders.indexOf(collider.id) ?? -1;
  if (!frames || k < 0 || collider.shape.kind === 'mesh') return [];
  // One that moves freely is placed where it begins.
  const f = collider.free
    ? 0
    : Math.min(frames.count - 1, Math.max(0, Math.round(view.frame) - frames.first));
  const o = 7 * (f * frames.colliders.length + k);
  const at = new THREE.Vector3().fromArray(frames.placements, o);
  const turn = new THREE.Quaternion().fromArray(frames.placements, o + 3);
  // With keys the one at or before the frame is what a hand moves.
  const keys = [...collider.keys].sort((a, b) => a.frame - b.frame);
  const key = [...keys].reverse().find((x) => x.frame <= view.frame) ?? keys[0];
  const own = new THREE.Quaternion(...(key ?? collider).r);
  const base = turn.clone().multiply(own.clone().invert());
  const inOwn = base.clone().invert();
  const { t } = key ?? collider;
  const edit = (d: Shot, recipe: (c: Collider, placed: Pick<Collider, 't' | 'r'>) => void) => {
    const c = d.colliders[collider.id] as Collider | undefined;
    if (c) recipe(c, (key && c.keys.find((x) => x.frame === key.frame)) ?? c);
  };
  const moved = (place: THREE.Vector3) =>
    triple(
      place
        .clone()
        .sub(at)
        .applyQuaternion(inOwn)
        .add(new THREE.Vector3(...t)),
    );
  const held: Held = { at, turn, inOwn, edit, moved };
  const { shape } = collider;
  const out: Handle[] = [
    {
      name: 'Move collider',
      at,
      put: (d, place) => edit(d, (_, placed) => void (placed.t = moved(place))),
    },
  ];
  if ('radius' in shape)
    out.push({
      name: 'Set radius',
      at: at.clone().addScaledVector(right, shape.radius),
      put: (d, place) =>
        edit(d, (c) => {
          if ('radius' in c.shape) c.shape.radius = Math.max(LEAST_SIZE, rounded(place.distanceTo(at)));
        }),
    });
  if (shape.kind === 'capsule') out.push(...capsuleEnds(shape.length, held));
  if (shape.kind === 'box') out.push(...boxSides(shape.size, held));
  return out;
}

/** A collider as it stands on the frame shown, and how it is changed. */
interface Held {
  readonly at: THREE.Vector3;
  readonly turn: THREE.Quaternion;
  /** From the world into the space its place is given in. */
  readonly inOwn: THREE.Quaternion;
  readonly edit: (d: Shot, recipe: (c: Collider, placed: Pick<Collider, 't' | 'r'>) => void) => void;
  readonly moved: (place: THREE.Vector3) => [number, number, number];
}

/** The two ends of a capsule: one moves, the other stays. */
function capsuleEnds(length: number, { at, turn, inOwn, edit, moved }: Held): Handle[] {
  return [1, -1].map((side): Handle => {
    const end = (s: number) => new THREE.Vector3(0, (s * length) / 2, 0).applyQuaternion(turn).add(at);
    const other = end(-side);
    return {
      name: 'Set the end of the capsule',
      at: end(side),
      put: (d, place) =>
        edit(d, (c, placed) => {
          if (c.shape.kind !== 'capsule') return;
          // The other end stays where it is.
          const way = place.clone().sub(other).multiplyScalar(side);
          const old = new THREE.Vector3(0, 1, 0).applyQuaternion(turn);
          c.shape.length = rounded(way.length());
          placed.t = moved(place.clone().add(other).multiplyScalar(0.5));
          if (way.length() < LEAST_SIZE) return;
          const next = new THREE.Quaternion().setFromUnitVectors(old, way.normalize()).multiply(turn);
          placed.r = inOwn.clone().multiply(next).normalize().toArray() as Collider['r'];
        }),
    };
  });
}

/** A side of a box on each axis. */
function boxSides(size: readonly number[], { at, turn, edit }: Held): Handle[] {
  return ([0, 1, 2] as const).map((axis): Handle => {
    const way = new THREE.Vector3().setComponent(axis, 1).applyQuaternion(turn);
    return {
      name: 'Set size',
      at: at.clone().addScaledVector(way, size[axis]! / 2),
      put: (d, place) =>
        edit(d, (c) => {
          if (c.shape.kind !== 'box') return;
          c.shape.size[axis] = Math.max(LEAST_SIZE, rounded(2 * Math.abs(place.clone().sub(at).dot(way))));
        }),
    };
  });
}

/** Handles as rings; a wind as an arrow as long as it is strong. */
export function drawHandles(g: CanvasRenderingContext2D, scene: InkScene, handles: readonly Handle[]): void {
  const { view, project } = scene;
  const pixel = (v: THREE.Vector3) => project(v.toArray(), 0);
  const force = view.thing?.kind === 'force' ? view.shot.forces[view.thing.id] : undefined;
  if (force?.kind === 'wind' && handles[0]) {
    const a = pixel(windFrom(scene.ball));
    const b = pixel(handles[0].at);
    line(g, [a, b], C.sky, 3, []);
    const angle = Math.atan2(b[1] - a[1], b[0] - a[0]);
    for (const side of [-1, 1])
      line(
        g,
        [b, [b[0] - 14 * Math.cos(angle + side * 0.45), b[1] - 14 * Math.sin(angle + side * 0.45)]],
        C.sky,
        3,
        [],
      );
    g.font = '600 12px "Atkinson Hyperlegible Next Variable", sans-serif';
    g.fillStyle = C.ink;
    g.fillText(`${Number(force.speed.toFixed(1))} m/s`, b[0] + 12, b[1] + 4);
  }
  const motion = view.thing?.kind === 'motion' ? view.shot.addedMotions[view.thing.id] : undefined;
  if (motion) {
    const joint = project(scene.posed.source, 16 * motion.joint.node + 12);
    const end = handles.at(-1);
    if (end) line(g, [joint, pixel(end.at)], C.ochre, 1.5, [5, 4]);
    if (handles.length > 1) line(g, [joint, pixel(handles[0]!.at)], C.ochre, 3, []);
  }
  handles.forEach(({ at }, i) => {
    const [x, y] = pixel(at);
    g.beginPath();
    g.arc(x, y, i === 0 ? 7 : 5, 0, 2 * Math.PI);
    g.fillStyle = C.sheet;
    g.globalAlpha = 0.9;
    g.fill();
    g.globalAlpha = 1;
    g.lineWidth = 2.4;
    g.strokeStyle = force ? C.sky : C.ochre;
    g.stroke();
  });
}
