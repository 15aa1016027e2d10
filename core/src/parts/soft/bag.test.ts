import { expect, it } from 'vitest';
import { brindle } from '../../../test/bakes';
import { withFinerMesh } from '../../../test/finer';
import { meanOff } from '../../../truth/softRig';
import { meshTriangles, type Character } from '../../character/index';
import { readGltf } from '../../formats/gltf/index';
import { editShot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';
import { applyRegionPreset, makeRegionPart, REGION_PRESETS, regionSettingsFor } from './shared';

const character = readGltf(brindle!.bytes, 'brindle.glb');
const leap = brindle!.shots.find((s) => s.name === 'Brindle, Leap, well fed')!;
const named = (name: string) => ({ node: character.nodes.findIndex((n) => n.name === name), name });
const BAG = named('mailbag mesh');

/** One region over her mailbag and its bell, in her leap: how far it is off on every frame. */
function offs(figure: Character): number[] {
  const { shot } = editShot(leap, 'bag-000001', 'Make soft', (d) => {
    const part = makeRegionPart({
      ...{ id: 'bag', name: 'Bag', mesh: BAG, also: [named('bell mesh')] },
      where: { by: 'ball', at: [0, 0.25, 0.2], inner: 0.05, outer: 0.5 },
      settings: regionSettingsFor(0.3),
    });
    applyRegionPreset(
      part,
      REGION_PRESETS.find((p) => p.name === 'Flesh')!,
      0.3,
    );
    d.parts = { bag: part };
  });
  return meanOff(figure, simulateAll(figure, shot));
}

it('a bag of four times the vertices quivers as the bag does, within 5 %', () => {
  const finer = withFinerMesh(character, BAG.node);
  const count = (c: Character) => meshTriangles(c, BAG.node).vertices;
  expect(count(finer)).toBeGreaterThan(3 * count(character));
  const [coarse, fine] = [offs(character), offs(finer)];
  const most = Math.max(...coarse);
  expect(most).toBeGreaterThan(0.005);
  coarse.forEach((x, f) => expect(Math.abs(x - fine[f]!)).toBeLessThan(0.05 * most));
});
