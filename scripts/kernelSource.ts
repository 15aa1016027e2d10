/**
 * The step of core/src/solver/chain.ts, the search of search.ts, the rows of touches.ts, the turns of turns.ts and the air of
 * air.ts, in other languages. The functions between
 * "kernel: begin" and "kernel: end" and the kernels of core/src/math are taken word for word, with types put in their
 * place: for WebAssembly (scripts/kernel.ts), and (the step alone) for the benchmark that stands ours beside the same
 * scheme in C.
 */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const read = (path: string) => readFileSync(join(root, path), 'utf8');

/** Order of a header: numbers, then arrays. chain.ts writes it in this order. */
export const NUMBERS =
  'n h H b0 b1 b2 c43 c13 c89 c29 touch contacts damped bending soft coned planar airy lastRow rub'.split(
    ' ',
  );
const WHOLE = new Set(
  'n contacts damped bending soft coned planar airy lastRow links bodies room used order'.split(' '),
);
export const ARRAYS =
  'rest perRest mass hold bend dampMass dampStiff limits cone fall grip plane contact lengthwise compliance length aim perAim tension x xOld v vOld source sourceTurn turnOld past1 past2 carried y target u d s f band base rhs points turnRows state before'.split(
    ' ',
  );

/** The same of search.ts. */
const SEARCH_NUMBERS = 'links bodies room h length'.split(' ');
const SEARCH_ARRAYS =
  'x v fall source thick table pressed minded ahead clear nearby gone drift way seen stood near best segment start end found out'.split(
    ' ',
  );

/** And of touches.ts. */
const TOUCH_NUMBERS = 'bodies used order h hard slippery length'.split(' ');
const TOUCH_ARRAYS = 'x source contact found table pressed loads side rough depths came point'.split(' ');
/** And of turns.ts. */
const TURN_NUMBERS = ['links', 'stretch'];
const TURN_ARRAYS = 'points place turn scale world turned placed local aim'.split(' ');
/** And of air.ts. */
const AIR_NUMBERS = ['links', 'density'];
const AIR_ARRAYS = 'x v mass fall grip thick drag lift wind'.split(' ');

/** bandFactor8 of core/src/math/band.ts, two numbers at a time: the same products and differences, so the same bits. */
const FACTOR = `
@inline function pair(at: usize, m: v128, l: f64): void {
  v128.store(at, f64x2.sub(v128.load(at), f64x2.mul(m, f64x2.splat(l))));
}
@inline function single(at: usize, m: f64, l: f64): void {
  store<f64>(at, load<f64>(at) - m * l);
}
function bandFactor8(a: Floats, n: i32): void {
  let c = changetype<usize>(a);
  const end = c + <usize>(n * 72);
  for (; c < end; c += 72) {
    const d = load<f64>(c);
    const inverse = 1 / (d > 1e-300 ? d : 1e-300);
    const l12 = v128.load(c, 8), l34 = v128.load(c, 24), l56 = v128.load(c, 40), l78 = v128.load(c, 56);
    const by = f64x2.splat(inverse);
    const m12 = f64x2.mul(l12, by), m34 = f64x2.mul(l34, by), m56 = f64x2.mul(l56, by), m78 = f64x2.mul(l78, by);
    const m23 = v128.shuffle<f64>(m12, m34, 1, 2), m45 = v128.shuffle<f64>(m34, m56, 1, 2), m67 = v128.shuffle<f64>(m56, m78, 1, 2);
    const m8 = f64x2.extract_lane(m78, 1);
    let l = f64x2.extract_lane(l12, 0);
    pair(c + 72, m12, l); pair(c + 88, m34, l); pair(c + 104, m56, l); pair(c + 120, m78, l);
    l = f64x2.extract_lane(l12, 1);
    pair(c + 144, m23, l); pair(c + 160, m45, l); pair(c + 176, m67, l); single(c + 192, m8, l);
    l = f64x2.extract_lane(l34, 0);
    pair(c + 216, m34, l); pair(c + 232, m56, l); pair(c + 248, m78, l);
    l = f64x2.extract_lane(l34, 1);
    pair(c + 288, m45, l); pair(c + 304, m67, l); single(c + 320, m8, l);
    l = f64x2.extract_lane(l56, 0);
    pair(c + 360, m56, l); pair(c + 376, m78, l);
    l = f64x2.extract_lane(l56, 1);
    pair(c + 432, m67, l); single(c + 448, m8, l);
    l = f64x2.extract_lane(l78, 0);
    pair(c + 504, m78, l);
    l = f64x2.extract_lane(l78, 1);
    single(c + 576, m8, l);
    store<f64>(c, inverse);
    v128.store(c, m12, 8); v128.store(c, m34, 24); v128.store(c, m56, 40); v128.store(c, m78, 56);
  }
}
`;

