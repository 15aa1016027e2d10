import { minds } from '../../model/index';
import { chainNumbers, searchNumbers } from '../../solver/index';
import type { PartKind } from '../kind';
import { chainAlikeUntil } from './alike';
import { diagnoseChain } from './diagnoses';
import type { ChainPart } from './document';
import { layOutChain, type ChainLayout } from './layout';
import { chainFeel, fitChainFeel } from './probe';
import { makeChainRun } from './run';
import { measureChain } from './shotFeel';
import { makeChainSource, type ChainSource } from './source';
import { pathsOf } from './write';

const tiedTo = (part: ChainPart): number[] =>
  part.tipPin && 'joint' in part.tipPin.to ? [part.tipPin.to.joint.node] : [];

/** Rows of joints. */
export const chainKind: PartKind<ChainPart, ChainLayout, ChainSource> = {
  layout: layOutChain,
  columns: (_, part) => ({ paths: pathsOf(part), scaled: [], morphs: [], points: [], readouts: [] }),
  sampled: (part) => [part.id, part.joints, tiedTo(part), part.overlapFrom],
  follows: tiedTo,
  collidesWith: (part) => part.collidesWith,
  tied: (part) => part.springs.map((s) => s.to),
  concerns: (part, collider) =>
    minds(part.collidesWith.colliders, collider.id) ||
    (part.tipPin !== null && 'collider' in part.tipPin.to && part.tipPin.to.collider === collider.id),
  // Four times the rows: what a swing was handed down to, what is posed and what is delayed stand beside the source's.
  room: ({ joints }, rows, others) => {
    const n = joints.length;
    const size = rows * (7 * n + 3);
    return { rows: size, run: 3 * size + chainNumbers(n) + searchNumbers(n, others), bodies: n };
  },
  source: makeChainSource,
  run: makeChainRun,
  feel: chainFeel,
  fit: fitChainFeel,
  measureShot: (x) => measureChain(x.frames, x.track, x.index, x.shot.fps),
  diagnose: diagnoseChain,
  alikeUntil: chainAlikeUntil,
};
