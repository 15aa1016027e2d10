import type { Character } from '@oscillum/core/character';
import { PartId } from '@oscillum/core/model';
import { documentOf, partsInOrder, type Shot } from '@oscillum/core/shot';
import type { SettingRef } from '../../../state/parts/pendulum/edits';

export const AXES = [
  ['x', 'x'],
  ['y', 'y'],
  ['z', 'z'],
] as const;

interface MorphRef {
  node: number;
  name: string;
  target: number;
}

/** All morph targets of a character as choices. */
export const morphChoices = (character: Character): (readonly [string, string])[] =>
  character.nodes.flatMap((n, node) => {
    const count = character.meshes[n.mesh]?.weights.length ?? 0;
    return Array.from(
      { length: count },
      (_, target) => [writeMorph({ node, target }), `${n.name}, shape ${target + 1}`] as const,
    );
  });

export const writeMorph = ({ node, target }: Pick<MorphRef, 'node' | 'target'>): string =>
  `${node} ${target}`;

export function readMorph(text: string, character: Character): MorphRef {
  const [node, target] = text.split(' ').map(Number) as [number, number];
  return { node, target, name: character.nodes[node]!.name };
}

/** The settings of all parts that a pendulum may drive, as choices. */
export const settingChoices = (parts: Shot['parts']): (readonly [string, string])[] =>
  partsInOrder({ parts }).flatMap((p) =>
    documentOf(p).driven.map(
      (key) => [`${p.id} ${key}`, `${p.name}, ${documentOf(p).settings[key]!.label.toLowerCase()}`] as const,
    ),
  );

export function readSetting(text: string): SettingRef {
  const [part, setting] = text.split(' ') as [string, string];
  return { part: PartId.parse(part), setting };
}
