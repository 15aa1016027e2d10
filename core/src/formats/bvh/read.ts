import { quatFromAxis, quatMultiply } from '../../math/index';
import { OscillumError } from '../../model/index';
import { keepSigns, type Motion, type MotionJoint } from '../motion/index';

/** What is refused before any memory is asked for. */
const MOST_JOINTS = 10_000;
const MOST_NUMBERS = 100e6;
const MOST_DEPTH = 1000;

const AXES = { x: 0, y: 1, z: 2 } as const;

interface Channel {
  readonly kind: 'position' | 'rotation';
  readonly axis: 0 | 1 | 2;
}

interface Joint extends MotionJoint {
  /** What each of its numbers in a row is; positions first or not, in the file's order. */
  readonly channels: readonly Channel[];
}

/** Reads the joints of a file, from its first ROOT to the word MOTION. */
class Hierarchy {
  readonly joints: Joint[] = [];
  private readonly names = new Map<string, number>();

  constructor(private readonly words: Words) {
    words.expect('HIERARCHY');
    while (words.peek() === 'ROOT') {
      words.next();
      this.body(words.line(), -1, 0, false);
    }
    if (this.joints.length === 0) words.fail('has no ROOT');
  }

  private unique(name: string): string {
    const seen = this.names.get(name) ?? 0;
    this.names.set(name, seen + 1);
    return seen === 0 ? name : this.unique(`${name} ${seen + 1}`);
  }

  private body(name: string, parent: number, depth: number, end: boolean): void {
    const { words, joints } = this;
    if (joints.length >= MOST_JOINTS) words.fail(`has more than ${MOST_JOINTS} joints`, 'file.too-large');
    if (depth > MOST_DEPTH) words.fail(`hangs joints more than ${MOST_DEPTH} deep`, 'file.too-large');
    words.expect('{');
    words.expect('OFFSET');
    const t = [words.number(), words.number(), words.number()];
    const channels = !end && words.peek() === 'CHANNELS' ? this.channels() : [];
    const joint = { name: this.unique(name), parent, t, r: [0, 0, 0, 1], s: [1, 1, 1], channels };
    const index = joints.push(joint) - 1;
    for (;;) {
      const word = words.next();
      if (word === '}') return;
      if (word === 'JOINT') this.body(words.line(), index, depth + 1, false);
      else if (word === 'End') {
        words.expect('Site');
        this.body(`${joints[index]!.name} end`, index, depth + 1, true);
      } else words.fail(`has ${clip(word)} where JOINT, End Site or } should stand`);
    }
  }

  private channels(): Channel[] {
    const { words } = this;
    words.next();
    const count = words.whole('a number of channels');
    return Array.from({ length: count }, () => {
      const word = words.next();
      const m = /^([XYZ])(position|rotation)$/i.exec(word);
      if (!m)
        words.failBefore(
          `has a channel ${clip(word)}, which is not Xposition, Yposition, Zposition, Xrotation, Yrotation or Zrotation`,
        );
      return {
        kind: m![2]!.toLowerCase() as 'position' | 'rotation',
        axis: AXES[m![1]!.toLowerCase() as 'x'],
      };
    });
  }
}

/** Reads the places and turns of `count` frames, a row of numbers each. */
function readRows(
  words: Words,
  joints: readonly Joint[],
  count: number,
): { t: Float64Array; r: Float64Array } {
  const n = joints.length;
  const t = new Float64Array(3 * n * count);
  const r = new Float64Array(4 * n * count);
  const turn = new Float64Array(4);
  for (let f = 0; f < count; f++) {
    joints.forEach((joint, i) => {
      const k = f * n + i;
      t.set(joint.t, 3 * k);
      r[4 * k + 3] = 1;
      for (const { kind, axis } of joint.channels) {
        const value = words.number();
        // A position stands in place of the offset.
        if (kind === 'position') t[3 * k + axis] = value;
        else {
          quatFromAxis(
            turn,
            0,
            axis === 0 ? 1 : 0,
            axis === 1 ? 1 : 0,
            axis === 2 ? 1 : 0,
            (value * Math.PI) / 180,
          );
          quatMultiply(r, 4 * k, r, 4 * k, turn, 0);
        }
      }
    });
  }
  return { t, r };
}

/**
 * Reads a BVH file: any number of roots, any order of channels, end sites (as joints named after their parent).
 * Rotations are in the order their channels stand, degrees, about the axes that turn with the joint. Values keep the
 * file's own unit. Throws OscillumError('file.invalid' and the like) with the line.
 * Source: Meredith and Maddock, Motion Capture File Formats Explained (2001).
 */
