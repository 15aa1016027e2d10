import { useMemo } from 'react';
import { rigSize } from '@oscillum/core/character';
import {
  CLOTH_PRESETS,
  STRING_PRESETS,
  CLOTH_SETTINGS,
  clothInert,
  ClothSettings,
  type ClothPart,
  type ClothSettingKey,
  type PanelPart,
} from '@oscillum/core/cloth';
import { isChain } from '@oscillum/core/chain';
import { hasLinesAlone, pocketsOf, sheetOf } from '@oscillum/core/sheets';
import { inOrder } from '@oscillum/core/model';
import { settingAt } from '../../../state/settingAt';
import { changeSheets, putClothPreset } from '../../../state/parts/cloth/edits';
import { selectShot, useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { ResponseCard } from '../../kit/ResponseCard';
import { CheckRow, ChoiceRow, NumberRow } from '../../kit/Rows';
import { SettingGroups } from '../../kit/SettingGroups';
import { AnchorRows } from '../AnchorRows';
import { Breathe } from '../Breathe';
import type { PanelProps } from '../kind';
import { PresetRow } from '../PresetRow';
import { MindsRows } from '../MindsRows';

type Sheet = ClothPart | PanelPart;
type SheetProps = Pick<PanelProps<Sheet>, 'parts' | 'run'>;

const INITIAL = ClothSettings.parse({});
const FIRST = ['amount', 'hold'] as const;
/** What contact with itself costs, as measured on the demo's poncho (docs/performance.md). */
const SELF_PRICE = 1.3;

/** A first answer to a dragged handle: held faster by as much, and damped by as much. */
const roughly = (part: Sheet, at: number, faster: number, damped: number) => ({
  hold: Math.min(30, Math.max(0.5, settingAt(part, 'hold', at)) * faster),
  damping: Math.min(4, Math.max(0.01, settingAt(part, 'damping', at) * damped)),
  holdDamping: Math.min(4, Math.max(0.01, settingAt(part, 'holdDamping', at) * damped)),
});

/** What sheets are made of and what they touch: cloths and panels alike. */
export function SheetRows({ parts, run }: SheetProps) {
  const { character } = useDesk();
  const shot = useAppSelector(selectShot)!;
  const ids = parts.map((p) => p.id);
  const [one] = parts;
  // The rows of a panel are its threads; a mesh has them by its texture.
  const threads =
    one?.kind !== 'cloth' ||
    Boolean(character.meshes[character.nodes[one.mesh.node]?.mesh ?? -1]?.primitives.every((p) => p.uvs));
  const node = one?.kind === 'cloth' ? one.mesh.node : -1;
  const sheet = useMemo(() => (node >= 0 ? sheetOf(character, node) : null), [character, node]);
  const closed = useMemo(() => sheet !== null && pocketsOf(sheet).length > 0, [sheet]);
  const string = sheet?.triangles.length === 0;
  const size = useMemo(() => rigSize(character) * shot.character.metresPerUnit, [character, shot.character]);
  return (
    <>
      <PresetRow
        presets={string ? STRING_PRESETS : CLOTH_PRESETS}
        onPut={(preset) => run(putClothPreset(ids, preset))}
      />
      <ResponseCard
        parts={parts}
        roughly={roughly}
        what={`its ${string ? 'end' : 'hem'} after a quick step to the side`}
        still="Read the lane for what it does on this shot."
        run={run}
      />
      <SettingGroups
        table={CLOTH_SETTINGS}
        initial={INITIAL}
        parts={parts}
        length={size}
        first={FIRST}
        inert={(name) => clothInert(parts[0]!, shot, name as ClothSettingKey, threads, closed, string)}
        extras={{
          Swing: <Rest parts={parts} run={run} />,
          Contact: <Touches parts={parts} run={run} />,
        }}
        run={run}
      />
      {parts.length === 1 && <Breathe part={parts[0]!} run={run} />}
      <AnchorRows parts={parts} run={run} />
    </>
  );
}

/** The shape they rest in. */
function Rest({ parts, run }: SheetProps) {
  const { character } = useDesk();
  const ids = parts.map((p) => p.id);
  const frame = useAppSelector((s) => s.view.frame);
  // A string has no area that could be flat.
  const flat = parts.some((p) => p.kind !== 'cloth' || !hasLinesAlone(character, p.mesh.node));
  const { rest, restFrame } = parts[0]!;
  const put = (to: number) =>
    run(changeSheets(ids, 'Set the frame it rests as on', (p) => void (p.restFrame = to)));
  return (
    <>
      <ChoiceRow
        label="Rests in"
        says="The shape it goes back to when nothing pulls or bends it"
        value={rest}
        choices={[
          ['mesh', 'its shape in the mesh'],
          ...(flat || rest === 'flat' ? ([['flat', 'flat, as cut']] as const) : []),
          ['frame', 'its shape on a frame'],
        ]}
        onSet={(to) =>
          run(
            changeSheets(ids, 'Set what it rests in', (p) => {
              p.rest = to;
              if (to === 'frame') p.restFrame = Math.round(frame);
            }),
          )
        }
      />
      {rest === 'frame' && (
        <NumberRow
          label="Frame it rests as on"
          says="As the animation has it there, of the frames that are simulated"
          value={restFrame}
          whole
          onSet={put}
        />
      )}
    </>
  );
}

/** The colliders that it minds, and whether it minds itself. */
function Touches({ parts, run }: SheetProps) {
  const colliders = inOrder(useAppSelector((s) => selectShot(s)!.colliders));
  const others = inOrder(useAppSelector((s) => selectShot(s)!.parts)).filter(
    (p) => (isChain(p) || p.kind === 'body') && !p.muted,
  );
  const ids = parts.map((p) => p.id);
  return (
    <>
      <MindsRows
        parts={parts}
        colliders={colliders}
        others={others}
        onSet={(recipe) => run(changeSheets(ids, 'Set what it collides with', recipe))}
      />
      <CheckRow
        label={`Itself: its layers keep apart (takes ${SELF_PRICE} times as long)`}
        value={parts.every((p) => p.collidesWith.itself)}
        onSet={(on) =>
          run(changeSheets(ids, 'Set whether it minds itself', (p) => void (p.collidesWith.itself = on)))
        }
      />
    </>
  );
}
