import { benchFile } from '../../../demo/src/index';
import { describe, expect, it } from 'vitest';
import { readGltf } from '../formats/gltf/index';
import { simulateAll, trackOf, type TrackCache } from '../simulate/index';

describe('a step with contacts', () => {
  it('finds its answer, whatever rubs, turns back or lets go: ten chains dragged to and fro among eight capsules', async () => {
    const { bytes, touching } = await benchFile(10, 10);
    const character = readGltf(bytes, 'bench.glb', {}, { skeletonOnly: true });
    const cache: TrackCache = {};
    const { arena } = trackOf(character, touching, cache);
    const real = arena.step;
    let [steps, without, iterations] = [0, 0, 0];
    arena.step = (header) => {
      const taken = real(header);
      steps++;
      if (taken < 0) without++;
      iterations += Math.abs(taken);
      return taken;
    };
    const frames = simulateAll(character, touching, cache);
    // Something presses most of the time, or there would be nothing to find.
    expect(frames.contacts.filter((n) => n > 0).length).toBeGreaterThan(frames.contacts.length / 4);
    expect(steps).toBeGreaterThan(9000);
    expect(without).toBe(0);
    expect(iterations / steps).toBeLessThan(1.6);
  });
});
