import { MANY_NAMES, type BakeOptions } from '@oscillum/core/bake';
import {
  CARDS,
  HAIR_JOINTS,
  HAND_OFF_FORMATS,
  LABELS,
  MOST_CARD_JOINTS,
  MOST_CARDS,
  MOST_STRANDS,
  POINT_FORMATS,
} from '@oscillum/core/handoff';
import { preRollFrames, type Shot } from '@oscillum/core/shot';
import { selectShot, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { NumberBox } from '../../kit/Fields';
import { ChoiceRow, NumberRow } from '../../kit/Rows';
import type { Choices } from './choices';

interface RowsProps {
  shot: Shot;
  choices: Choices;
  options: BakeOptions;
  choose: (more: Partial<Choices>) => void;
  set: (values: Partial<BakeOptions>) => void;
}

/** Which clips are baked, and of one clip which frames. */
export function ClipRows({ shot, choices, options, choose, set }: RowsProps) {
  const { character } = useDesk();
  const plain = character.clips.flatMap((c, i) => (c.over ? [] : [{ ...c, index: i }]));
  return (
    <>
      <h3>Clips</h3>
      <ChoiceRow
        label="Bake"
        value={choices.clips === null ? 'this' : choices.clips.length === plain.length ? 'all' : 'some'}
        choices={[
          ['this', shot.clip ? `this clip, “${shot.clip.name}”` : 'the rest pose'],
          ...(plain.length > 1 ? ([['all', `all ${plain.length} clips`]] as const) : []),
          ...(choices.clips && choices.clips.length !== plain.length
            ? ([['some', 'those ticked']] as const)
            : []),
        ]}
        onSet={(v) => choose({ clips: v === 'this' ? null : plain.map((c) => c.index) })}
      />
      {choices.clips ? (
        <div className="checks">
          {plain.map((c) => (
            <label key={c.index}>
              <input
                type="checkbox"
                checked={choices.clips!.includes(c.index)}
                onChange={() => {
                  const next = choices.clips!.includes(c.index)
                    ? choices.clips!.filter((i) => i !== c.index)
                    : [...choices.clips!, c.index].sort((a, b) => a - b);
                  choose({ clips: next.length > 0 ? next : null });
                }}
              />
              {c.name}
            </label>
          ))}
        </div>
      ) : (
        <FrameRow shot={shot} options={options} set={set} />
      )}
      {preRollFrames(shot) > 0 && !shot.loop && (
        <label className="check">
          <input type="checkbox" checked={options.lead} onChange={() => set({ lead: !options.lead })} />
          with the {preRollFrames(shot)} frames before, as it was run up
        </label>
      )}
    </>
  );
}

/** From which frame to which. */
function FrameRow({ shot, options, set }: Pick<RowsProps, 'shot' | 'options' | 'set'>) {
  const bracket = useAppSelector((s) => s.view.bracket);
  return (
    <div className="field">
      <span>Frames</span>
      <span className="pair">
        <NumberBox
          label="First frame to bake"
          whole
          value={options.first}
          onSet={(first) => set({ first })}
        />
        to
        <NumberBox label="Last frame to bake" whole value={options.last} onSet={(last) => set({ last })} />
        {shot.settleFrames > 0 && !shot.loop && options.last < shot.range.last && (
          <button
            className="mini"
            title={`With the ${shot.settleFrames} frames in which it settles`}
            onClick={() => set({ last: shot.range.last })}
          >
            settling too
          </button>
        )}
        {bracket && (
          <button
            className="mini"
            title="The frames that are played"
            onClick={() =>
              set({
                first: Math.max(shot.range.first, bracket.from),
                last: Math.min(shot.range.last, bracket.to),
              })
            }
          >
            bracket
          </button>
        )}
      </span>
    </div>
  );
}

/** As which clip the motion is written. */
export function IntoRows({ shot, choices, options, set }: Omit<RowsProps, 'choose'>) {
  return (
    <>
      <h3>Into</h3>
      <ChoiceRow
        label="Written as"
        value={options.into}
        choices={[
          ['new', 'a new clip'],
          ...(shot.clip
            ? ([
                ['replace', choices.clips ? 'each clip, in its place' : `“${shot.clip.name}”, in its place`],
                ['offset', 'an additive clip'],
              ] as const)
            : []),
        ]}
        onSet={(into) => set({ into })}
      />
      {options.into !== 'replace' && (
        <input
          className="soft"
          aria-label="Name of the new clip"
          title={choices.clips ? '{clip} stands for the name of each clip' : undefined}
          value={choices.bake.name ?? (choices.clips ? MANY_NAMES : options.name)}
          onChange={(e) => set({ name: e.target.value })}
          onKeyDown={(e) => e.stopPropagation()}
        />
      )}
    </>
  );
}

/** Of how many guides hair becomes cards, and on how many joints each. */
function CardRows({ choices, choose }: Pick<RowsProps, 'choices' | 'choose'>) {
  return (
    <>
      <NumberRow
        label="Cards"
        says="Strips at most: one along each guide, or along those that stand farthest apart"
        whole
        value={choices.hair.cards}
        onSet={(v) =>
          choose({ hair: { ...choices.hair, cards: Math.min(MOST_CARDS, Math.max(1, Math.round(v))) } })
        }
      />
      <NumberRow
        label="Joints a card"
        says="More follow its bends more closely; how closely is said with the file"
        whole
        value={choices.hair.joints}
        onSet={(v) =>
          choose({
            hair: { ...choices.hair, joints: Math.min(MOST_CARD_JOINTS, Math.max(1, Math.round(v))) },
          })
        }
      />
    </>
  );
}

/** Of how many strands each hair is in files of curves. */
function StrandRows({ choices, choose }: Pick<RowsProps, 'choices' | 'choose'>) {
  const shot = useAppSelector(selectShot)!;
  const hair = Object.values(shot.parts).filter((p) => p.kind === 'strands' && !p.muted);
  if (hair.length === 0 || !POINT_FORMATS.some((f) => choices.formats.includes(f))) return null;
  return (
    <NumberRow
      label="Strands as curves"
      says="How many strands of each hair are written, as its look has them between its guides; 0 writes the guides"
      whole
      value={choices.hair.strands ?? 0}
      onSet={(v) =>
        choose({ hair: { ...choices.hair, strands: Math.min(MOST_STRANDS, Math.max(0, Math.round(v))) } })
      }
    />
  );
}

/** Which files, of what unit and up, and their name. */
export function FileRows({
  choices,
  stem,
  choose,
}: Pick<RowsProps, 'choices' | 'choose'> & { stem: string }) {
  return (
    <>
      <h3>Files</h3>
      <div className="presses">
        {HAND_OFF_FORMATS.map((f) => (
          <label key={f} className="check">
            <input
              type="checkbox"
              checked={choices.formats.includes(f)}
              onChange={() =>
                choose({
                  formats: HAND_OFF_FORMATS.filter((x) => (x === f) !== choices.formats.includes(x)),
                })
              }
            />
            {LABELS[f]}
          </label>
        ))}
      </div>
      {[CARDS, HAIR_JOINTS].some((f) => choices.formats.includes(f as typeof CARDS)) && (
        <CardRows choices={choices} choose={choose} />
      )}
      <StrandRows choices={choices} choose={choose} />
      {choices.formats.includes('glb') && (
        <ChoiceRow
          label="GLB packed"
          says="Smaller to send; whoever opens it must know how to unpack it"
          value={choices.pack}
          choices={[
            ['none', 'no'],
            ['meshopt', 'with meshopt, without loss'],
            ['draco', 'with Draco, meshes rounded'],
          ]}
          onSet={(pack) => choose({ pack })}
        />
      )}
      {choices.formats.some((f) => f !== 'glb') && (
        <>
          <ChoiceRow
            label="A unit is"
            says="For BVH, USD text and tables; a GLB is always in the character's own unit"
            value={choices.unit === null ? 'usual' : String(choices.unit)}
            choices={[
              ['usual', 'as usual (BVH: cm)'],
              ['1', 'a metre'],
              ['0.01', 'a centimetre'],
              ['0.0254', 'an inch'],
            ]}
            onSet={(v) => choose({ unit: v === 'usual' ? null : Number(v) })}
          />
          <ChoiceRow
            label="Up is"
            value={choices.up}
            choices={[
              ['Y', '+Y'],
              ['Z', '+Z'],
            ]}
            onSet={(up) => choose({ up })}
          />
        </>
      )}
      <div className="field">
        <span>Named</span>
        <input
          className="soft"
          aria-label="Name of the files"
          value={stem}
          onChange={(e) => choose({ stem: e.target.value.replace(/[\p{Cc}/\\]/gu, '') || null })}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </div>
    </>
  );
}

/** How far a bake is, and a way to stop it. */
export function Progress({ share, onStop }: { share: number; onStop: () => void }) {
  return (
    <div role="status">
      <div
        className="progress"
        role="progressbar"
        aria-valuenow={Math.round(share * 100)}
        aria-label="Baking"
      >
        <i style={{ width: `${share * 100}%` }} />
      </div>
      <span className="pair" style={{ marginTop: 6 }}>
        {share < 0.85 ? 'Baking' : 'Reading it back'}, {Math.round(share * 100)} %{' '}
        <button className="soft" onClick={onStop}>
          Cancel
        </button>
      </span>
    </div>
  );
}
