import { kernelText } from '../../scripts/kernelText';

/** What of the kernel is written as C: the class of its fields, the parameter it goes by, and files of functions. */
interface Scheme {
  readonly struct: string;
  readonly parameter: string;
  readonly fields: string;
  readonly files: readonly string[];
}
const CHAIN: Scheme = {
  ...{ struct: 'ChainStep', parameter: 'chain', fields: 'chain/fields' },
  files: ['factor', 'solve', 'rows'].concat(
    ['base', 'source', 'links', 'bend', 'contact', 'newton', 'step'].map((k) => `chain/${k}`),
  ),
};
const CLOTH: Scheme = {
  ...{ struct: 'ClothStep', parameter: 'step', fields: 'cloth/fields' },
  files: ['rim', 'lengths', 'bendPaths', 'bend', 'airTriangles', 'air', 'finish', 'advance', 'move'].map(
    (k) => `cloth/${k}`,
  ),
};
const REGION: Scheme = {
  ...{ struct: 'RegionStep', parameter: 'step', fields: 'soft/fields' },
  files: ['turn', 'soft/region'],
};
const BODY: Scheme = {
  ...{ struct: 'BodyStep', parameter: 'step', fields: 'soft/bodyFields' },
  files: ['cell', 'elastic', 'stiffen', 'press', 'body'].map((k) => `soft/${k}`),
};
const STRANDS: Scheme = {
  ...{ struct: 'StrandStep', parameter: 'step', fields: 'strands/fields' },
  files: ['vectors', 'sweep', 'step'].map((k) => `strands/${k}`),
};
const TYPES: Record<string, string> = {
  Floats: 'double *',
  Ints: 'int *',
  ChainStep: 'ChainStep *',
  ClothStep: 'ClothStep *',
  RegionStep: 'RegionStep *',
  BodyStep: 'BodyStep *',
  StrandStep: 'StrandStep *',
  Numbers: 'double *',
  Writable: 'double *',
  Index: 'int ',
  number: 'double ',
  boolean: 'int ',
  void: 'void ',
};

/** A field of a step, in the order in which they lie in memory: numbers, then arrays. */
export interface Field {
  readonly name: string;
  readonly array: 'Floats' | 'Ints' | null;
}
const fieldsOf = ({ fields }: Scheme): Field[] =>
  [...kernelText(`${fields}.ts`).matchAll(/^ {2}(\w+): (number|Floats|Ints) =/gm)].map(([, name, type]) => ({
    name: name!,
    array: type === 'number' ? null : (type as 'Floats' | 'Ints'),
  }));
export const FIELDS = fieldsOf(CHAIN);
export const CLOTH_FIELDS = fieldsOf(CLOTH);
export const REGION_FIELDS = fieldsOf(REGION);
export const BODY_FIELDS = fieldsOf(BODY);
export const STRAND_FIELDS = fieldsOf(STRANDS);

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
      return `${m[2] === 'number' ? 'double' : '__auto_type'} ${m[1]} = ${m[3]};`;
    })
    .join(' ');
}

/** Constants of a file: whole numbers and real ones. */
const constants = (text: string): string[] =>
  [...text.matchAll(/^(?:export )?const (\w+): (Index|number) = ([^;]+);/gm)].map(([, name, type, value]) =>
    type === 'Index' ? `enum { ${name} = ${value} };` : `static const double ${name} = 1.0 * ${value};`,
  );

const functions = (text: string, parameter: string): string[] =>
  [...text.matchAll(/^(?:export )?function (\w+)\(([^)]*)\): (\w+) (\{\n[^]*?\n\})/gm)].map(
    ([, name, list, type, body]) => {
      const parameters = list!
        .split(',')
        .filter((p) => p.trim())
        .map((p) => p.trim().replace(/ = .*/, '').split(': '))
        .map(([n, t]) => `${TYPES[t!]}${n}`);
      return `static ${TYPES[type!]}${name}(${parameters.join(', ')}) ${statements(body!, parameter)}`;
    },
  );

