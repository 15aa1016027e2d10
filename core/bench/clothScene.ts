import type { Character } from '../src/character/index';
import { Collider, makeWeightMap } from '../src/model/index';
import { makeClothPart } from '../src/parts/cloth/shared';
import { editShot, type Shot } from '../src/shot/index';
import { makeFigure, nodeNamed } from '../test/figure';
import { squareSheet } from '../truth/clothBench';

/**
 * A figure whose root swings over 240 frames at 60 a second, with an irregular square metre of n × n vertices held at
 * its upper edge, over a ball of about 700 triangles: 8 steps a frame, without wind, leash or contact with itself.
 */
export function clothScene(n: number): { character: Character; shot: Shot } {
  const sheet = squareSheet(n, 1, 0.4);
  const [rings, sides, radius] = [19, 20, 0.25];
  const ball: number[] = [];
  for (let r = 0; r <= rings; r++)
    for (let s = 0; s < sides; s++) {
      const [a, b] = [(Math.PI * r) / rings, (2 * Math.PI * s) / sides];
      ball.push(
        0.5 + radius * Math.sin(a) * Math.cos(b),
        -0.6 + radius * Math.cos(a),
        -0.28 + radius * Math.sin(a) * Math.sin(b),
      );
    }
  const faces: number[] = [];
  for (let r = 0; r < rings; r++)
    for (let s = 0; s < sides; s++) {
      const [p, q] = [r * sides + s, r * sides + ((s + 1) % sides)];
      if (r > 0) faces.push(p, q, p + sides);
      if (r < rings - 1) faces.push(q, q + sides, p + sides);
    }
  const meshes = {
    sheet: { places: sheet.rest, triangles: sheet.triangles },
    body: { places: ball, triangles: faces },
  };
  const { character, shot: base } = makeFigure(meshes, 4, 10, (t) => [
    0.25 * Math.sin(2.2 * t),
    0,
    0.1 * Math.sin(3.1 * t),
  ]);
  const node = (name: string) => nodeNamed(character, name);
  const { shot } = editShot(base, 'bench-0001', 'Make cloth', (d) => {
    Object.assign(d, { fps: 60, substeps: 8, preRollSeconds: 0, range: { first: 0, last: 239 } });
    // Held where the leash is 0: along its upper edge.
    const leash = makeWeightMap(Float64Array.from({ length: n * n }, (_, v) => Number(v >= n)));
    d.parts.sheet = makeClothPart({ id: 'sheet', name: 'Sheet', mesh: node('sheet'), maps: { leash } });
    d.colliders['body' as never] = Collider.parse({
      ...{ id: 'body', name: 'Body', shape: { kind: 'mesh', ...node('body'), simplified: 0 } },
    });
  });
  return { character, shot };
}
