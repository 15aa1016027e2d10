import type { HandOffPlan } from '@oscillum/core/handoff';
import { DEFAULT_HAIR, LABELS, unitOf } from '@oscillum/core/handoff';
import type { Shot } from '@oscillum/core/shot';
import { useDesk } from '../../kit/desk';

const UNITS = new Map([
  [1, 'metres'],
  [0.01, 'centimetres'],
  [0.0254, 'inches'],
]);

/** In plain words, before anything is baked: which files there will be, and what is in each. */
export function WhatItHolds({ shot, plan, joints }: { shot: Shot; plan: HandOffPlan; joints: number }) {
  const { character } = useDesk();
  const { bake, clips, formats, stem } = plan;
  const own = shot.clip?.name ?? 'Rest';
  const names = clips ? clips.map((c) => character.clips[c]?.name ?? '') : [own];
  const written = names.map((n) => (bake.into === 'replace' ? n : bake.name.replaceAll('{clip}', n)));
  const fps = `${Number(shot.fps.toFixed(2))} frames a second`;
  const hair = plan.hair ?? DEFAULT_HAIR;
  const curves = !Object.values(shot.parts).some((p) => p.kind === 'strands' && !p.muted)
    ? ''
    : hair.strands
      ? `, and ${hair.strands} strands of each hair`
      : ', and the guides of hair';
  const frames = clips ? 'each over its whole length' : `frames ${bake.first} to ${bake.last}`;
  const keys = bake.thin
    ? `few keys, at most ${bake.thin.degrees}° off`
    : bake.step === 1
      ? 'a key on every frame'
      : bake.step < 1
        ? `${Math.round(1 / bake.step)} keys a frame`
        : `a key on every ${bake.step} frames`;
  const refined =
    !shot.refine.muted && shot.refine.steps.some((s) => !s.muted) ? ', with your refinements' : '';
  const packed = plan.pack === 'none' ? '' : `; packed with ${plan.pack === 'draco' ? 'Draco' : 'meshopt'}`;
  const into =
    bake.into === 'replace'
      ? `${list(written)}, in ${written.length === 1 ? 'its' : 'their'} place`
      : bake.into === 'offset'
        ? `${list(written)}, which ${written.length === 1 ? 'adds' : 'add'} to ${list(names)}`
        : `its ${character.clips.length} clips and ${list(written)}`;
  return (
    <details className="holds">
      <summary>What will be in {formats.length === 1 ? 'the file' : 'the files'}</summary>
      <ul>
        {formats.map((f) => {
          const many = f !== 'glb' && written.length > 1;
          const unit = plan.unit ?? unitOf(f === 'glb' || f === 'cards.glb' || f === 'hair.glb' ? 'usda' : f);
          const space = `in ${UNITS.get(unit) ?? `units of ${unit} m`}, ${plan.up === 'Y' ? '+Y' : '+Z'} up`;
          return (
            <li key={f}>
              <b>{many ? `${written.length} ${LABELS[f]} files` : `${stem}.${f}`}</b>:{' '}
              {f === 'cards.glb'
                ? `hair as ${hair.cards} strips at most, with texture places, on ${hair.joints} joints each, ${frames}.`
                : f === 'hair.glb'
                  ? `the whole character, and hair on chains of ${hair.joints} joints that hang on hers, with ${hair.cards} strips at most.`
                  : f === 'glb'
                    ? `the whole character with ${into}; turns of ${joints} joints, ${frames}, ${keys}${refined}${packed}.`
                    : f === 'points.usda' || f === 'points.csv'
                      ? `the places of all vertices that move point by point${curves}, ${frames}, ${fps}, ${space}.`
                      : f === 'csv' || f === 'json'
                        ? `a table of places and turns of ${character.joints.length} joints, ${frames}, ${fps}.`
                        : `the skeleton of ${character.joints.length} joints and how it moves, ${frames}, ${fps}, ${space}. No mesh.`}
            </li>
          );
        })}
      </ul>
    </details>
  );
}

const list = (names: readonly string[]): string =>
  names.length > 3 ? `${names.length} new clips` : names.map((n) => `“${n}”`).join(', ');