/** blendRows of core/src/math/rows.ts, two numbers at a time. */
const BLEND = `
function blendRows(out: Floats, rows: Floats, width: i32, last: i32, entry: i32, share: f64): void {
  const t = share, t2 = t * t, t3 = t2 * t;
  const wa = (-t3 + 2 * t2 - t) / 2, wb = (3 * t3 - 5 * t2 + 2) / 2, wc = (-3 * t3 + 4 * t2 + t) / 2, wd = (t3 - t2) / 2;
  const bytes = 8 * width;
  const before = entry > 0 ? entry - 1 : 0, after = entry < last ? entry + 1 : last, then = entry + 2 <= last ? entry + 2 : last;
  let a = changetype<usize>(rows) + <usize>(before * bytes);
  let b = changetype<usize>(rows) + <usize>(entry * bytes);
  let c = changetype<usize>(rows) + <usize>(after * bytes);
  let d = changetype<usize>(rows) + <usize>(then * bytes);
  let to = changetype<usize>(out);
  const va = f64x2.splat(wa), vb = f64x2.splat(wb), vc = f64x2.splat(wc), vd = f64x2.splat(wd);
  const end = to + <usize>(bytes & ~15);
  for (; to < end; to += 16, a += 16, b += 16, c += 16, d += 16) {
    const ab = f64x2.add(f64x2.mul(va, v128.load(a)), f64x2.mul(vb, v128.load(b)));
    v128.store(to, f64x2.add(f64x2.add(ab, f64x2.mul(vc, v128.load(c))), f64x2.mul(vd, v128.load(d))));
  }
  if (bytes & 15) store<f64>(to, wa * load<f64>(a) + wb * load<f64>(b) + wc * load<f64>(c) + wd * load<f64>(d));
}
`;

const typed = (code: string) =>
  code
    .replace(/\]!/g, ']')
    .replace(/: (Float64Array|ArrayLike<number>)/g, ': Floats')
    .replace(/\b(entry|i|j|o|b|kind|last|n|width|ti|qi|si): number(?=[,)])/g, '$1: i32')
    .replace(/: number/g, ': f64')
    .replace(/export function/g, 'function')
    .replace(
      'band.set(base)',
      'memory.copy(changetype<usize>(band), changetype<usize>(base), <usize>((n3 + pad) * row * 8))',
    )
    .replace(
      'before.set(state)',
      'memory.copy(changetype<usize>(before), changetype<usize>(state), <usize>((4 * (n3 + 3) + 2 * n3 + 5 * n) * 8))',
    )
    .replace(
      'turnOld.set(sourceTurn)',
      'memory.copy(changetype<usize>(turnOld), changetype<usize>(sourceTurn), <usize>(4 * n * 8))',
    );

/**
 * Gives every function its own copies of the globals it reads: compilers of WebAssembly keep locals in registers but
 * load a global each time.
 */
function withLocals(code: string, prefix: string, names: readonly string[]): string {
  return code.replace(
    /^function (\w+)\(([^)]*)\): (\w+) \{\n([^]*?)\n\}/gm,
    (_, name: string, parameters: string, type: string, body: string) => {
      const copies = names.filter(
        (k) =>
          new RegExp(`(?<![\\w.])${k}\\b`).test(body) &&
          !new RegExp(`(^|[ ,(])${k}: |(const|let) ${k}\\b`).test(parameters),
      );
      const lines = copies.map((k) => `  const ${k} = ${prefix}${k};\n`).join('');
      const inline = ['addBend', 'advance'].includes(name) ? '@inline ' : '';
      return `${inline}function ${name}(${parameters}): ${type} {\n${lines}${body}\n}`;
    },
  );
}

