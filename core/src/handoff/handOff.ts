import { strToU8, zipSync } from 'fflate';
import { bvhNames } from '../formats/bvh/index';
import {
  bakeClips,
  planClips,
  readForBake,
  type BakeOptions,
  type ClipPlan,
  type ClipReport,
  type Pieces,
} from '../bake/index';
import type { Character } from '../character/index';
import {
  openContainer,
  readContainer,
  readMotion,
  type BakedClip,
  type Container,
  type Decoders,
} from '../formats/gltf/index';
import { OscillumError } from '../model/index';
import type { Shot } from '../shot/index';
import { compareMotions, isSame, type Comparison } from './compare';
import {
  clipMotion,
  MOTION_FORMATS,
  POINT_FORMATS,
  unitOf,
  writeMotion,
  type MotionFormat,
  type PointFormat,
} from './files';
import { DEFAULT_HAIR, writeCards, type HairChoice } from './cards';
import { writeHairJoints } from './hairJoints';
import { denser } from './denser';
import { writePoints } from './points';

/** Hair alone: strips on joints of their own. */
export const CARDS = 'cards.glb';
/** The character with joints and strips for its hair. */
export const HAIR_JOINTS = 'hair.glb';
export const HAND_OFF_FORMATS = ['glb', ...MOTION_FORMATS, ...POINT_FORMATS, CARDS, HAIR_JOINTS] as const;
export type HandOffFormat = (typeof HAND_OFF_FORMATS)[number];

/** What is to be baked of a shot, and which files it is to be in. */
export interface HandOffPlan {
  readonly bake: BakeOptions;
  /**
   * Clips of the character to bake alike, each over its whole length, or null for the shot's own clip and frames. The
   * name then takes `{clip}`.
   */
  readonly clips: readonly number[] | null;
  readonly formats: readonly HandOffFormat[];
  /** Name of the files, without an ending. */
  readonly stem: string;
  /** What a unit of a motion file is, m; what most programs take it to be ({@link unitOf}) when null. */
  readonly unit: number | null;
  readonly up: 'Y' | 'Z';
  /** How hair is written, where a file of it is asked for. */
  readonly hair?: HairChoice | undefined;
  /** How the bytes of a GLB are packed; whoever runs the plan does that, since packers are not ours. */
  readonly pack: 'none' | 'meshopt' | 'draco';
}

export interface HandOffFile {
  readonly name: string;
  readonly format: HandOffFormat;
  readonly bytes: Uint8Array<ArrayBuffer>;
  /** The clips of a GLB that were baked, or the one a motion file holds, by name. */
  readonly clips: readonly string[];
}

/** A file that was read back, beside what it should hold. */
export interface FileCheck extends Comparison {
  readonly file: string;
  readonly clip: string;
  /** Who read it. */
  readonly by: string;
  readonly fine: boolean;
}

export interface HandedOff {
  readonly files: readonly HandOffFile[];
  readonly clips: readonly ClipReport[];
  /** What did not come out as asked, and what formats cannot hold of what there is. */
  readonly notes: readonly string[];
  readonly checks: readonly FileCheck[];
}

/** Share of the work that baking is. */
const BAKING = 0.8;

/** Throws OscillumError('bake.invalid') when a plan writes no file at all. */
export function checkPlan({ formats }: Pick<HandOffPlan, 'formats'>): void {
  if (formats.length === 0)
    throw new OscillumError(
      'bake.invalid',
      'No kind of file is chosen, so nothing would be written',
      'formats',
      'Choose at least one.',
    );
}

/** The clips that a plan bakes. */
export function clipPlans(character: Character, shot: Shot, { bake, clips }: HandOffPlan): ClipPlan[] {
  if (clips) return planClips(character, shot, clips, bake);
  const label = bake.into === 'replace' ? (shot.clip?.name ?? '') : bake.name.trim();
  return [{ shot, options: bake, missed: [], label }];
}

/**
 * Bakes a shot and writes its files, then reads every motion file back and compares it with the baked clip. A generator
 * like bakeGlb: yields the share done. The application and the command line both run this.
 */
