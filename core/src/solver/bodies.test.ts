import { describe, expect, it } from 'vitest';
import { mulberry32 } from '../math/index';
import { finishBody, givesWay, makeBody, predictBody, pushBody, toBody, toWorld, velocityAt } from './bodies';
import { collideBodies } from './collide';

const free = { mass: 2, velocity: [0, 0, 0], spin: [0, 0, 0] };

describe('a free body', () => {
  it('gives way at a place as the impulse there makes it', () => {
    const random = mulberry32(4);
    for (let n = 0; n < 40; n++) {
      const body = makeBody({ kind: 'box', half: [0.1, 0.3, 0.2] }, 0, 0, free);
      const q = [random() - 0.5, random() - 0.5, random() - 0.5, random() - 0.5];
      body.now.set(
        q.map((x) => x / Math.hypot(...q)),
        3,
      );
      const p = [random(), random(), random()] as const;
      const d = [random() - 0.5, random() - 0.5, random() - 0.5];
      const [nx, ny, nz] = d.map((x) => x / Math.hypot(...d)) as [number, number, number];
      const gives = givesWay(body, ...p, nx, ny, nz);
      pushBody(body, ...p, 3 * nx, 3 * ny, 3 * nz);
      finishBody(body, 0);
      const v = new Float64Array(3);
      velocityAt(v, body, ...p, 1);
      expect(v[0]! * nx + v[1]! * ny + v[2]! * nz).toBeCloseTo(3 * gives, 9);
    }
  });
  it('falls by ½ g t² and keeps its spin', () => {
    const body = makeBody({ kind: 'sphere', radius: 0.1 }, 0, 0, { ...free, spin: [0, 2, 0] });
    for (let k = 0; k < 240; k++) predictBody(body, 1 / 240, [0, -9.81, 0], 0);
    expect(body.now[1]).toBeCloseTo(-9.81 / 2, 9);
    expect(2 * Math.atan2(body.now[4]!, body.now[6]!)).toBeCloseTo(2, 3);
  });
  it('places go into its space and back', () => {
    const body = makeBody({ kind: 'sphere', radius: 1 }, 0, 0, null);
    body.now.set([1, 2, 3, 0.5, 0.5, 0.5, 0.5]);
    const [own, back] = [new Float64Array(3), new Float64Array(3)];
    toBody(own, body.now, 4, 5, 6);
    toWorld(back, body.now, own);
    [4, 5, 6].forEach((x, k) => expect(back[k]).toBeCloseTo(x, 12));
  });
  it('two that meet head on with bounce 1 change their speeds', () => {
    const [a, b] = [1, -1].map((v, k) => {
      const body = makeBody({ kind: 'sphere', radius: 0.1 }, 0, 1, { ...free, velocity: [v, 0, 0] });
      body.now[0] = k * 0.5 - 0.25;
      return body;
    });
    for (let k = 0; k < 120; k++) {
      for (const body of [a!, b!]) predictBody(body, 1 / 240, [0, 0, 0], 0);
      collideBodies([a!, b!], 1 / 240);
    }
    expect(a!.free!.velocity[0]).toBeCloseTo(-1, 9);
    expect(b!.free!.velocity[0]).toBeCloseTo(1, 9);
  });
});
