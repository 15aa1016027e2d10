import { DEFAULT_THINNING, MANY_NAMES, type BakeOptions } from '@oscillum/core/bake';
import {
  CARDS,
  DEFAULT_HAIR,
  HAIR_JOINTS,
  type HairChoice,
  type HandOffFormat,
  type HandOffPlan,
  POINT_FORMATS,
} from '@oscillum/core/handoff';
import type { Shot } from '@oscillum/core/shot';

/** What is chosen in the panel: a plan, with what depends on the shot still open. */
export interface Choices {
  readonly bake: Partial<BakeOptions>;
  /** Clips to bake alike, by index; null for the shot's own. */
  readonly clips: readonly number[] | null;
  readonly formats: readonly HandOffFormat[];
  readonly unit: number | null;
  readonly up: 'Y' | 'Z';
  /** Name of the files without an ending; after the character's when null. */
  readonly stem: string | null;
  readonly pack: HandOffPlan['pack'];
  readonly hair: HairChoice;
}

export const NOTHING_CHOSEN: Choices = {
  bake: {},
  clips: null,
  formats: ['glb'],
  unit: null,
  up: 'Y',
  stem: null,
  pack: 'none',
  hair: DEFAULT_HAIR,
};

/** Choices that suit a need. */
export const NEEDS: readonly {
  name: string;
  says: string;
  choices: Partial<Choices> & { thin: BakeOptions['thin'] };
}[] = [
  {
    name: 'A game engine',
    says: 'One GLB, a key on every frame: engines compress by themselves.',
    choices: { formats: ['glb'], thin: null },
  },
  {
    name: 'An animation editor',
    says: 'Few keys on curves, that a person can go on with; GLB and USD text.',
    choices: { formats: ['glb', 'usda'], thin: DEFAULT_THINNING },
  },
  {
    name: 'A web viewer',
    says: 'One small GLB: few straight keys.',
    choices: { formats: ['glb'], thin: { kind: 'linear', degrees: 0.5, millimetres: 5 } },
  },
  {
    name: 'Skeleton only',
    says: 'The skeleton and how it moves, without the mesh: BVH in centimetres.',
    choices: { formats: ['bvh'], thin: null },
  },
];

/** Files that hold hair. */
const HAIR_FORMATS = new Set<HandOffPlan['formats'][number]>([CARDS, HAIR_JOINTS, ...POINT_FORMATS]);

/** The plan that the choices make. */
export function planOf(shot: Shot, choices: Choices, bake: BakeOptions): HandOffPlan {
  const { clips, formats, unit, up, pack, hair } = choices;
  const stem = choices.stem ?? `${shot.character.fileName.replace(/\.[^.]+$/, '')}-baked`;
  return {
    bake: { ...bake, name: clips && !choices.bake.name ? MANY_NAMES : bake.name },
    clips,
    formats,
    stem,
    unit,
    up,
    pack,
    ...(formats.some((f) => HAIR_FORMATS.has(f)) ? { hair } : {}),
  };
}