export function* handOff(
  container: Container,
  shot: Shot,
  plan: HandOffPlan,
  decoders: Decoders = {},
  pieces?: Pieces,
): Generator<number, HandedOff> {
  checkPlan(plan);
  const { bake, clips: many, stem } = plan;
  const character = readForBake(container, shot, decoders);
  const run = bakeClips(container, character, clipPlans(character, shot, plan), pieces);
  let bytes: Uint8Array<ArrayBuffer>;
  let clips: readonly ClipReport[];
  let baked: readonly BakedClip[];
  const notes: string[] = [];
  for (;;) {
    const step = run.next();
    if (step.done) {
      ({ bytes, reports: clips, clips: baked } = step.value);
      notes.push(...step.value.troubles);
      break;
    }
    yield BAKING * step.value;
  }
  const after = readContainer(openContainer(bytes, `${stem}.glb`), decoders);
  const places =
    bake.into === 'replace'
      ? (many ?? [shot.clip!.index])
      : clips.map((_, i) => after.clips.length - clips.length + i);
  const files: HandOffFile[] = [];
  const checks: FileCheck[] = [];
  if (plan.formats.includes('glb'))
    files.push({
      name: `${stem}.glb`,
      format: 'glb',
      bytes,
      clips: places.map((p) => after.clips[p]!.name),
    });
  const { metresPerUnit, upAxis } = shot.character;
  const strands = plan.hair?.strands ?? 0;
  const formats = [...MOTION_FORMATS, ...POINT_FORMATS].filter((f) => plan.formats.includes(f));
  const dense = strands > 0 && formats.some((f) => !isMotion(f));
  const pointed = dense ? baked.map((clip) => denser(character, shot, clip, strands)) : baked;
  for (const [k, format] of formats.entries())
    for (const [i, clip] of places.entries()) {
      const unit = plan.unit ?? unitOf(format);
      const { fps } = shot;
      const o = { fps, metresPerUnit, upAxis, unit, up: plan.up };
      const written = isMotion(format)
        ? writeMotion(after, clip, format, o)
        : writePoints(character, pointed[i]!, format, o);
      const clipName = after.clips[clip]!.name;
      const word = places.length > 1 ? `${stem}-${wordOf(clipName)}` : stem;
      // Clips of one name, or of letters that file names cannot have, are told apart by number.
      const taken = files.some((f) => f.name === `${word}.${format}`);
      const name = taken ? `${word}-${i + 1}.${format}` : `${word}.${format}`;
      if (written) files.push({ name, format, bytes: strToU8(written.text), clips: [clipName] });
      for (const note of written?.notes ?? [`${NO_POINTS}.`])
        if (!notes.includes(`${LABELS[format]}: ${note}`)) notes.push(`${LABELS[format]}: ${note}`);
      const meant = clipMotion(after, clip, { fps, metresPerUnit, upAxis, unit: 1, up: 'Y' });
      const check = isMotion(format) ? readBack(files.at(-1)!, format, unit, plan.up, meant) : null;
      if (check) checks.push(check);
      yield BAKING + (1 - BAKING) * ((k + (i + 1) / places.length) / formats.length);
    }
  const clipNames = places.map((p) => after.clips[p]!.name);
  addHair(plan, shot, { baked, bytes, character: after, places }, clipNames, files, notes);
  if (files.length === 0)
    throw new OscillumError('bake.invalid', NO_POINTS, 'formats', 'Choose GLB or a file of motion too.');
  return { files, clips, notes, checks };
}

/** What was baked: the clips, and where they stand in the file. */
interface Made {
  readonly baked: readonly BakedClip[];
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly character: Character;
  readonly places: readonly number[];
}

