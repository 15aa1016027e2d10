import { openContainer, readContainer, toGlb, type Container, type Decoders } from '../formats/gltf/index';
import type { Shot } from '../model/index';
import { carryTo } from '../simulate/index';
import { bakeGlb } from './bake';
import { defaultBake, type BakeOptions } from './options';
import type { ThinReport } from './thinning';

/** What many clips of one character are baked alike with; `name` takes `{clip}` for the name of each. */
export type SharedOptions = Pick<
  BakeOptions,
  'step' | 'parts' | 'joints' | 'lead' | 'into' | 'name' | 'thin'
>;

export interface ClipReport extends ThinReport {
  readonly clip: string;
  readonly frames: number;
  /** What of the shot did not find its like on this clip. */
  readonly missed: readonly string[];
}

export const MANY_NAMES = '{clip} with follow-through';

/**
 * Bakes the set-up of one shot on several clips of its character, each over its whole length, into one GLB. The clip the
 * shot is on keeps its own frames. A generator like {@link bakeGlb}: yields the share done.
 */
export function* bakeClips(
  container: Container,
  shot: Shot,
  clips: readonly number[],
  o: SharedOptions,
  decoders: Decoders = {},
): Generator<number, { bytes: Uint8Array<ArrayBuffer>; reports: ClipReport[] }> {
  const character = readContainer(container, decoders, { skeletonOnly: true });
  const parts =
    o.parts ??
    Object.values(shot.parts)
      .filter((p) => !p.muted)
      .map((p) => p.id);
  const reports: ClipReport[] = [];
  let now = container;
  for (const [k, clip] of clips.entries()) {
    const { shot: on, missed } =
      clip === shot.clip?.index ? { shot, missed: [] } : carryTo(shot, character, shot.character, clip);
    const name = o.name.replaceAll('{clip}', on.clip?.name ?? 'Rest');
    // Each clip over its own whole length.
    const { first, last } = on.range;
    const run = bakeGlb(now, on, { ...defaultBake(on), ...o, first, last, name, parts }, decoders);
    for (;;) {
      const step = run.next();
      if (step.done) {
        const { bytes, report } = step.value;
        reports.push({
          ...report,
          ...{ clip: on.clip?.name ?? 'Rest', missed },
          frames: on.range.last - on.range.first + 1,
        });
        now = openContainer(bytes, container.fileName);
        break;
      }
      yield (k + step.value) / clips.length;
    }
  }
  return { bytes: toGlb(now), reports };
}