const statements = (code: string, parameter: string): string =>
  code
    .replace(/\]!/g, ']')
    // Two whole numbers would be divided as such.
    .replace(/\b(\d+) \/ (\d+)\b/g, '$1.0 / $2')
    .replace(new RegExp(`\\b${parameter}\\.`, 'g'), `${parameter}->`)
    .replace(/\bcopy\(([\w>-]+), ([\w>-]+), /g, 'memcpy($1, $2, 8 * (long)(')
    .replace(/(memcpy\([^;]*\));/g, '$1);')
    .replace(/for \(let (\w+): number /g, 'for (double $1 ')
    .replace(/for \(let /g, 'for (int ')
    .replace(/\b(?:const|let) ([^;]*);/g, (_, list: string) => oneByOne(list))
    .replace(/===/g, '==')
    .replace(/!==/g, '!=')
    .replace(/\bInfinity\b/g, 'INFINITY')
    .replace(/Math\.(sqrt)/g, '$1')
    .replace(/Math\.(abs|max|min)/g, 'f$1')
    .replace(/\bint\(/g, '(int)(');

/** All of a scheme as C, and `read_step`, which finds its fields in an image of an arena's memory, at a header. */
function toC({ struct, parameter, fields, files }: Scheme, list: readonly Field[]): string {
  const texts = [fields, ...files].map((k) => kernelText(`${k}.ts`));
  const code = texts.flatMap((text) => functions(text, parameter));
  const typed = list.map(
    ({ name, array }) => `${array === 'Ints' ? 'int' : 'double'} ${array ? '*' : ''}${name};`,
  );
  const read = list.map(({ name, array }) =>
    array ? `  step_.${name} = (void *)(memory + *a++);` : `  step_.${name} = *h++;`,
  );
  return `#include <math.h>
#include <stdbool.h>
#include <string.h>
typedef struct { ${typed.join(' ')} } ${struct};
${[...new Set(texts.flatMap(constants))].join('\n')}
static double scaled[9];
static ${struct} step_;
${code.map((f) => `${f.slice(0, f.indexOf('{')).trim()};`).join('\n')}
${code.join('\n')}
static void read_step(char *memory, long header) {
  const double *h = (const double *)(memory + header);
  const unsigned *a = (const unsigned *)(h + ${list.filter((f) => !f.array).length});
${read.join('\n')}
}
`;
}

/**
 * The step of a chain (core/src/kernel/chain) as C, line by line: what the benchmark stands beside ours. `step_chain()`
 * steps the one that was read.
 */
export const cSource = (): string =>
  `${toC(CHAIN, FIELDS)}static int step_chain(void) { return stepChain(&step_); }\n`;

/** The same of a sheet's own step (core/src/kernel/cloth), without contact: `step_once(fresh)` takes one. */
export const clothSource = (): string =>
  `${toC(CLOTH, CLOTH_FIELDS)}static void step_once(int fresh) {
  ClothStep *s = &step_;
  blowCloth(s);
  predictCloth(s);
  readyTouches(s);
  if (fresh) aimBend(s);
  bendBack(s);
  keepLengths(s);
  keepLeash(s);
  finishCloth(s);
}
`;

/** The same of a region of skin (core/src/kernel/soft). */
export const regionSource = (): string =>
  `${toC(REGION, REGION_FIELDS)}static void step_once(int fresh) { stepRegion(&step_); }\n`;

/** The same of the solve of a soft body (core/src/kernel/soft), which begins where inertia alone would take it. */
export const bodySource = (): string =>
  `${toC(BODY, BODY_FIELDS)}#define points nodes
static void step_once(int fresh) {
  BodyStep *s = &step_;
  memcpy(s->x, s->goal, 24 * (long)s->nodes);
  solveBody(s);
}
`;

/** The same of strands (core/src/kernel/strands), whose roots stand and which touch nothing. */
export const strandSource = (): string =>
  `${toC(STRANDS, STRAND_FIELDS)}#define points first[(int)step_.strands]
static void step_once(int fresh) {
  predictStrands(&step_);
  solveStrands(&step_);
}
`;
