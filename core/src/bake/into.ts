import type { Draft } from 'immer';
import type { Character } from '../character/index';
import type { BakedClip, Container } from '../formats/gltf/index';
import { OscillumError, type Refinement, type RefineLayer } from '../model/index';
import { channelKey } from '../refine/index';
import { channelsOf, CharacterHash, documentOf, type Part, type Shot } from '../shot/index';
import { bakeRefined } from './bake';
import { defaultBake } from './options';
import type { ThinReport } from './thinning';
import { writeFitted } from './writeFitted';

/** The character with one clip more or, where the shot is on a baked clip already, that clip with more in it. */
export interface BakedInto {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly clip: { readonly index: number; readonly name: string };
  readonly report: ThinReport;
}

/**
 * Bakes parts into the shot's clip, for the shot to go on with: their keys over the whole range with its choice of
 * keys, and the refinements of all that does not go on moving. Everything else of the clip stays as it is, and what was
 * added to the clip stays in the shot. A generator: yields the share done after every frame. Throws
 * OscillumError('bake.invalid') where a part cannot be baked without another.
 */
export function* bakeInto(
  container: Container,
  character: Character,
  shot: Shot,
  ids: readonly string[],
): Generator<number, BakedInto> {
  const chosen = ids.map((id) => shot.parts[id]!);
  const left = leftOf(shot, ids);
  checkShared(chosen, left);
  const [spent] = splitLayer(shot.refine, settled(left));
  const parts = { ...shot.parts };
  for (const p of chosen) parts[p.id] = { ...p, muted: false, bakedInto: null };
  const again = Boolean(shot.clip?.baked);
  const asked = { ...shot, parts, refine: spent };
  const { clip, report } = yield* bakeRefined(character, asked, {
    ...defaultBake(shot),
    parts: ids,
    into: again ? 'replace' : 'new',
    name: nameFor(character, shot),
  });
  const theirs = channelsOf(chosen);
  const refined = keysIn(spent.steps);
  const kept: BakedClip = {
    ...clip,
    channels: clip.channels.filter((c) => theirs(c) || refined.has(channelKey(c.node, c.path))),
  };
  const index = again ? shot.clip!.index : character.clips.length;
  const { bytes } = writeFitted(container, character, shot, kept);
  return { bytes, clip: { index, name: kept.name }, report };
}

/** The change of a shot that goes on with what {@link bakeInto} made. */
export function goOnWith(
  draft: Draft<Shot>,
  shot: Shot,
  ids: readonly string[],
  hash: string,
  { index, name }: BakedInto['clip'],
): void {
  const held = shot.clip?.baked;
  const over = held ? held.over : shot.clip && { index: shot.clip.index, name: shot.clip.name };
  draft.character.hash = CharacterHash.parse(hash);
  draft.clip = {
    ...{ index, name },
    baked: { over, parts: [...new Set([...(held?.parts ?? []), ...(ids as Part['id'][])])] },
  };
  for (const id of ids) Object.assign(draft.parts[id]!, { muted: true, bakedInto: null });
  draft.refine = splitLayer(shot.refine, settled(leftOf(shot, ids)))[1];
}

type Takes = (node: number, path: 'rotation' | 'translation') => boolean;

/** Parts that go on being simulated. */
const leftOf = (shot: Shot, ids: readonly string[]): Part[] =>
  Object.values(shot.parts).filter((p) => !p.muted && !ids.includes(p.id));

/** Channels that do not go on moving. */
function settled(left: readonly Part[]): Takes {
  const moving = channelsOf(left);
  return (node, path) => !moving({ node, path });
}

/** What two parts move together cannot be baked of one alone: the other would move it a second time. */
function checkShared(chosen: readonly Part[], left: readonly Part[]): void {
  const claimsOf = (p: Part) => documentOf(p).claims(p);
  for (const part of chosen)
    for (const other of left) {
      const mine = claimsOf(part);
      const both = claimsOf(other).find((c) => mine.some((m) => m.node === c.node && m.path === c.path));
      if (!both) continue;
      throw new OscillumError(
        'bake.invalid',
        `${part.name} and ${other.name} both move ${both.name || `node ${both.node}`}`,
        'parts',
        'Select both and bake them together.',
      );
    }
}

function nameFor(character: Character, shot: Shot): string {
  const name = defaultBake(shot).name;
  const taken = new Set(character.clips.map((c) => c.name));
  for (let n = 1; ; n++) {
    const tried = n === 1 ? name : `${name} ${n}`;
    if (!taken.has(tried)) return tried;
  }
}

/** The refinements that count of some channels, and all others. */
function splitLayer(layer: RefineLayer, takes: Takes): [RefineLayer, RefineLayer] {
  const half = (wanted: boolean): RefineLayer => {
    const steps = layer.steps.flatMap((step): Refinement[] => {
      const counts = !layer.muted && !step.muted;
      const isWanted = step.channels.map((c) => (counts && takes(c.joint.node, c.path)) === wanted);
      const channels = step.channels.filter((_, k) => isWanted[k]);
      if (channels.length === 0) return [];
      const { does } = step;
      const keys = 'keys' in does && does.keys?.filter((_, k) => isWanted[k]);
      return [{ ...step, channels, does: (keys ? { ...does, keys } : does) as Refinement['does'] }];
    });
    const named = keysIn(steps);
    const seen = Object.fromEntries(Object.entries(layer.seen).filter(([key]) => named.has(key)));
    return { muted: layer.muted, steps, seen };
  };
  return [half(true), half(false)];
}

const keysIn = (steps: readonly Refinement[]): Set<string> =>
  new Set(steps.flatMap((s) => s.channels.map((c) => channelKey(c.joint.node, c.path))));
