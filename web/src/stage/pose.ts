import { makePose, rootMatrix, worldMatrices, type Character, type Pose } from '@oscillum/core/character';
import { makeSource, type Source } from '@oscillum/core/simulate';
import { quatSlerp } from '@oscillum/core/math';
import type { Shot } from '@oscillum/core/shot';
import { framesAt, type Picture } from '../sim/simulation';

/** World matrices of a frame, as the source has them and as simulated. Rewritten by each call of `show`. */
export interface Posed {
  readonly source: Float64Array;
  readonly simulated: Float64Array;
  readonly pose: Pose;
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

  constructor(readonly character: Character) {
    this.sourcePose = makePose(character);
    this.pose = makePose(character);
    this.source = new Float64Array(16 * character.nodes.length);
    this.simulated = new Float64Array(16 * character.nodes.length);
  }

  private known: { shot: Shot; source: Source } | null = null;
  private sourceOf(shot: Shot): Source {
    const same = (['clip', 'fps', 'range', 'sourceTurns', 'inPlace', 'character'] as const).every(
      (k) => this.known?.shot[k] === shot[k],
    );
    if (!same || !this.known) {
      // While another character is on its way the clip may not be on this one.
      const clip = shot.clip && this.character.clips[shot.clip.index] ? shot.clip : null;
      this.known = { shot, source: makeSource(this.character, { ...shot, clip }) };
    }
    return this.known.source;
  }

  /** The pose at a frame; between frames, joints are interpolated along the shorter arc. */
  show(shot: Shot, picture: Picture, frame: number): Posed {
    const root = rootMatrix(shot.character.metresPerUnit, shot.character.upAxis);
    this.sourceOf(shot).at(frame, this.sourcePose);
    worldMatrices(this.character, this.sourcePose, root, this.source);
    for (const key of ['t', 'r', 's'] as const) this.pose[key].set(this.sourcePose[key]);
    const f = Math.floor(frame + 1e-6);
    const frames = framesAt(picture, f - (picture.frames?.first ?? 0));
    if (frames) {
      const a = f - frames.first;
      const b = Math.min(a + 1, frames.done - 1);
      const share = Math.max(0, frame - f);
      const n = frames.joints.length;
      for (let i = 0; a >= 0 && i < n; i++) {
        const node = frames.joints[i]!;
        quatSlerp(between, 0, frames.rotations, 4 * (a * n + i), frames.rotations, 4 * (b * n + i), share);
        this.pose.r.set(between, 4 * node);
        for (let k = 0; k < 3; k++) {
          const at = frames.translations[3 * (a * n + i) + k]!;
          this.pose.t[3 * node + k] = at + share * (frames.translations[3 * (b * n + i) + k]! - at);
        }
      }
    }
    worldMatrices(this.character, this.pose, root, this.simulated);
    return {
      source: this.source,
      simulated: this.simulated,
      pose: this.sourcePose,
      fresh: frames !== null && frames === picture.frames,
    };
  }
}
