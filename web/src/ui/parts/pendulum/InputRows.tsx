import { PENDULUM_PRESETS, signalKeys, type Input, type PendulumPart } from '@oscillum/core/pendulum';
import { setInput } from '../../../state/parts/pendulum/edits';
import { selectShot, useAppSelector, type Thunk } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { KeysCurve } from '../../kit/KeysCurve';
import { JointRow } from '../../kit/JointRow';
import { CheckRow, ChoiceRow } from '../../kit/Rows';
import { AXES, morphChoices, readMorph, writeMorph } from './choices';

const FROM = [
  ['drawn', 'a drawn signal'],
  ['turn', 'a turn of a joint'],
  ['place', 'a way of a joint'],
  ['morph', 'a shape of a mesh'],
] as const;

/** What a pendulum follows. */
export function InputRows({ part, run }: { part: PendulumPart; run: (t: Thunk) => void }) {
  const { character } = useDesk();
  const fps = useAppSelector((s) => selectShot(s)!.fps);
  const { input } = part;
  const morphs = morphChoices(character);
  const put = (next: Input, final = true) => run(setInput([part.id], next, final));
  const choose = (from: Input['from']) => {
    if (from === input.from) return;
    if (from === 'drawn') return put({ from, keys: signalKeys(PENDULUM_PRESETS[0]!, fps), cycles: true });
    if (from === 'morph') return morphs[0] && put({ from, morph: readMorph(morphs[0][0], character) });
    const node = input.from === 'turn' || input.from === 'place' ? input.joint.node : character.joints[0]!;
    put({ from, joint: { node, name: character.nodes[node]!.name }, axis: 'x' });
  };
  return (
    <>
      <h3>Follows</h3>
      <ChoiceRow
        label="Input"
        value={input.from}
        choices={FROM.filter(([v]) => v !== 'morph' || morphs.length > 0)}
        says="What sets it swinging: something of the clip, or a signal of your own."
        onSet={choose}
      />
      {(input.from === 'turn' || input.from === 'place') && (
        <>
          <JointRow
            label="Joint"
            value={input.joint.node}
            onSet={(joint) => joint && put({ ...input, joint })}
          />
          <ChoiceRow
            label="Axis"
            value={input.axis}
            choices={AXES}
            onSet={(axis) => put({ ...input, axis })}
          />
        </>
      )}
      {input.from === 'morph' && (
        <ChoiceRow
          label="Shape"
          value={writeMorph(input.morph)}
          choices={morphs}
          onSet={(v) => put({ from: 'morph', morph: readMorph(v, character) })}
        />
      )}
      {input.from === 'drawn' && (
        <>
          <KeysCurve
            label="Signal"
            unit=""
            keys={input.keys}
            still={0}
            limits={[-1e6, 1e6]}
            empties={false}
            onSet={(keys, final) => put({ ...input, keys }, final)}
          />
          <CheckRow
            label="Begins again after its last key"
            value={input.cycles}
            onSet={(cycles) => put({ ...input, cycles })}
          />
        </>
      )}
    </>
  );
}
