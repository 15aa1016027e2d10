import { kernelText } from '../../scripts/kernelText';

/**
 * The step of a chain (core/src/kernel/chain) as C, line by line: what the benchmark stands beside ours.
 * `read_chain(memory, header)` finds a chain in an image of an arena's memory, `step_chain()` steps it.
 */
const FILES = ['factor', 'solve', 'rows'].concat(
  ['base', 'source', 'links', 'bend', 'contact', 'newton', 'step'].map((k) => `chain/${k}`),
);
const TYPES: Record<string, string> = {
  Floats: 'double *',
  ChainStep: 'ChainStep *',
  Index: 'int ',
  number: 'double ',
  boolean: 'int ',
  void: 'void ',
};

/** The fields of the step, numbers then arrays, in the order in which they lie in memory. */
export const FIELDS = [...kernelText('chain/fields.ts').matchAll(/^ {2}(\w+): (number|Floats) =/gm)].map(
  ([, name, type]) => ({ name: name!, array: type === 'Floats' }),
);

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
    type === 'Index' ? `enum { ${name} = ${value} };` : `static const double ${name} = ${value};`,
  );

const functions = (text: string): string[] =>
  [...text.matchAll(/^(?:export )?function (\w+)\(([^)]*)\): (\w+) (\{\n[^]*?\n\})/gm)].map(
    ([, name, list, type, body]) => {
      const parameters = list!
        .split(',')
        .filter((p) => p.trim())
        .map((p) => p.trim().split(': '))
        .map(([n, t]) => `${TYPES[t!]}${n}`);
      return `static ${TYPES[type!]}${name}(${parameters.join(', ')}) ${statements(body!)}`;
    },
  );

const statements = (code: string): string =>
  code
    .replace(/\]!/g, ']')
    .replace(/\bchain\./g, 'chain->')
    .replace(/\bcopy\(([\w>-]+), ([\w>-]+), /g, 'memcpy($1, $2, 8 * (long)(')
    .replace(/(memcpy\([^;]*\));/g, '$1);')
    .replace(/for \(let /g, 'for (int ')
    .replace(/\b(?:const|let) ([^;]*);/g, (_, list: string) => oneByOne(list))
    .replace(/===/g, '==')
    .replace(/!==/g, '!=')
    .replace(/Math\.(sqrt)/g, '$1')
    .replace(/Math\.(abs|max|min)/g, 'f$1')
    .replace(/\bint\(/g, '(int)(');

export function cSource(): string {
  const texts = ['chain/fields', ...FILES].map((k) => kernelText(`${k}.ts`));
  const code = texts.flatMap(functions);
  return `#include <math.h>
#include <string.h>
typedef struct { ${FIELDS.map(({ name, array }) => `double ${array ? '*' : ''}${name};`).join(' ')} } ChainStep;
${texts.flatMap(constants).join('\n')}
static double scaled[9];
static ChainStep chain_;
${code.map((f) => `${f.slice(0, f.indexOf('{')).trim()};`).join('\n')}
${code.join('\n')}
static void read_chain(char *memory, long header) {
  const double *h = (const double *)(memory + header);
  const unsigned *a = (const unsigned *)(h + ${FIELDS.filter((f) => !f.array).length});
${FIELDS.map(({ name, array }) => (array ? `  chain_.${name} = (double *)(memory + *a++);` : `  chain_.${name} = *h++;`)).join('\n')}
}
static int step_chain(void) { return stepChain(&chain_); }
`;
}
