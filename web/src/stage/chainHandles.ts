import { isChain, type ChainPart } from '@oscillum/core/chain';
import { profileAt, type AnchorPose, type Profile } from '@oscillum/core/model';
import * as THREE from 'three';
import type { Handle } from './handle';
import { C, thinLines, type InkScene } from './pen';

/** Frames in which a pose by hand is come to and left, to begin with. */
const EASE = 8;
const tidy = (x: number) => Number(x.toFixed(6));

/** Places of a chain's joints and its tip on the frame shown, m. */
function placesOf(part: ChainPart, { view, posed }: InkScene): THREE.Vector3[] {
  const joints = part.joints.map((j) => new THREE.Vector3().fromArray(posed.simulated, 16 * j.node + 12));
  const { frames } = view.picture;
  const c = frames?.parts.findIndex((p) => p.partId === part.id) ?? -1;
  if (!frames || c < 0) return joints;
  const f = Math.min(frames.count - 1, Math.max(0, Math.round(view.frame) - frames.first));
  return [...joints, new THREE.Vector3().fromArray(frames.tips, 3 * (f * frames.parts.length + c))];
}

/** The pose by hand that holds on a frame. */
const poseOn = (part: ChainPart, frame: number): AnchorPose | undefined =>
  part.anchors.find((a) => a.turns !== null && a.frame <= frame && frame <= a.frame + a.hold);

/** At the end of each link: dragging it turns the link, and what is below goes along. */
export function poseHandles(part: ChainPart, scene: InkScene): Handle[] {
  const { view, posed } = scene;
  const { frames } = view.picture;
  const frame = Math.round(view.frame);
  const c = frames?.parts.findIndex((p) => p.partId === part.id) ?? -1;
  if (!frames || c < 0 || frame < frames.first || frame >= frames.first + frames.count) return [];
  const row = (frame - frames.first) * frames.joints.length + frames.parts[c]!.joints.from;
  const places = placesOf(part, scene);
  return part.joints.map(({ node }, i): Handle => {
    const [at, end] = [places[i]!, places[i + 1]!];
    return {
      name: `Pose ${part.name} on frame ${frame}`,
      at: end,
      put: (d, place) => {
        const own = d.parts[part.id];
        const [was, way] = [end.clone().sub(at), place.clone().sub(at)];
        if (!isChain(own) || was.length() === 0 || way.length() === 0) return;
        const turn = new THREE.Quaternion().setFromUnitVectors(was.normalize(), way.normalize());
        const matrix = new THREE.Matrix4().fromArray(posed.simulated, 16 * node);
        const world = new THREE.Quaternion().setFromRotationMatrix(
          new THREE.Matrix4().extractRotation(matrix),
        );
        // The same turn in the joint's own space, after what it is turned by now.
        const inner = world.clone().invert().multiply(turn).multiply(world);
        const next = new THREE.Quaternion().fromArray(frames.rotations, 4 * (row + i)).multiply(inner);
        let pose = poseOn(own, frame) as AnchorPose | undefined;
        if (!pose) {
          pose = { frame, easeIn: EASE, easeOut: EASE, hold: 0, turns: {} };
          own.anchors = [...own.anchors.filter((a) => a.frame !== frame), pose].sort(
            (a, b) => a.frame - b.frame,
          );
          pose = own.anchors.find((a) => a.frame === frame)!;
        }
        pose.turns = {
          ...pose.turns,
          [i]: next.normalize().toArray().map(tidy) as [number, number, number, number],
        };
      },
    };
  });
}

/** Thickness of a chain at a place along it (0 to 1), m. */
const thicknessAt = (part: ChainPart, at: number): number => {
  const { thickness } = part.profiles;
  return part.settings.thickness * (thickness?.length ? profileAt(thickness, at) : 1);
};

/** Beside the root, the middle and the tip of a chain: how thick it is there. */
export function thicknessHandles(part: ChainPart, scene: InkScene, right: THREE.Vector3): Handle[] {
  const places = placesOf(part, scene);
  const last = places.length - 1;
  if (last < 1) return [];
  return [0.5, 0, 1].map((along): Handle => {
    const k = Math.min(last - 1, Math.floor(along * last));
    const centre = places[k]!.clone().lerp(places[k + 1]!, along * last - k);
    return {
      name: along === 0.5 ? 'Set thickness' : 'Set the profile of thickness',
      at: centre.clone().addScaledVector(right, thicknessAt(part, along)),
      put: (d, place) => {
        const own = d.parts[part.id];
        if (!isChain(own)) return;
        const wanted = Math.min(100, Math.max(0, place.clone().sub(centre).dot(right)));
        const now = own.settings.thickness;
        if (along === 0.5 || now === 0) {
          const here = own.profiles.thickness?.length ? profileAt(own.profiles.thickness, along) : 1;
          own.settings.thickness = tidy(wanted / (here || 1));
          return;
        }
        const share = Number(Math.min(10, wanted / now).toFixed(2));
        const base: Profile = own.profiles.thickness?.length
          ? own.profiles.thickness
          : [
              [0, 1],
              [0.5, 1],
              [1, 1],
            ];
        own.profiles.thickness = [
          ...base.filter((p) => p[0] !== along),
          [along, share] as [number, number],
        ].sort((a, b) => a[0] - b[0]);
      },
    };
  });
}

/** The outline of a chain as thick as it touches things: round each end of a link, and straight between. */
export function drawThickness(g: CanvasRenderingContext2D, part: ChainPart, scene: InkScene): void {
  const places = placesOf(part, scene);
  const last = places.length - 1;
  const right = new THREE.Vector3(...scene.right);
  const sides: [number, number][][] = [[], []];
  for (let k = 0; k <= last; k++) {
    const r = thicknessAt(part, last > 0 ? k / last : 0);
    if (r <= 0) return;
    const [x, y] = scene.project(places[k]!.toArray(), 0);
    const edge = scene.project(places[k]!.clone().addScaledVector(right, r).toArray(), 0);
    const radius = Math.hypot(edge[0] - x, edge[1] - y);
    const [a, b] = [places[Math.max(0, k - 1)]!, places[Math.min(last, k + 1)]!].map((p) =>
      scene.project(p.toArray(), 0),
    );
    const along = Math.hypot(b![0] - a![0], b![1] - a![1]) || 1;
    const across = [-(b![1] - a![1]) / along, (b![0] - a![0]) / along] as const;
    sides[0]!.push([x + across[0] * radius, y + across[1] * radius]);
    sides[1]!.unshift([x - across[0] * radius, y - across[1] * radius]);
  }
  const outline = [...sides[0]!, ...sides[1]!];
  thinLines(g, [[...outline, outline[0]!]], C.madder, [2, 3]);
}
