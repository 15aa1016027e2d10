import { sampleChannel, type Character } from '../character/index';
import { extremes, sizeOf, thinChannel, worstError } from '../curves/index';
import type { BakedChannel } from '../formats/gltf/index';
import { matCompose, matMultiply, norm } from '../math/index';
import type { Shot } from '../shot/index';
import { kindOf } from '../parts/index';
import type { Frames } from '../frames/index';
import type { BakeOptions } from './options';

/** What thinning did: keys of the baked channels before and after, and the largest errors. */
export interface ThinReport {
  readonly before: number;
  readonly after: number;
  /** Of any joint's rotation, and of any tip. */
  readonly degrees: number;
  readonly millimetres: number;
  /** The joint and the part that are off by that; empty when nothing is. */
  readonly joint: string;
  readonly part: string;
}

/** A chain whose tip is too far off is thinned again, that much more carefully. */
const CAREFUL = 0.9;
const MOST_CAREFUL = 0.3;
const MOST_ROUNDS = 40;
/** Scales and morph weights may be off by this share of their largest value. */
const SHARE = 0.005;
/** Contacts that come or go within so many frames of another are one. */
const ONE_CONTACT = 3;

/**
 * Thins baked channels chain by chain: each joint within a tolerance in degrees, and ever more carefully until the tip
 * is within one in millimetres too. Extremes, contacts, both ends of the baked span and all keys outside it stay;
 * a loop keeps one tangent at both ends. Without thinning only counts keys.
 */
export function thinBaked(
  character: Character,
  shot: Shot,
  frames: Frames,
  channels: readonly BakedChannel[],
  o: BakeOptions,
  span: { readonly from: number; readonly to: number },
  shift: number,
): { thinned: BakedChannel[]; report: ThinReport } {
  const before = channels.reduce((n, c) => n + c.times.length, 0);
  const none = { before, after: before, degrees: 0, millimetres: 0, joint: '', part: '' };
  const { thin } = o;
  if (!thin) return { thinned: [...channels], report: none };
  const loop =
    frames.start.loop?.found === true && o.first === shot.range.first && o.last === shot.range.last;
  const done = new Map<BakedChannel, BakedChannel>();
  const report = { ...none };
  const thinOne = (c: BakedChannel, degrees: number, contacts: readonly number[]): BakedChannel => {
    const tolerance =
      c.path === 'rotation'
        ? degrees
        : c.path === 'translation'
          ? way(shot, thin.millimetres)
          : SHARE * Math.max(...c.values.map(Math.abs));
    const keep = new Set(extremes(c, tolerance));
    c.times.forEach((t, k) => {
      // Keys outside the span are the source's own.
      const outside = t < span.from - 1e-6 || t > span.to + 1e-6;
      const end = Math.abs(t - span.from) < 1e-6 || Math.abs(t - span.to) < 1e-6;
      if (end || (outside && thin.kind === 'linear') || contacts.some((x) => Math.abs(x - t) < 1e-6))
        keep.add(k);
    });
    const whole = span.from <= c.times[0]! + 1e-6 && span.to >= c.times.at(-1)! - 1e-6;
    return thinChannel(c, {
      kind: thin.kind,
      tolerance,
      keep: [...keep],
      loop: loop && whole,
    }) as BakedChannel;
  };
  frames.parts.forEach(({ partId }, c) => {
    const part = shot.parts[partId]!;
    const { joints, tip } = kindOf(part).layout(character, part, shot.character.metresPerUnit);
    const own = channels.filter((k) => joints.includes(k.node));
    if (own.length === 0 || !tip) return;
    const contacts = contactFrames(frames, c).map((f) => f / shot.fps + shift);
    let degrees = thin.degrees;
    let off = Infinity;
    for (let round = 0; round < MOST_ROUNDS; round++) {
      for (const k of own) done.set(k, thinOne(k, degrees, contacts));
      off = tipError(
        character,
        shot,
        joints,
        tip,
        own,
        own.map((k) => done.get(k)!),
      );
      if (off <= thin.millimetres) break;
      degrees *= Math.max(MOST_CAREFUL, (CAREFUL * thin.millimetres) / off);
    }
    if (off > report.millimetres) {
      report.millimetres = off;
      report.part = shot.parts[partId]!.name;
    }
  });
  // Vertices move together: their keys stay on every frame.
  const thinned = channels.map(
    (c) => done.get(c) ?? (c.path === 'points' ? c : thinOne(c, thin.degrees, [])),
  );
  channels.forEach((c, i) => {
    if (c.path !== 'rotation') return;
    const off = (worstError(c, thinned[i]!) * 180) / Math.PI;
    if (off <= report.degrees) return;
    report.degrees = off;
    report.joint = character.nodes[c.node]!.name;
  });
  report.after = thinned.reduce((n, c) => n + c.times.length, 0);
  return { thinned, report };
}

/** Millimetres in units of the file. */
const way = (shot: Shot, millimetres: number): number => millimetres / 1000 / shot.character.metresPerUnit;

/** Frames at which a chain begins to touch something, or leaves it. */
function contactFrames(frames: Frames, chain: number): number[] {
  const touches = (f: number) => frames.contacts[f * frames.parts.length + chain]! > 0;
  const out: number[] = [];
  for (let f = 1; f < frames.count; f++)
    if (touches(f) !== touches(f - 1) && f - (out.at(-1) ?? -Infinity) > ONE_CONTACT) out.push(f);
  return out.map((f) => frames.first + f);
}

/**
 * Largest way, mm, between the tips of a chain by two sets of its channels, beside what it hangs from, at the keys of
 * the first.
 */
function tipError(
  character: Character,
  shot: Shot,
  joints: Int32Array,
  tip: Float64Array,
  all: readonly BakedChannel[],
  few: readonly BakedChannel[],
): number {
  const times = all.reduce((best, c) => (c.times.length > best.length ? c.times : best), all[0]!.times);
  const place = (channels: readonly BakedChannel[], time: number): number[] => {
    const local = new Float64Array(16);
    const at = new Float64Array(16);
    [0, 5, 10, 15].forEach((k) => (at[k] = 1));
    for (const node of joints) {
      const { t, r, s } = character.nodes[node]!;
      const own = { translation: t.slice(), rotation: r.slice(), scale: s };
      for (const c of channels)
        if (c.node === node && (c.path === 'rotation' || c.path === 'translation'))
          sampleChannel(c, sizeOf(c), time, own[c.path], 0);
      matCompose(local, 0, own.translation, 0, own.rotation, 0, own.scale, 0);
      matMultiply(at, 0, at, 0, local, 0);
    }
    return [0, 1, 2].map((a) => at[a]! * tip[0]! + at[4 + a]! * tip[1]! + at[8 + a]! * tip[2]! + at[12 + a]!);
  };
  let most = 0;
  for (const time of times) {
    const a = place(all, time);
    const b = place(few, time);
    most = Math.max(most, norm([a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!]));
  }
  return most * 1000 * shot.character.metresPerUnit;
}
