import type { Character } from '../character/index';
import { openContainer, toGlb, type BakedClip, type Container } from '../formats/gltf/index';
import { actionRange, type Shot } from '../shot/index';
import { carryTo } from '../simulate/index';
import { bakeRefined } from './bake';
import type { MadeHelpers } from './fitJoints';
import type { FitReport } from './fitMorphs';
import { defaultBake, type BakeOptions } from './options';
import type { ThinReport } from './thinning';
import { writeFitted } from './writeFitted';

/** What many clips of one character are baked alike with; `name` takes `{clip}` for the name of each. */
export type SharedOptions = Pick<
  BakeOptions,
  'step' | 'parts' | 'joints' | 'lead' | 'into' | 'name' | 'thin' | 'vertices'
>;

export interface ClipReport extends ThinReport {
  readonly clip: string;
  readonly frames: number;
  /** What of the shot did not find its like on this clip. */
  readonly missed: readonly string[];
  /** What vertices that move one by one were fitted onto. */
  readonly fits: readonly FitReport[];
}

export const MANY_NAMES = '{clip} with follow-through';

/** One clip to be baked: the shot on it, and with what. */
export interface ClipPlan {
  readonly shot: Shot;
  readonly options: BakeOptions;
  readonly missed: readonly string[];
  /** What it is called in reports. */
  readonly label: string;
}

/** One clip that was baked: what is written of it, and its report. */
export interface BakedPiece {
  readonly clip: BakedClip;
  readonly report: ThinReport;
  /** Why a loop that was asked for was not found. */
  readonly trouble?: string | null;
}

/** Pieces that are known already, by the number of their plan, and what is told of each new one. */
export interface Pieces {
  readonly known: ReadonlyMap<number, BakedPiece>;
  readonly made: (index: number, piece: BakedPiece) => void;
}

/** The set-up of one shot on several clips of its character, each over its whole length; on its own it is as it is. */
export function planClips(
  character: Character,
  shot: Shot,
  clips: readonly number[],
  o: SharedOptions,
): ClipPlan[] {
  const parts =
    o.parts ??
    Object.values(shot.parts)
      .filter((p) => !p.muted)
      .map((p) => p.id);
  return clips.map((clip) => {
    const { shot: on, missed } =
      clip === shot.clip?.index ? { shot, missed: [] } : carryTo(shot, character, shot.character, clip);
    const label = on.clip?.name ?? 'Rest';
    const name = o.name.replaceAll('{clip}', label);
    const { first, last } = actionRange(on);
    // Of another character some may not be there: they are among what is missed.
    const there = parts.filter((id) => on.parts[id]);
    return {
      shot: on,
      options: { ...defaultBake(on), ...o, first, last, name, parts: there },
      missed,
      label,
    };
  });
}

/**
 * Bakes clips of one character (as read from its container) into one GLB. Each is baked by itself, so that what was
 * made of it can be kept. A generator: yields the share done.
 */
export function* bakeClips(
  container: Container,
  character: Character,
  plans: readonly ClipPlan[],
  pieces?: Pieces,
): Generator<
  number,
  { bytes: Uint8Array<ArrayBuffer>; reports: ClipReport[]; troubles: string[]; clips: BakedClip[] }
> {
  const reports: ClipReport[] = [];
  const troubles: string[] = [];
  const clips: BakedClip[] = [];
  const made = new Map<number, MadeHelpers>();
  let now = container;
  for (const [k, { shot, options, missed, label }] of plans.entries()) {
    let piece = pieces?.known.get(k);
    if (!piece) {
      const run = bakeRefined(character, shot, options);
      for (;;) {
        const step = run.next();
        if (step.done) {
          piece = step.value;
          break;
        }
        yield (k + step.value) / plans.length;
      }
      pieces?.made(k, piece);
    }
    const frames = options.last - options.first + 1;
    const fitted = writeFitted(now, character, shot, piece.clip, options.vertices, made);
    reports.push({ ...piece.report, clip: label, frames, missed, fits: fitted.reports });
    clips.push(piece.clip);
    if (piece.trouble) troubles.push(`${label}: ${piece.trouble}`);
    now = openContainer(fitted.bytes, container.fileName);
    yield (k + 1) / plans.length;
  }
  return { bytes: toGlb(now), reports, troubles, clips };
}