/** Adds the files of hair that are asked for, and says what the others do not hold. */
function addHair(
  { formats, stem, hair = DEFAULT_HAIR }: HandOffPlan,
  shot: Shot,
  { baked, bytes, character, places }: Made,
  clipNames: readonly string[],
  files: HandOffFile[],
  notes: string[],
): void {
  const names = [...new Set(baked.flatMap((b) => b.curves?.map((c) => c.name) ?? []))];
  for (const format of [CARDS, HAIR_JOINTS] as const) {
    if (!formats.includes(format)) continue;
    if (names.length === 0) notes.push(`${LABELS[format]}: There is no hair, so no file of it is written.`);
    for (const [i, { curves = [] }] of baked.entries()) {
      if (curves.length === 0) continue;
      const name = `${baked.length > 1 ? `${stem}-${i + 1}` : stem}.${format}`;
      const into = { bytes, character, clip: places[i]!, fileName: name };
      const made =
        format === CARDS
          ? writeCards(curves, shot.fps, hair, name)
          : writeHairJoints(curves, into, shot.character, hair);
      files.push({ name, format, bytes: made.bytes, clips: [clipNames[i]!] });
      notes.push(
        `${LABELS[format]}: ${made.cards} of ${made.guides} guides, ${made.rms.toFixed(1)} mm off on the mean, ` +
          `${made.largest.toFixed(1)} mm at most.`,
      );
    }
  }
  const holds: readonly HandOffFormat[] = [...POINT_FORMATS, CARDS, HAIR_JOINTS];
  if (names.length > 0 && !holds.some((f) => formats.includes(f)))
    notes.push(
      `${names.join(', ')}: hair goes into USD points and CSV points as curves, into hair cards, and into a GLB with ` +
        'hair joints; the files that were chosen do not hold it.',
    );
}

const NO_POINTS = 'Nothing moves point by point, so no file of points is written';
const isMotion = (format: MotionFormat | PointFormat): format is MotionFormat =>
  (MOTION_FORMATS as readonly string[]).includes(format);

/** How formats are called where people read. */
export const LABELS: Record<HandOffFormat, string> = {
  glb: 'GLB',
  bvh: 'BVH',
  usda: 'USD text',
  csv: 'CSV',
  json: 'JSON',
  'points.usda': 'USD points',
  'points.csv': 'CSV points',
  [CARDS]: 'GLB hair cards',
  [HAIR_JOINTS]: 'GLB with hair joints',
};

/** Reads a motion file back and compares it with what was to be written (in metres, +Y up); null for tables. */
function readBack(
  file: HandOffFile,
  format: MotionFormat,
  unit: number,
  up: 'Y' | 'Z',
  meant: ReturnType<typeof clipMotion>,
): FileCheck | null {
  if (format === 'csv' || format === 'json') return null;
  const motion = readMotion(file.bytes, file.name)!;
  // BVH says nothing of units and axes: they are those asked for. USD says both, and its reader heeds them.
  const character = readContainer(openContainer(file.bytes, file.name));
  const found =
    format === 'usda'
      ? motion
      : clipMotion(character, 0, { fps: meant.fps, metresPerUnit: unit, upAxis: up, unit: 1, up: 'Y' });
  // In BVH joints have names of its own, which no two share.
  const names = bvhNames(meant);
  const named =
    format === 'bvh' ? { ...meant, joints: meant.joints.map((j, i) => ({ ...j, name: names[i]! })) } : meant;
  const compared = compareMotions(named, found);
  return {
    ...compared,
    ...{ file: file.name, clip: file.clips[0]!, by: 'our own reader' },
    fine:
      compared.joints === meant.joints.length &&
      compared.frames === meant.count &&
      isSame(compared, format === 'usda'),
  };
}

const wordOf = (name: string): string =>
  name
    .replace(/[^\w .-]/g, '')
    .trim()
    .replace(/\s+/g, '-') || 'clip';

/** All files in one zip, with a manifest that says what is in each. */
export function zipFiles({ files, clips, notes }: HandedOff, shot: Shot): Uint8Array<ArrayBuffer> {
  const manifest = {
    shot: shot.name,
    character: shot.character.fileName,
    fps: shot.fps,
    files: files.map((f) => ({
      name: f.name,
      format: LABELS[f.format],
      clips: f.clips,
      bytes: f.bytes.length,
    })),
    clips: clips.map(({ clip, frames, before, after, degrees, millimetres }) => ({
      ...{ clip, frames, keysBefore: before, keys: after, degreesOff: degrees, millimetresOff: millimetres },
    })),
    notes,
  };
  return zipSync({
    ...Object.fromEntries(files.map((f) => [f.name, f.bytes])),
    'manifest.json': strToU8(`${JSON.stringify(manifest, null, 1)}\n`),
  }) as Uint8Array<ArrayBuffer>;
}
