import { scaledLength, type Claim, type PartDocument } from '../../model/part';
import { PendulumPart, type Output } from './document';
import { PENDULUM_SETTINGS } from './settings';

const PATHS = { turn: 'rotation', place: 'translation', scale: 'scale' } as const;

/** What an output drives; others may drive it too, and a chain may follow it. */
function claimsOf({ target }: Output): Claim[] {
  if (target.does === 'setting') return [];
  return target.does === 'morph'
    ? [{ node: target.morph.node, name: target.morph.name, path: 'weights', shared: true }]
    : [{ node: target.joint.node, name: target.joint.name, path: PATHS[target.does], shared: true }];
}

/** How a pendulum stays whole: it names the parts whose settings it drives, and all it drives is shared. */
export const pendulumDocument: PartDocument<PendulumPart> = {
  schema: PendulumPart,
  settings: PENDULUM_SETTINGS,
  driven: [],
  claims: (part) => part.outputs.flatMap(claimsOf),
  names: ({ outputs }) => ({
    colliders: [],
    parts: outputs.flatMap(({ target }) => (target.does === 'setting' ? [target.part] : [])),
  }),
  mend: (part, there) => {
    part.outputs = part.outputs.filter(
      ({ target }) => target.does !== 'setting' || there.parts.has(target.part),
    );
  },
  carry: (part, { find, same }) => {
    const missed: string[] = [];
    const put = <R extends { node: number; name: string }>(ref: R, what: string): R | null => {
      const to = find(ref);
      if (!to) missed.push(`${part.name}: no ${what} named ${ref.name}`);
      return to ? { ...ref, node: to.node, name: to.name } : null;
    };
    const { input } = part;
    if (input.from === 'morph') {
      const morph = put(input.morph, 'mesh');
      if (morph) input.morph = morph;
      else return { keeps: false, missed };
    } else if (input.from !== 'drawn') {
      const joint = put(input.joint, 'joint');
      if (joint) input.joint = joint;
      else return { keeps: false, missed };
    }
    part.outputs = part.outputs.flatMap((o): Output[] => {
      if (o.target.does === 'setting') return [o];
      if (o.target.does === 'morph') {
        const morph = put(o.target.morph, 'mesh');
        return morph ? [{ ...o, target: { ...o.target, morph } }] : [];
      }
      const joint = put(o.target.joint, 'joint');
      return joint ? [{ ...o, target: { ...o.target, joint } }] : [];
    });
    if (!same) Object.assign(part, { keys: {}, anchors: [] });
    return { keeps: true, missed };
  },
  scale: (part, by) => {
    const followsPlace = part.input.from === 'place';
    for (const o of part.outputs) {
      const drivesPlace = o.target.does === 'place';
      // An input in metres grows too, so that what it drives per metre shrinks.
      if (drivesPlace !== followsPlace) o.gain = scaledLength(o.gain, drivesPlace ? by : 1 / by);
      if (!drivesPlace) continue;
      o.offset = scaledLength(o.offset, by);
      if (o.low !== null) o.low = scaledLength(o.low, by);
      if (o.high !== null) o.high = scaledLength(o.high, by);
    }
  },
};
