import { openContainer, readContainer, type Decoders } from '@oscillum/core/gltf';
import type { FileCheck, HandedOff, HandOffFile, HandOffPlan } from '@oscillum/core/handoff';
import { faultsOf, playElsewhere } from './elsewhere';
import { packGlb, type DracoModules } from './pack';

export { packGlb, type DracoModules, type Packing } from './pack';

/** What somebody else's software finds in a written file. */
export interface Judged {
  readonly checks: FileCheck[];
  /** What the standard's validator finds wrong, in its words. */
  readonly faults: string[];
}

/** Plays a written file in three.js and runs the standard's validator on it. */
export async function judgeFile(file: HandOffFile, fps: number, decoders: Decoders): Promise<Judged> {
  if (file.format !== 'glb' && file.format !== 'bvh') return { checks: [], faults: [] };
  const baked = readContainer(openContainer(file.bytes, file.name), decoders, { skeletonOnly: true });
  const checks: FileCheck[] = [];
  for (const name of file.format === 'glb' ? file.clips : [baked.clips[0]?.name ?? '']) {
    const clip = baked.clips.findLastIndex((c) => c.name === name);
    // An offset clip is not played by itself: what it is added to is for the player to say.
    if (clip < 0 || baked.clips[clip]!.over) continue;
    const check = await playElsewhere(file, baked, clip, fps);
    if (check) checks.push(check);
  }
  return { checks, faults: file.format === 'glb' ? await faultsOf(file) : [] };
}

/** What was handed off, its GLB packed as the plan asks. Throws OscillumError. */
export async function packFiles(
  done: HandedOff,
  { pack }: Pick<HandOffPlan, 'pack'>,
  draco: DracoModules,
): Promise<HandedOff> {
  if (pack === 'none') return done;
  const files: HandOffFile[] = [];
  for (const file of done.files)
    files.push(file.format === 'glb' ? { ...file, bytes: await packGlb(file.bytes, pack, draco) } : file);
  return { ...done, files };
}
