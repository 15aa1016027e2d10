import { quatNormalise, quatSlerp } from '../../math/index';
import type { AnchorPose } from '../../model/index';
import type { SourceRows } from '../../solver/index';
import { anchorAway, type SourceTrack } from '../kind';
import { turnedRows } from './turnedRows';

/** A pose of one's own: turns of joints by their places in the row, unit, and how far each moment is from it. */
export interface HandPose {
  readonly turns: ReadonlyMap<number, Float64Array>;
  away(frame: number): number;
}

/** The hand poses among a part's anchor poses, in time. */
export const handPoses = (anchors: readonly AnchorPose[]): HandPose[] =>
  [...anchors]
    .sort((a, b) => a.frame - b.frame)
    .flatMap((a) =>
      a.turns === null
        ? []
        : [
            {
              turns: new Map(
                Object.entries(a.turns).map(([i, q]) => {
                  const turn = Float64Array.from(q);
                  quatNormalise(turn, 0);
                  return [Number(i), turn] as const;
                }),
              ),
              away: (frame: number) => anchorAway(a, frame),
            },
          ],
    );

/** Takes the turn of joint i to where the poses have it at a frame. */
export function poseJoint(
  poses: readonly HandPose[],
  i: number,
  frame: number,
  turn: Float64Array,
  at: number,
): void {
  for (const p of poses) {
    const own = p.turns.get(i);
    if (!own) continue;
    const share = 1 - p.away(frame);
    if (share > 0) quatSlerp(turn, at, turn, at, own, 0, share);
  }
}

/** The source rows a chain chases where it is posed by hand; its own where it is not. */
export function posedRows(
  c: SourceRows,
  body: Float64Array,
  n: number,
  track: SourceTrack,
  poses: readonly HandPose[],
): SourceRows {
  if (poses.length === 0) return c;
  const frameOf = (k: number) => track.from - 1 + k;
  return turnedRows(
    ...([c, body, n, track] as const),
    (k, i, link) => poseJoint(poses, i, frameOf(k), link, 0),
    (k) => poses.some((p) => p.away(frameOf(k)) < 1),
  );
}
