import { asChain } from '../src/parts/chain/shared';
import { createHash } from 'node:crypto';
import { Worker } from 'node:worker_threads';
import { Collider, Force } from '../src/model/index';
import { editShot } from '../src/shot/index';
import { simulateAll } from '../src/simulate/index';
import { makeRow, rowShot } from './rig';
import type { TruthRow } from './row';

/**
 * SHA-256 of the bits of a fixed shot: hold with keys, bend, curl, stretch, amount, delay per joint, responses,
 * wind and a free ball at work.
 */
export function bitsOfFixedShot(): string {
  const character = makeRow(
    12,
    0.6,
    3,
    (t) => ({ place: [Math.sin(3 * t) * 0.2, 0, 0.1 * t], turn: Math.sin(5 * t) }),
    { curl: 0.15 },
  );
  const base = rowShot(
    character,
    {
      hold: 1.1,
      bend: 2.2,
      damping: 0.3,
      stretch: 4,
      amount: 80,
      thickness: 0.01,
      delayPerJoint: 0.4,
      turn: 80,
    },
    { preRoll: 6 },
  );
  const { shot } = editShot(base, 'bits-0001', 'Change', (d) => {
    asChain(d.parts.p).keys.hold = [
      { frame: 0, value: 1.1, kind: 'smooth' },
      { frame: 40, value: 2, kind: 'linear' },
    ];
    d.colliders.c = Collider.parse({
      id: 'c',
      name: 'Ball',
      t: [0.1, -0.3, 0],
      shape: { kind: 'sphere', radius: 0.12 },
      free: { mass: 0.2 },
    });
    d.forces.w = Force.parse({ id: 'w', name: 'Wind', kind: 'wind', direction: [1, 0, 1], speed: 5 });
  });
  const frames = simulateAll(character, shot);
  const hash = createHash('sha256');
  for (const a of [frames.rotations, frames.translations, frames.tips, frames.offSource, frames.placements])
    hash.update(new Uint8Array(a.buffer, a.byteOffset, a.byteLength));
  return hash.digest('hex');
}

/** 21: a second run and a worker give the same bits. (A browser worker is compared in e2e.) */
export async function sameBits(): Promise<TruthRow[]> {
  const here = bitsOfFixedShot();
  const row = (name: string, measured: string): TruthRow => ({
    row: 21,
    case: name,
    expected: here.slice(0, 16),
    measured: measured.slice(0, 16),
    tolerance: 'exact',
    status: measured === here ? 'pass' : 'fail',
  });
  const inWorker = await new Promise<string>((resolve, reject) => {
    const here = JSON.stringify(import.meta.url);
    const code = [
      "import('tsx/esm/api').then(async ({ tsImport }) => {",
      `const m = await tsImport(${here}, ${here});`,
      "require('node:worker_threads').parentPort.postMessage(m.bitsOfFixedShot()); });",
    ].join(' ');
    const worker = new Worker(code, { eval: true });
    worker.once('message', resolve);
    worker.once('error', reject);
  });
  return [
    row('second run, bits of every joint', bitsOfFixedShot()),
    row('worker thread, bits of every joint', inWorker),
  ];
}
