import type { Character } from '../character/index';
import {
  addHelpers,
  addMorphs,
  writeGlb,
  type AddedMorphs,
  type BakedClip,
  type Container,
} from '../formats/gltf/index';
import type { Shot } from '../shot/index';
import { fitJoints, type MadeHelpers } from './fitJoints';
import { fitMorphs, type FitReport, type FittedShape } from './fitMorphs';
import { DEFAULT_FIT, type VertexFit } from './options';

type Scale = Pick<Shot, 'character'>;
type MorphFit = Extract<VertexFit, { to: 'morphs' }>;

/** A clip as a GLB, with what fitting its vertices gave. */
export interface Fitted {
  readonly bytes: Uint8Array<ArrayBuffer>;
  readonly reports: readonly FitReport[];
}

/**
 * A clip as a GLB, the vertices it moves fitted onto morph targets or helper joints that are added to their meshes.
 * `made` are the helpers that clips before this one have added, by the mesh's node; those of this one are put there.
 */
export function writeFitted(
  container: Container,
  character: Character,
  shot: Scale,
  clip: BakedClip,
  wanted: VertexFit = DEFAULT_FIT,
  made = new Map<number, MadeHelpers>(),
): Fitted {
  if (!clip.channels.some((c) => c.path === 'points'))
    return { bytes: writeGlb(container, clip), reports: [] };
  if (wanted.to === 'morphs') {
    const { most, millimetres, largest = false } = wanted;
    // The file may have more targets than the character had when it was read: those of clips before this one.
    const had = (node: number) =>
      container.json.meshes![container.json.nodes![node]!.mesh!]!.primitives[0]?.targets?.length ?? 0;
    const shapes = { most, error: millimetres / 1000, largest };
    const fitted = fitMorphs(character, shot.character, clip, shapes, had);
    const grown = fitted.added.reduce(
      (to: Container, added) => addMorphs(to, { ...added, sparse: wanted.sparse ?? false }),
      container,
    );
    return {
      bytes: writeGlb(grown, fitted.clip),
      reports: fitted.reports.map((r, k) => sized(r, fitted.added[k]!, wanted)),
    };
  }
  const reports: FitReport[] = [];
  let now = container;
  const channels = clip.channels.flatMap((c) => {
    if (c.path !== 'points') return [c];
    const nodes = now.json.nodes!.length;
    const fitted = fitJoints(character, shot.character, clip, c, wanted, made.get(c.node) ?? null, nodes);
    if (fitted.added) now = addHelpers(now, fitted.added);
    made.set(c.node, fitted.made);
    reports.push(fitted.report);
    return fitted.channels;
  });
  return { bytes: writeGlb(now, { ...clip, channels }), reports };
}

/** A report with the bytes of targets that take no room for what they leave where it is, where that is asked for. */
function sized(report: FitReport, { targets }: AddedMorphs, { sparse }: Pick<MorphFit, 'sparse'>): FitReport {
  if (!sparse) return report;
  const left = (all: Float32Array) => {
    let count = 0;
    for (let v = 0; v < all.length; v += 3) if (all[v] === 0 && all[v + 1] === 0 && all[v + 2] === 0) count++;
    return count;
  };
  // 12 bytes a vertex, and 4 for its number where it is kept.
  const spared = targets
    .flatMap((t) => [t.moves, t.turns])
    .reduce((n, all) => n + 16 * left(all) - (4 * all.length) / 3, 0);
  return { ...report, bytes: report.bytes - spared };
}

/** One way to fit the vertices of a clip: of each mesh what it costs, and how it stands where it is farthest off. */
export interface FitCost {
  readonly reports: readonly FitReport[];
  readonly worst: readonly FittedShape[];
}

/** What fitting a clip's vertices in several ways costs; nothing is written. A generator: yields the share done. */
export function* fitCosts(
  character: Character,
  shot: Scale,
  clip: BakedClip,
  choices: readonly VertexFit[],
): Generator<number, FitCost[]> {
  const out: FitCost[] = [];
  for (const wanted of choices) {
    yield out.length / choices.length;
    if (wanted.to === 'morphs') {
      const shapes = { most: wanted.most, error: wanted.millimetres / 1000 };
      const { added, reports, worst } = fitMorphs(character, shot.character, clip, shapes, () => 0);
      out.push({ reports: reports.map((r, k) => sized(r, added[k]!, wanted)), worst });
    } else {
      const fitted = clip.channels
        .filter((c) => c.path === 'points')
        .map((c) => fitJoints(character, shot.character, clip, c, wanted, null, 0));
      out.push({ reports: fitted.map((f) => f.report), worst: fitted.map((f) => f.worst) });
    }
  }
  return out;
}
