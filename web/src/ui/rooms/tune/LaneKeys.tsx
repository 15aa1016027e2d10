import { useElementSize } from '@mantine/hooks';
import { useState } from 'react';
import { inOrder, type Force, type ValueKeys } from '@oscillum/core/model';
import type { Part } from '@oscillum/core/shot';
import { change, infoOf, preview, sentenceOf, setKeys, setShot, type Recipe } from '../../../state/edits';
import { selectShot, useAppDispatch, useAppSelector, type Thunk } from '../../../state/store';
import { inOrder as keysInOrder } from '../../../state/valueKeys';
import { useSpan } from '../../desk/Time';
import { KeysGraph } from '../../kit/KeysCurve';
import { sayTrouble } from '../../kit/say';

/** Height of a curve in a lane, px. */
const HEIGHT = 66;

/** Something that has keys, and how they are set. */
interface Keyed {
  readonly id: string;
  readonly label: string;
  readonly unit: string;
  readonly keys: ValueKeys;
  readonly limits: readonly [number, number];
  readonly set: (keys: ValueKeys, final: boolean) => Thunk;
}

/** The settings of a part that have keys. */
const keyedOf = (part: Part): Keyed[] =>
  Object.entries(part.keys).flatMap(([key, keys]) => {
    if (!keys?.length) return [];
    const { label, unit, min, max } = infoOf(part, key);
    return [
      {
        ...{ id: key, label, unit, keys, limits: [min, max] as const },
        set: (next: ValueKeys, final: boolean) => setKeys([part.id], key, next, final),
      },
    ];
  });

/** A key curve under a lane, on the same ruler: of the keyed setting that is chosen. */
export function LaneKeys({ part, onClose }: { part: Part; onClose: () => void }) {
  const keyed = keyedOf(part);
  const [chosen, setChosen] = useState('');
  const shown = keyed.find((k) => k.id === chosen) ?? keyed[0];
  if (!shown) return null;
  return (
    <Strip keyed={shown} name={`${shown.label} of ${part.name}`}>
      {keyed.length === 1 ? (
        <span>{shown.label}</span>
      ) : (
        <select
          aria-label={`Keyed setting of ${part.name}`}
          value={shown.id}
          onChange={(e) => setChosen(e.target.value)}
        >
          {keyed.map((k) => (
            <option key={k.id} value={k.id}>
              {k.label}
            </option>
          ))}
        </select>
      )}
      <button className="mini" aria-label={`Fold the keys of ${part.name}`} onClick={onClose}>
        fold
      </button>
    </Strip>
  );
}

/** Keys of gravity and of forces, each a lane of its own. */
export function WorldKeys() {
  const { gravityKeys, forces } = useAppSelector(selectShot)!;
  const keyed: Keyed[] = [
    ...(gravityKeys.length === 0
      ? []
      : [
          {
            ...{
              id: 'gravity',
              label: 'Gravity',
              unit: '×',
              keys: gravityKeys,
              limits: [-100, 100] as const,
            },
            set: (keys: ValueKeys, final: boolean) =>
              final
                ? setShot('Key gravity', { gravityKeys: keys })
                : preview((d) => void (d.gravityKeys = keys)),
          },
        ]),
    ...inOrder(forces).flatMap(keyedForce),
  ];
  return keyed.map((k) => (
    <Strip key={k.id} keyed={k} name={k.label}>
      <span>{k.label}</span>
    </Strip>
  ));
}

function keyedForce(f: Force): Keyed[] {
  const of = f.kind === 'wind' ? 'speedKeys' : f.kind === 'attractor' ? 'strengthKeys' : null;
  const keys = of && (f as Partial<Record<typeof of, ValueKeys>>)[of];
  if (!of || !keys?.length) return [];
  const wind = of === 'speedKeys';
  const set = (next: ValueKeys, final: boolean) => {
    const recipe: Recipe = (d) => void (d.forces[f.id] && Object.assign(d.forces[f.id]!, { [of]: next }));
    return final ? change(`Key ${f.name}`, recipe) : preview(recipe);
  };
  return [
    {
      ...{ id: f.id, label: `${f.name}: ${wind ? 'speed' : 'strength'}`, unit: wind ? 'm/s' : 'm/s²' },
      ...{ keys, set, limits: wind ? ([0, 200] as const) : ([-1000, 1000] as const) },
    },
  ];
}

/** A curve as wide as the lanes, with its name and its value at the playhead before it. */
function Strip({ keyed, name, children }: { keyed: Keyed; name: string; children: React.ReactNode }) {
  const dispatch = useAppDispatch();
  const { ref, width } = useElementSize();
  const { from, to } = useSpan();
  const keys = keysInOrder(keyed.keys);
  return (
    <div className="lane lane-keys" role="group" aria-label={`Keys: ${name}`}>
      <div className="lane-head">
        {children}
        <span className="muted small">{keyed.unit}</span>
      </div>
      <div className="profile lane-curve" ref={ref}>
        {width > 0 && (
          <KeysGraph
            label={name}
            unit={keyed.unit}
            keys={keys}
            still={keys[0]!.value}
            limits={keyed.limits}
            empties={false}
            along={[from, to]}
            size={[width, HEIGHT]}
            pad={0}
            onSet={(next, final) => {
              try {
                dispatch(keyed.set(next, final));
              } catch (e) {
                sayTrouble(sentenceOf(e));
              }
            }}
          />
        )}
      </div>
    </div>
  );
}
