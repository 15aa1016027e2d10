import { expect, it } from 'vitest';
import { curtain, curtainShot, pushes, strayOfSpacing, UNLIKE } from '../../../truth/linkedRows';
import { PartId } from '../../model/index';
import { editShot } from '../../shot/index';
import { simulateAll } from '../../simulate/index';
import { asChain, type Spring } from './shared';

const c = curtain(4);
const shotWith = (spring: Partial<Spring> | null) => curtainShot(c, 4, spring, UNLIKE);
const offSource = (spring: Partial<Spring> | null) => strayOfSpacing(simulateAll(c, shotWith(spring)), 4);

it('linked chains keep the spacing of their source within 1 % when stiff; apart, they lose it', () => {
  const [free, soft, stiff] = [offSource(null), offSource({ stiffness: 4 }), offSource({ stiffness: 30 })];
  expect(free).toBeGreaterThan(0.3);
  expect(soft).toBeLessThan(free / 2);
  expect(stiff).toBeLessThan(0.01);
});
it('they push each other by equal and opposite forces', () => {
  const { sum, largest } = pushes();
  expect(largest).toBeGreaterThan(1e-3);
  expect(sum).toBeLessThan(1e-12 * largest);
});
it('they close in a ring, and give the same bits whoever of a pair names the other', () => {
  const shot = shotWith({ stiffness: 12 });
  const turned = editShot(shot, 'spring-002', 'Turn', (d) => {
    for (let r = 1; r < 4; r++) {
      const [own] = asChain(d.parts[`row${r}`]).springs.splice(0, 1);
      asChain(d.parts[`row${r - 1}`]).springs.push({ ...own!, to: PartId.parse(`row${r}`) });
    }
  }).shot;
  expect(simulateAll(c, turned).rotations).toEqual(simulateAll(c, shot).rotations);
  const ring = editShot(shot, 'spring-003', 'Ring', (d) => {
    asChain(d.parts.row0).springs.push({ to: PartId.parse('row3'), stiffness: 12, damping: 0.7 });
  }).shot;
  expect(simulateAll(c, ring).rotations).not.toEqual(simulateAll(c, shot).rotations);
  // A neighbour that goes is let go.
  const fewer = editShot(ring, 'spring-004', 'Remove', (d) => void delete d.parts.row3).shot;
  expect(asChain(fewer.parts.row0).springs).toEqual([]);
});