export function readBvh(text: string, fileName: string): Motion {
  const words = new Words(text, fileName);
  const { joints } = new Hierarchy(words);
  words.expect('MOTION');
  words.expect('Frames:');
  const count = words.whole('a number of frames');
  words.expect('Frame');
  words.expect('Time:');
  const seconds = words.number();
  if (!(seconds >= LEAST_FRAME && seconds <= MOST_FRAME)) words.failBefore(`says a frame takes ${seconds} s`);
  const width = joints.reduce((n, j) => n + j.channels.length, 0);
  const n = joints.length;
  if (count * Math.max(width, 10 * n) > MOST_NUMBERS)
    words.fail('holds more motion than is read', 'file.too-large');
  if (count === 0) words.fail('has no frames');
  const { t, r } = readRows(words, joints, count);
  if (words.peek() !== '') words.fail(`has more numbers than ${count} frames take`);
  keepSigns(r, n);
  return {
    name: fileName.replace(/\.[^.]*$/, '') || 'Motion',
    joints: joints.map(({ name, parent, t, r, s }) => ({ name, parent, t, r, s })),
    fps: roundRate(1 / seconds),
    first: 0,
    count,
    t,
    r,
    s: new Float64Array(3 * n * count).fill(1),
  };
}

/** Seconds that a frame may take. */
const LEAST_FRAME = 1e-4;
const MOST_FRAME = 10;

/** Frame times are written with few digits: a rate within a thousandth of a whole one is that. */
const roundRate = (fps: number): number =>
  Math.abs(fps - Math.round(fps)) < 1e-3 * fps && Math.round(fps) > 0 ? Math.round(fps) : fps;

const clip = (word: string): string => (word === '' ? 'its end' : `“${word.slice(0, 40)}”`);

/** The words of a text one after another, with their lines for messages. */
class Words {
  private readonly at = /\S+/y;
  private readonly gap = /\s*/y;
  private place = 0;
  /** Where the word last taken begins. */
  private taken = 0;

  constructor(
    private readonly text: string,
    private readonly fileName: string,
  ) {
    this.skip();
  }

  private skip(): void {
    this.gap.lastIndex = this.place;
    this.gap.exec(this.text);
    this.place = this.gap.lastIndex;
  }

  peek(): string {
    this.at.lastIndex = this.place;
    return this.at.exec(this.text)?.[0] ?? '';
  }

  next(): string {
    const word = this.peek();
    this.taken = this.place;
    this.place += word.length;
    this.skip();
    return word;
  }

  /** What is left of the line: names may hold spaces. */
  line(): string {
    const end = this.text.indexOf('\n', this.place);
    const stop = end < 0 ? this.text.length : end;
    const brace = this.text.indexOf('{', this.place);
    const to = brace >= 0 && brace < stop ? brace : stop;
    const name = this.text.slice(this.place, to).trim();
    this.place = to;
    this.skip();
    return name.slice(0, 200) || 'joint';
  }

  expect(word: string): void {
    const found = this.peek();
    if (found !== word) this.fail(`has ${clip(found)} where ${word} should stand`);
    this.next();
  }

  number(): number {
    const word = this.peek();
    const value = word === '' ? NaN : Number(word);
    if (!Number.isFinite(value) || Math.abs(value) > 1e9)
      this.fail(
        word === '' ? 'ends in the middle of its numbers' : `has ${clip(word)} where a number should stand`,
      );
    this.next();
    return value;
  }

  whole(what: string): number {
    const value = this.number();
    if (!Number.isInteger(value) || value < 0 || value > 1e7)
      this.fail(`has ${value} where ${what} should stand`);
    return value;
  }

  fail(message: string, code: 'file.invalid' | 'file.too-large' = 'file.invalid'): never {
    this.failAt(this.place, message, code);
  }

  /** The same of the word last taken. */
  failBefore(message: string): never {
    this.failAt(this.taken, message, 'file.invalid');
  }

  private failAt(place: number, message: string, code: 'file.invalid' | 'file.too-large'): never {
    let line = 1;
    for (let i = this.text.indexOf('\n'); i >= 0 && i < place; i = this.text.indexOf('\n', i + 1)) line++;
    throw new OscillumError(
      code,
      `${this.fileName.slice(0, 120)}: ${message}`,
      `line ${line}`,
      'Export it again as BVH.',
    );
  }
}
