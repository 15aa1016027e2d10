import { describe, expect, it } from 'vitest';
import { zipSync } from 'fflate';
import { Maker, rowOfJoints, tilt } from '../../../test/maker';
import { mulberry32 } from '../../math/index';
import { OscillumError } from '../../model/index';
import { loadMeshopt, readGltf, type Decoders } from './index';

const decoders: Decoders = { meshopt: await loadMeshopt() };

function refusal(bytes: Uint8Array, name = 'bad.glb'): OscillumError {
  try {
    readGltf(bytes, name, decoders);
  } catch (e) {
    if (e instanceof OscillumError) return e;
    throw e;
  }
  throw new Error('It was read without complaint');
}

function sample(): Maker {
  const { m, joints } = rowOfJoints();
  m.skinned(joints);
  m.clip('keys', [
    {
      node: joints[1]!,
      path: 'rotation',
      input: m.times([0, 1, 2]),
      output: m.accessor([...tilt(0), ...tilt(1), ...tilt(2)], 'VEC4'),
    },
  ]);
  return m;
}
const text = (s: string) => new TextEncoder().encode(s);
/** Changes the JSON of the sample and reads it. */
const changed = (change: (json: Maker['json']) => void) => {
  const m = sample();
  change(m.json);
  return refusal(m.glb());
};

describe('bad files get a message naming file, place and remedy', () => {
  it('not a glTF, empty, and JSON of another kind', () => {
    for (const [bytes, code] of [
      [text('hello there'), 'file.not-gltf'],
      [new Uint8Array(0), 'file.truncated'],
      [text('{"a":1}'), 'file.invalid'],
      [text('{"asset":'), 'file.invalid'],
    ] as const) {
      const e = refusal(bytes, 'letter.glb');
      expect(e.code).toBe(code);
      expect(e.message).toMatch(/^letter\.glb: /);
      expect(e.remedy.length).toBeGreaterThan(10);
    }
  });
  it('cut off at any byte', () => {
    const whole = sample().glb();
    for (let n = 0; n < whole.length; n += n < 64 ? 1 : 17)
      expect(refusal(whole.slice(0, n)).code).toMatch(/^file\./);
  });
  it('old and future versions', () => {
    const m = sample();
    m.json.asset.version = '1.0';
    expect(refusal(m.glb()).code).toBe('file.unsupported');
    const bytes = sample().glb();
    bytes[4] = 3;
    expect(refusal(bytes).message).toContain('version 3');
  });
  it('lying lengths and counts', () => {
    expect(changed((j) => (j.accessors[0].count = 900_000)).code).toBe('file.truncated');
    expect(changed((j) => (j.accessors[0].count = 90_000_000)).code).toBe('file.too-large');
    expect(changed((j) => (j.bufferViews[0].byteLength = 1e9)).place).toBe('/bufferViews/0');
    expect(changed((j) => (j.buffers[0].byteLength = 1e9)).message).toContain('should have 1000000000');
    expect(
      changed(
        (j) =>
          j.accessors.push({ componentType: 5126, count: 99_000_000, type: 'MAT4' }) &&
          (j.skins[0].inverseBindMatrices = j.accessors.length - 1),
      ).code,
    ).toBe('file.too-large');
    expect(changed((j) => (j.accessors[0].count = -1)).place).toBe('/accessors/0/count');
  });
  it('nodes in a ring, below two parents, or not there', () => {
    expect(changed((j) => (j.nodes[3].children = [0])).message).toContain('own ancestors');
    expect(changed((j) => (j.nodes[0].children = [1, 3])).message).toContain('two parents');
    expect(changed((j) => (j.nodes[3].children = [77])).message).toContain('child 77');
    expect(changed((j) => (j.skins[0].joints = [0, 99])).message).toContain('joint 99');
    expect(changed((j) => (j.animations[0].channels[0].target.node = 99)).message).toContain('node 99');
  });
  it('NaN and infinite values', () => {
    const m = new Maker();
    const node = m.node({ name: 'a' });
    m.clip('bad', [
      { node, path: 'translation', input: m.times([0, 1]), output: m.accessor([0, 0, 0, 1, NaN, 0], 'VEC3') },
    ]);
    expect(refusal(m.glb()).message).toContain('NaN (number 4)');
    expect(changed((j) => (j.nodes[0].translation = [0, Infinity, 0])).place).toBe('/nodes/0/translation/1');
  });
  it('a million joints claimed', () => {
    expect(
      changed((j) => (j.skins[0].joints = Array.from({ length: 1_000_000 }, (_, i) => i % 4))).message,
    ).toContain('more than 200000 joints');
  });
  it('a zip whose directory lies about sizes is refused as soon as more comes out, overlapping files too', () => {
    const heavy = zipSync({ 'a.gltf': new Uint8Array(32 * 2 ** 20) }, { level: 9 });
    const view = new DataView(heavy.buffer);
    const directory = view.getUint32(heavy.length - 22 + 16, true);
    view.setUint32(directory + 24, 1000, true);
    expect(refusal(heavy, 'lying.zip').code).toBe('file.invalid');
    // A directory that names the same bytes many times over.
    const honest = zipSync({ 'a.gltf': new Uint8Array(1000) });
    const start = new DataView(honest.buffer).getUint32(honest.length - 22 + 16, true);
    const record = honest.slice(start, honest.length - 22);
    const records = Array.from({ length: 3 }, (_, i) => {
      const copy = record.slice();
      copy[46] = 0x61 + i;
      return copy;
    });
    const end = honest.slice(-22);
    new DataView(end.buffer).setUint16(8, 3, true);
    new DataView(end.buffer).setUint16(10, 3, true);
    const overlapping = new Uint8Array([
      ...honest.slice(0, start),
      ...records.flatMap((r) => [...r]),
      ...end,
    ]);
    expect(refusal(overlapping, 'overlapping.zip').code).toBe('file.invalid');
  });

  it('a zip bomb, a zip without a scene, a damaged zip', () => {
    const bomb = zipSync({ 'scene.gltf': new Uint8Array(64 * 2 ** 20) }, { level: 9 });
    expect(refusal(bomb, 'bomb.zip').code).toBe('file.too-large');
    expect(refusal(zipSync({ 'a.txt': text('hi') }), 'a.zip').message).toContain('without a .gltf');
    const broken = zipSync({ 'a.gltf': text('{"asset":{"version":"2.0"},"nodes":[{}]}') });
    expect(refusal(broken.slice(0, broken.length - 9), 'a.zip').code).toBe('file.invalid');
  });
  it('a .bin that was not sent along is named', () => {
    const { gltf } = sample().files('tail.bin');
    const e = refusal(gltf, 'tail.gltf');
    expect(e.code).toBe('file.missing-resource');
    expect(e.message).toContain('tail.bin');
    expect(e.remedy).toContain('zip');
  });
  it('an extension that must be understood and is not', () => {
    expect(changed((j) => (j.extensionsRequired = ['VENDOR_unheard_of'])).message).toContain(
      'VENDOR_unheard_of',
    );
  });
  it('hostile names are shown without their control marks, and travel up a zip goes nowhere', () => {
    expect(refusal(text('x'), 'a\u0000\u202eb.glb').message).toMatch(/^ab\.glb: /);
    expect(
      refusal(
        zipSync({
          'a.gltf': text(
            '{"asset":{"version":"2.0"},"nodes":[{}],"buffers":[{"byteLength":4,"uri":"../../../etc/passwd"}]}',
          ),
        }),
        'a.zip',
      ).code,
    ).toBe('file.missing-resource');
  });
  it('a picture of the wrong type is drawn in plain colour and said', () => {
    const m = sample();
    m.json.images = [{ bufferView: m.view(text('<script>not a picture</script>')), mimeType: 'image/png' }];
    const c = readGltf(m.glb(), 'a.glb');
    expect(c.images[0]!.mimeType).toBe('');
    expect(c.notes.some((n) => /picture/.test(n.text))).toBe(true);
  });
});

