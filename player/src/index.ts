import { openContainer, readContainer, type Decoders } from '@oscillum/core/gltf';
import type { FileCheck, HandOffFile } from '@oscillum/core/handoff';
import { faultsOf, playElsewhere } from './elsewhere';

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
