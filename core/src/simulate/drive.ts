import { makePose, type Character, type Pose } from '../character/index';
import { kindOf, type Driver, type Source } from '../parts/index';
import { partsInOrder, type Shot } from '../shot/index';
import { runUp } from './clip';
import { makeSource } from './source';

/** The source of a shot with all that drives it: what every part follows. The same as the plain source where nothing does. */
export function drivenSource(character: Character, shot: Shot): Source {
  const base = makeSource(character, shot);
  const driving = partsInOrder(shot).filter((p) => !p.muted && kindOf(p).drive);
  if (driving.length === 0) return base;
  const period = shot.loop ? periodOf(character, shot, base) : null;
  const drivers: Driver[] = [];
  const source: Source = {
    at: (frame, out) => {
      base.at(frame, out);
      for (const d of drivers) d.add(frame, out);
    },
  };
  // In their order, so that one may follow what another drives.
  for (const part of driving) {
    const kind = kindOf(part);
    const before = [...drivers];
    const below: Source = {
      at: (frame, out) => {
        base.at(frame, out);
        for (const d of before) d.add(frame, out);
      },
    };
    const layout = kind.layout(character, part);
    drivers.push(
      kind.drive!({ character, layout, shot, below, from: shot.range.first - runUp(shot), period }),
    );
  }
  return source;
}

/** Largest difference of any number of a pose that counts as the same: radians, and shares of the rig's size. */
const SAME = 1e-3;

/** Frames after which every joint's rotation and every morph weight is as on the range's first frame; null when none are. */
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
