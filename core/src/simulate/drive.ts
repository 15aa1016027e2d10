import { makePose, type Character, type Pose } from '../character/index';
import { kindOf, type Driver, type Source } from '../parts/index';
import { partsInOrder, type Shot } from '../shot/index';
import { runUp } from './clip';
import { makeSource, type ClipSource } from './source';

/** A source with all that drives it: what every part follows. */
export interface DrivenSource extends Source, Pick<ClipSource, 'lasts' | 'leads'> {
  /** What drives it, by part. */
  readonly drivers: ReadonlyMap<string, Driver>;
}

/** The source of a shot with all that drives it; the plain source where nothing does. */
export function drivenSource(character: Character, shot: Shot): DrivenSource {
  const base = makeSource(character, shot);
  const driving = partsInOrder(shot).filter((p) => !p.muted && kindOf(p).drive);
  const drivers = new Map<string, Driver>();
  const driven = (): Source => {
    const all = [...drivers.values()];
    return {
      at: (frame, out) => {
        base.at(frame, out);
        for (const d of all) d.add(frame, out);
      },
    };
  };
  const period = shot.loop && driving.length > 0 ? periodOf(character, shot, base) : null;
  const from = shot.range.first - runUp(shot);
  // In their order, so that one may follow what another drives.
  for (const part of driving) {
    const kind = kindOf(part);
    const layout = kind.layout(character, part, shot.character.metresPerUnit);
    drivers.set(part.id, kind.drive!({ character, layout, shot, below: driven(), from, period }));
  }
  return { ...driven(), drivers, lasts: base.lasts, leads: base.leads };
}

/** Largest difference of any number of a pose that counts as the same: radians, and shares of the rig's size. */
const SAME = 1e-3;

/**
 * Frames after which every joint's rotation and every morph weight is as on the range's first frame; null when none
 * are.
 */
function periodOf(character: Character, shot: Shot, source: Source): number | null {
  const { first, last } = shot.range;
  const start = makePose(character);
  const end = makePose(character);
  source.at(first, start);
  for (const period of [last - first, last - first + 1]) {
    if (period < 1) continue;
    source.at(first + period, end);
    if (samePose(character, start, end)) return period;
  }
  return null;
}

function samePose(character: Character, a: Pose, b: Pose): boolean {
  for (const n of character.joints) {
    let dot = 0;
    for (let k = 0; k < 4; k++) dot += a.r[4 * n + k]! * b.r[4 * n + k]!;
    if (1 - Math.abs(dot) > SAME * SAME) return false;
  }
  for (const [node, weights] of a.morphs)
    if (weights.some((w, k) => Math.abs(w - b.morphs.get(node)![k]!) > SAME)) return false;
  return true;
}