/** What stands between the marks of a file. */
function region(text: string): string {
  return text.slice(text.indexOf('// kernel: begin'), text.indexOf('// kernel: end'));
}
const constant = (text: string, name: string) =>
  [name, new RegExp(`const ${name} = ([^;]+);`).exec(text)![1]!] as const;

/** What is taken from the reference: the step, the kernels it calls, and the constants of both. */
function taken() {
  const chain = read('core/src/solver/chain.ts');
  const band = read('core/src/math/band.ts');
  const rows = read('core/src/math/rows.ts');
  const body = region(chain)
    .replace(/^ {2}/gm, '')
    .replace('function step()', 'function run()')
    .replace('function build()', 'function makeBase()');
  return {
    code: [
      typed(
        band.slice(band.indexOf('export function bandSolve8'), band.indexOf('/**\n * Smallest eigenvalue')),
      ),
      withLocals(typed(body), 'g_', [...NUMBERS, 'n3', ...ARRAYS]),
    ].join('\n'),
    // These the compiled kernel has two numbers at a time.
    plain: [
      typed(/export function bandFactor8[^]*?\n\}/.exec(band)![0]),
      typed(rows.slice(rows.indexOf('export function'))),
    ].join('\n'),
    reals: ['HARD', 'LENGTH_TOLERANCE', 'FRICTION_TOLERANCE'].map((k) => constant(chain, k)),
    wholes: [
      ...[
        'MOST_ITERATIONS',
        'MOST_CONTACT_ITERATIONS',
        'FRICTION_UPDATES',
        'EARLY_ITERATIONS',
        'CONTACT_ROW',
      ].map((k) => constant(chain, k)),
      constant(band, 'PAD8'),
    ],
  };
}

/** The search, and the geometry it calls. */
function takenSearch() {
  const search = read('core/src/solver/search.ts');
  const shapes = read('core/src/solver/shapes.ts');
  return {
    code: [
      typed(region(shapes)),
      typed(region(read('core/src/solver/bodies.ts'))),
      withLocals(
        typed(region(search).replace(/^ {2}/gm, '').replace('function search()', 'function look()')),
        's_',
        [...SEARCH_NUMBERS, ...SEARCH_ARRAYS],
      ),
    ].join('\n'),
    reals: [
      constant(shapes, 'GOLDEN'),
      ...['SURE', 'STRIKE_STEP', 'PRESS_STEP', 'ROOT_PART', 'GROWN', 'CLOSE', 'PRESSED_CLOSE'].map((k) =>
        constant(search, k),
      ),
    ],
    wholes: [
      constant(shapes, 'SECTIONS'),
      ...['BODY_ROW', 'FOUND_ROW', 'ADVANCES'].map((k) => constant(search, k)),
    ],
  };
}

/** Functions of a file of core/src/math, by name. */
function mathOf(file: string, names: readonly string[]): string {
  const text = read(`core/src/math/${file}`);
  return names
    .map((k) => typed(new RegExp(`export function ${k}\\([^]*?\\n\\}`).exec(text)![0]))
    .join('\n')
    .replace(/ = 0,$/gm, ': f64 = 0,');
}

function takenTurns() {
  const turns = read('core/src/solver/turns.ts');
  return [
    mathOf('quat.ts', ['quatBetween', 'quatMultiply']),
    mathOf('mat4.ts', ['matCompose', 'matMultiply']),
    withLocals(typed(region(turns).replace(/^ {2}/gm, '')), 'l_', [...TURN_NUMBERS, ...TURN_ARRAYS]),
  ].join('\n');
}

