import { describe, expect, it } from 'vitest';
import { readGltf } from '@oscillum/core/gltf';
import { branchesBelow, suggestChains } from '@oscillum/core/character';
import { brindleGlb, goatGlb } from './index';

describe('suggested chains', async () => {
  const bird = readGltf(await brindleGlb(), 'brindle.glb', {}, { skeletonOnly: true });
  const clip = bird.clips.find((c) => c.name === 'Stride away')!;
  const name = (n: number) => bird.nodes[n]!.name;
  it('are what only rides along on the bird, the long plume first; legs, neck and wings are not', () => {
    const found = suggestChains(bird, clip, new Set()).map((s) => name(s.row[0]!));
    expect(found[0]).toMatch(/^plume/);
    for (const row of ['plume left 1', 'plume right 1', 'crest front 1', 'lappet left 1', 'strap 1'])
      expect(found).toContain(row);
    expect(found.join()).not.toMatch(/leg|thigh|neck|spine|hips/);
  });
  it('are no limbs, though a clip leaves them still: on a standing goat, ears, beard, strap and tail', async () => {
    const goat = readGltf(await goatGlb(), 'goat.glb', {}, { skeletonOnly: true });
    const found = suggestChains(goat, goat.clips[0]!, new Set()).map((s) => goat.nodes[s.row[0]!]!.name);
    expect(found.sort()).toEqual(['beard 1', 'bell strap 1', 'ear left 1', 'ear right 1', 'tail 1']);
  });
  it('leave out what a chain moves already', () => {
    const [first] = suggestChains(bird, clip, new Set());
    const rest = suggestChains(bird, clip, new Set(first!.row));
    expect(rest.map((s) => s.row[0])).not.toContain(first!.row[0]);
  });
  it('every branch below a joint is a row of its own', () => {
    const head = bird.nodes.findIndex((n) => n.name === 'head');
    const firsts = branchesBelow(bird, head).map(name);
    for (const row of ['crest front 1', 'crest left 1', 'lappet right 1', 'wattle 1'])
      expect(firsts).toContain(row);
    const plume = bird.nodes.findIndex((n) => n.name === 'plume middle 1');
    expect(branchesBelow(bird, plume)).toEqual([plume]);
  });
});
