import {
  makePose,
  meshTriangles,
  morphedVertices,
  rootMatrix,
  worldMatrices,
  type Character,
  type Pose,
} from '@oscillum/core/character';
import { makeSource, type ClipSource } from '@oscillum/core/simulate';
import { quatSlerp } from '@oscillum/core/math';
import { sizesOf, type Frames } from '@oscillum/core/frames';
import type { Shot } from '@oscillum/core/shot';
import { framesAt, type Picture } from '../sim/picture';

/** Points of strands: places, m, 3 numbers each, and how many points each strand has. */
export interface Curves {
  readonly places: Float64Array;
  readonly counts: readonly number[];
}

/** World matrices of a frame, as the source has them and as simulated. Rewritten by each call of `show`. */
export interface Posed {
  readonly source: Float64Array;
  readonly simulated: Float64Array;
  /** The source's pose. */
  readonly pose: Pose;
  /** Morph weights as simulated, by node. */
  readonly morphs: ReadonlyMap<number, Float64Array>;
  /** Places of vertices that are moved one by one, m in the world, by the node of their mesh. */
  readonly points: ReadonlyMap<number, Float64Array>;
  /** Places of the points of strands, m in the world, by their part. */
  readonly curves: ReadonlyMap<string, Curves>;
  /** Columns of the frames that were used, or null when the frame is not simulated yet. */
  readonly fresh: boolean;
}

const between = new Float64Array(4);

/** Poses one character; holds the buffers it writes into. */
export class FigurePose {
  private readonly sourcePose: Pose;
  private readonly pose: Pose;
  private readonly source: Float64Array;
  private readonly simulated: Float64Array;
  private readonly curves = new Map<string, Curves>();

  constructor(readonly character: Character) {
    this.sourcePose = makePose(character);
    this.pose = makePose(character);
    this.source = new Float64Array(16 * character.nodes.length);
    this.simulated = new Float64Array(16 * character.nodes.length);
  }

  private known: { shot: Shot; live: string; source: ClipSource } | null = null;
  private sourceOf(shot: Shot): ClipSource {
    const same = (
      [
        'clip',
        'cycle',
        'stillAt',
        'fps',
        'range',
        'settleFrames',
        'start',
        'addedMotions',
        'inPlace',
        'character',
      ] as const
    ).every((k) => this.known?.shot[k] === shot[k]);
    const live = shot.clip?.baked
      ? JSON.stringify(shot.clip.baked.parts.map((id) => shot.parts[id]?.muted))
      : '';
    if (!same || this.known?.live !== live) {
      // While another character is on its way the clip may not be on this one.
      const clip = shot.clip && this.character.clips[shot.clip.index] ? shot.clip : null;
      this.known = { shot, live, source: makeSource(this.character, { ...shot, clip }) };
    }
    return this.known.source;
  }

  /**
   * The pose at a frame; between frames, joints are interpolated along the shorter arc. What is off its skin is so
   * `larger` times as far.
   */
  show(shot: Shot, picture: Picture, frame: number, larger = 1): Posed {
    const root = rootMatrix(shot.character.metresPerUnit, shot.character.upAxis);
    this.sourceOf(shot).at(frame, this.sourcePose);
    worldMatrices(this.character, this.sourcePose, root, this.source);
    for (const key of ['t', 'r', 's'] as const) this.pose[key].set(this.sourcePose[key]);
    for (const [node, weights] of this.sourcePose.morphs) this.pose.morphs.get(node)!.set(weights);
    this.pose.points.clear();
    this.curves.clear();
    const f = Math.floor(frame + 1e-6);
    const frames = framesAt(picture, f - (picture.frames?.first ?? 0));
    const a = frames ? f - frames.first : -1;
    const b = frames ? Math.min(a + 1, frames.done - 1) : -1;
    const share = Math.max(0, frame - f);
    if (frames && a >= 0) this.showFrames(frames, a, b, share);
    worldMatrices(this.character, this.pose, root, this.simulated);
    if (frames && a >= 0) this.addOffsets(frames, a, b, share, larger);
    return {
      source: this.source,
      simulated: this.simulated,
      pose: this.sourcePose,
      morphs: this.pose.morphs,
      points: this.pose.points,
      curves: this.curves,
      fresh: frames !== null && frames === picture.frames,
    };
  }

  /** Puts what the frames hold into the pose, a share of the way from row a to row b. */
  private showFrames(frames: Frames, a: number, b: number, share: number): void {
    const { pose } = this;
    const n = frames.joints.length;
    const blend = (list: ArrayLike<number>, i: number, j: number) => list[i]! + share * (list[j]! - list[i]!);
    frames.joints.forEach((node, i) => {
      quatSlerp(between, 0, frames.rotations, 4 * (a * n + i), frames.rotations, 4 * (b * n + i), share);
      pose.r.set(between, 4 * node);
      for (let k = 0; k < 3; k++)
        pose.t[3 * node + k] = blend(frames.translations, 3 * (a * n + i) + k, 3 * (b * n + i) + k);
    });
    const s = frames.scaled.length;
    frames.scaled.forEach((node, i) => {
      for (let k = 0; k < 3; k++)
        pose.s[3 * node + k] = blend(frames.scales, 3 * (a * s + i) + k, 3 * (b * s + i) + k);
    });
    const m = frames.morphs.length;
    frames.morphs.forEach(({ node, target }, i) => {
      const weights = pose.morphs.get(node);
      if (weights) weights[target] = blend(frames.weights, a * m + i, b * m + i);
    });
    const width = 3 * sizesOf(frames).points;
    let column = 0;
    for (const { node, vertices, picked, curves } of frames.pointed) {
      const [from, to] = [a * width + column, b * width + column];
      column += 3 * vertices;
      if (picked) continue;
      const places = new Float64Array(3 * vertices);
      for (let k = 0; k < places.length; k++) places[k] = blend(frames.points, from + k, to + k);
      if (curves) this.curves.set(curves.part, { places, counts: curves.counts });
      else pose.points.set(node, places);
    }
  }

  /** Adds how far vertices are off their skin, as the pose has it now. */
  private addOffsets(frames: Frames, a: number, b: number, share: number, larger: number): void {
    const { character, pose } = this;
    const width = 3 * sizesOf(frames).points;
    let column = 0;
    for (const { node, vertices, picked } of frames.pointed) {
      const [from, to] = [a * width + column, b * width + column];
      column += 3 * vertices;
      if (!picked) continue;
      let places = pose.points.get(node);
      if (!places) {
        places = new Float64Array(3 * meshTriangles(character, node).vertices);
        morphedVertices(places, character, node, this.simulated, pose.morphs.get(node));
        pose.points.set(node, places);
      }
      for (let i = 0; i < picked.length; i++)
        for (let k = 0; k < 3; k++) {
          const off = frames.points[from + 3 * i + k]!;
          places[3 * picked[i]! + k]! += larger * (off + share * (frames.points[to + 3 * i + k]! - off));
        }
    }
  }
}