function takenTouches() {
  const touches = read('core/src/solver/touches.ts');
  return {
    code: [
      mathOf('quat.ts', ['quatRotate']),
      withLocals(typed(region(touches).replace(/^ {2}/gm, '')), 't_', [...TOUCH_NUMBERS, ...TOUCH_ARRAYS]),
    ].join('\n'),
    reals: ['STICK', 'LEAD_OUT'].map((k) => constant(touches, k)),
    wholes: [constant(touches, 'SIDE_ROW')],
  };
}

function takenAir() {
  const air = read('core/src/solver/air.ts');
  return {
    code: withLocals(typed(region(air).replace(/^ {2}/gm, '')), 'a_', [...AIR_NUMBERS, ...AIR_ARRAYS]),
    reals: ['DRAG', 'SKIN_DRAG'].map((k) => constant(air, k)),
  };
}

/** Arrays of a chain that change while it runs: those of the order in use. */
const SHIFTING = new Set(['base', 'lengthwise']);

/**
 * Globals of a module under a prefix, and the function that reads them from a header. Where arrays stand is read only when
 * it is another header than the last one; `forget` says that the memory is used anew.
 */
function globals(
  reader: string,
  prefix: string,
  numbers: readonly string[],
  arrays: readonly string[],
): string {
  const number = (k: string, i: number) =>
    `  ${prefix}${k} = ${WHOLE.has(k) ? '<i32>' : ''}load<f64>(header + ${8 * i});`;
  const array = (k: string, i: number) =>
    `  ${prefix}${k} = changetype<Floats>(<usize>load<f64>(header + ${8 * (numbers.length + i)}));`;
  return `
${numbers.map((k) => `let ${prefix}${k}: ${WHOLE.has(k) ? 'i32' : 'f64'} = 0;`).join('\n')}
${arrays.map((k) => `let ${prefix}${k}: Floats = changetype<Floats>(<usize>0);`).join('\n')}
let ${prefix}last: usize = 0;
function ${reader}(header: usize): void {
${numbers.map(number).join('\n')}
${arrays.flatMap((k, i) => (SHIFTING.has(k) ? [array(k, i)] : [])).join('\n')}
  if (header === ${prefix}last) return;
  ${prefix}last = header;
${arrays.flatMap((k, i) => (SHIFTING.has(k) ? [] : [array(k, i)])).join('\n')}
}`;
}

export function assemblyScript(): string {
  const { code, reals, wholes } = taken();
  const found = takenSearch();
  const air = takenAir();
  const touches = takenTouches();
  return `
@unmanaged class Floats {
  @inline @operator("[]") get(i: i32): f64 { return load<f64>(changetype<usize>(this) + (<usize>i << 3)); }
  @inline @operator("[]=") put(i: i32, v: f64): void { store<f64>(changetype<usize>(this) + (<usize>i << 3), v); }
}
@external("env", "nearestMesh") declare function nearestMesh(b: i32): void;
${[...reals, ...found.reals, ...air.reals, ...touches.reals].map(([k, v]) => `const ${k}: f64 = ${v};`).join('\n')}
${[...wholes, ...found.wholes, ...touches.wholes].map(([k, v]) => `const ${k}: i32 = ${v};`).join('\n')}
@inline function int(x: f64): i32 { return <i32>x; }
const row: i32 = 9;
const pad: i32 = PAD8;
let g_n3: i32 = 0;
let count: i32 = 0;
let stuck: i32 = 0;
let toggled: i32 = 0;
${globals('read', 'g_', NUMBERS, ARRAYS)}
${globals('readSearch', 's_', SEARCH_NUMBERS, SEARCH_ARRAYS)}
${globals('readAir', 'a_', AIR_NUMBERS, AIR_ARRAYS)}
${FACTOR}
${BLEND}
${code}
${found.code}
${air.code}
${globals('readTouching', 't_', TOUCH_NUMBERS, TOUCH_ARRAYS)}
${touches.code}
${globals('readTurns', 'l_', TURN_NUMBERS, TURN_ARRAYS)}
${takenTurns()}
export function forget(): void {
  g_last = s_last = t_last = l_last = a_last = 0;
}
export function place(header: usize, entry: i32, share: f64): void {
  read(header);
  g_n3 = 3 * g_n;
  placeSource(entry, share);
}
export function build(header: usize): f64 {
  read(header);
  g_n3 = 3 * g_n;
  return makeBase();
}
export function step(header: usize): i32 {
  read(header);
  g_n3 = 3 * g_n;
  count = 0;
  run();
  return stuck ? -count : count;
}
export function search(header: usize): i32 {
  readSearch(header);
  return <i32>look();
}
export function writeContacts(header: usize): void {
  readTouching(header);
  writeRows();
}
export function readTouches(header: usize): void {
  readTouching(header);
  readRows();
}
export function turns(header: usize): void {
  readTurns(header);
  turnLinks();
}
export function air(header: usize): void {
  readAir(header);
  press();
}
`;
}