describe('seeded fuzz', () => {
  it('2 000 mutated files are read or refused; none crashes or hangs', () => {
    const random = mulberry32(20261125);
    const pick = (n: number) => Math.floor(random() * n);
    const bases = [
      sample().glb(),
      (() => {
        const { gltf, bin } = sample().files('a.bin');
        return zipSync({ 'a.gltf': gltf, 'a.bin': bin });
      })(),
    ];
    let read = 0;
    let refused = 0;
    for (let n = 0; n < 2000; n++) {
      const bytes = bases[n % 5 === 0 ? 1 : 0]!.slice();
      const times = 1 + pick(6);
      for (let k = 0; k < times; k++) {
        const at = pick(bytes.length);
        const kind = pick(5);
        if (kind === 0) bytes[at] = pick(256);
        else if (kind === 1) bytes.fill(pick(256), at, at + pick(16));
        else if (kind === 2) bytes.copyWithin(at, pick(bytes.length), pick(bytes.length));
        // Digits stay digits: numbers in the JSON change and the JSON stays whole.
        else
          for (let i = at; i < Math.min(bytes.length, at + 400); i++)
            if (bytes[i]! >= 0x30 && bytes[i]! <= 0x39 && random() < 0.3) bytes[i] = 0x30 + pick(10);
      }
      try {
        readGltf(bytes, 'fuzz.glb', decoders);
        read++;
      } catch (e) {
        if (!(e instanceof OscillumError)) throw e;
        refused++;
      }
    }
    expect(read + refused).toBe(2000);
    expect(read).toBeGreaterThan(50);
    expect(refused).toBeGreaterThan(500);
  });
});