/** One statement that declares several names, as several that declare one each. */
function oneByOne(list: string): string {
  let depth = 0;
  let out = '';
  for (const c of list) {
    if ('([{'.includes(c)) depth++;
    if (')]}'.includes(c)) depth--;
    out += c === ',' && depth === 0 ? '\0' : c;
  }
  return out
    .split('\0')
    .map((item) => {
      const m = /^\s*(\w+)(?:: (\w+))?\s*=\s*([^]*)$/.exec(item)!;
      return `${m[2] === 'f64' ? 'double' : '__auto_type'} ${m[1]} = ${m[3]};`;
    })
    .join(' ');
}

const toC = (code: string): string =>
  code
    .replace(/@inline /g, '')
    .replace(
      /memory\.copy\(changetype<usize>\((\w+)\), changetype<usize>\((\w+)\), <usize>\(/g,
      'memcpy($1, $2, (',
    )
    .replace(/for \(let /g, 'for (int ')
    .replace(/\b(?:const|let) ([^;]*);/g, (_, list: string) => oneByOne(list))
    .replace(/^function (\w+)\(([^)]*)\): (\w+) \{/gm, (_, name: string, list: string, type: string) => {
      const kinds: Record<string, string> = {
        Floats: 'double *',
        i32: 'int ',
        f64: 'double ',
        void: 'void ',
      };
      const parameters = list
        .split(',')
        .filter((p) => p.trim())
        .map((p) => p.trim().split(': '))
        .map(([n, t]) => `${kinds[t!]}${n}`);
      return `static ${kinds[type]}${name}(${parameters.join(', ')}) {`;
    })
    .replace(/===/g, '==')
    .replace(/!==/g, '!=')
    .replace(/Math\.(sqrt)/g, '$1')
    .replace(/Math\.(abs|max|min)/g, 'f$1');

/** The same step in C: `read(memory, header)` finds a chain in an image of the arena's memory, `step()` steps it. */
export function cSource(): string {
  const { code, plain, reals, wholes } = taken();
  const body = toC(`${plain}\n${code}`);
  const prototypes = [...body.matchAll(/^static [^{]*\)/gm)].map((m) => `${m[0]};`);
  return `#include <math.h>
#include <string.h>
#define int_(x) ((int)(x))
${reals.map(([k, v]) => `static const double ${k} = ${v};`).join('\n')}
${wholes.map(([k, v]) => `enum { ${k} = ${v} };`).join('\n')}
enum { row = 9, pad = PAD8 };
static double scaled[9];
static int g_n3, count, stuck, toggled;
${NUMBERS.map((k) => `static ${WHOLE.has(k) ? 'int' : 'double'} g_${k};`).join('\n')}
${ARRAYS.map((k) => `static double *g_${k};`).join('\n')}
${prototypes.join('\n')}
${body.replace(/\bint\((?!\))/g, 'int_(')}
static void read_chain(char *memory, long header) {
  const double *h = (const double *)(memory + header);
${NUMBERS.map((k, i) => `  g_${k} = h[${i}];`).join('\n')}
${ARRAYS.map((k, i) => `  g_${k} = (double *)(memory + (long)h[${NUMBERS.length + i}]);`).join('\n')}
  g_n3 = 3 * g_n;
}
static int step_chain(void) {
  count = 0;
  run();
  return stuck ? -count : count;
}
`;
}
