import { OscillumError } from '../../model/index';

/** A value of a USD layer: numbers, words (tokens, strings, paths, assets), tuples and lists, or a dictionary. */
export type UsdValue = number | string | boolean | null | UsdValue[] | Map<string, UsdValue>;

export interface UsdPrim {
  readonly type: string;
  readonly name: string;
  /** By name; those with time samples under `name.timeSamples` as a map from time to value. */
  readonly properties: Map<string, UsdValue>;
  readonly children: UsdPrim[];
}

export interface UsdLayer {
  readonly metadata: Map<string, UsdValue>;
  readonly prims: UsdPrim[];
}

const MOST_DEPTH = 200;
const MOST_VALUES = 50e6;
/** Words that say how an edit to a list is meant. */
const EDITS = new Set(['prepend', 'append', 'add', 'delete', 'reorder']);

/**
 * Parses a USD layer as text: prims with metadata, attributes with values and time samples, relationships. What a layer
 * composes from others (references, variants) is read past. Throws OscillumError('file.*') with the line.
 * Source: the grammar of Sdf text files (OpenUSD, textFileFormat).
 */
export function parseUsda(text: string, fileName: string): UsdLayer {
  const p = new Parser(text, fileName);
  return p.layer();
}

type Token = { kind: 'word' | 'number' | 'string' | 'path' | 'asset' | 'mark' | 'end'; text: string };

/** Blanks and a comment, then the end of a line, a string, a number, an asset, a path, a word or a mark. */
const WORDS = [
  /(\n)/,
  /("""[^]*?"""|'''[^]*?'''|"(?:\\[^]|[^"\\\n])*"|'(?:\\[^]|[^'\\\n])*')/,
  /([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?(?![A-Za-z_]))/,
  /(@@@[^]*?@@@|@[^@\n]*@)/,
  /(<[^>\n]*>)/,
  /([A-Za-z_][\w]*(?:[:.][A-Za-z_][\w]*)*)/,
  /(-inf|[-()[\]{}=,;:.&?])/,
];
const TOKENS = new RegExp(`[^\\S\\n]*(?:#[^\\n]*)?(?:${WORDS.map((w) => w.source).join('|')})`, 'y');

class Parser {
  private at = 0;
  private token: Token = { kind: 'end', text: '' };
  private begins = 0;
  private values = 0;

  constructor(
    private readonly text: string,
    private readonly fileName: string,
  ) {
    if (!/^#usda\s+\d+(\.\d+)*[^\n]*/.test(text)) this.fail('does not begin with #usda and a version');
    this.advance();
  }

  fail(message: string, code: 'file.invalid' | 'file.too-large' = 'file.invalid'): never {
    let line = 1;
    for (let i = this.text.indexOf('\n'); i >= 0 && i < this.begins; i = this.text.indexOf('\n', i + 1))
      line++;
    throw new OscillumError(
      code,
      `${this.fileName.slice(0, 120)}: ${message}`,
      `line ${line}`,
      'Export it again as USD text (.usda).',
    );
  }

  /** Line ends count for nothing but the end of a comment. */
  private advance(): void {
    for (;;) {
      this.begins = this.at;
      TOKENS.lastIndex = this.at;
      const m = TOKENS.exec(this.text);
      if (!m) {
        if (
          this.text
            .slice(this.at)
            .replace(/#[^\n]*/g, '')
            .trim() !== ''
        )
          this.fail(
            `has ${JSON.stringify(this.text.slice(this.at).trimStart().slice(0, 20))}, which is not USD`,
          );
        this.token = { kind: 'end', text: 'its end' };
        return;
      }
      this.at = TOKENS.lastIndex;
      if (m[1] !== undefined) continue;
      const kinds = ['string', 'number', 'asset', 'path', 'word', 'mark'] as const;
      const k = kinds.findIndex((_, i) => m[2 + i] !== undefined);
      this.token = { kind: kinds[k]!, text: m[2 + k]! };
      return;
    }
  }

  private take(): Token {
    const { token } = this;
    this.advance();
    return token;
  }

  private is(text: string): boolean {
    return (this.token.kind === 'mark' || this.token.kind === 'word') && this.token.text === text;
  }

  private ended(): boolean {
    return this.token.kind === 'end';
  }

  private expect(text: string): void {
    if (!this.is(text)) this.fail(`has ${this.token.text.slice(0, 40)} where ${text} should stand`);
    this.advance();
  }

  layer(): UsdLayer {
    const metadata = this.is('(') ? this.metadata(0) : new Map<string, UsdValue>();
    const prims: UsdPrim[] = [];
    while (!this.ended()) {
      if (EDITS.has(this.token.text)) this.property(new Map(), 0);
      else prims.push(this.prim(0));
    }
    return { metadata, prims };
  }

  private metadata(depth: number): Map<string, UsdValue> {
    const out = new Map<string, UsdValue>();
    this.expect('(');
    while (!this.is(')')) {
      if (this.is(';') || this.is(',')) {
        this.advance();
        continue;
      }
      if (this.token.kind === 'string') {
        out.set('doc', unquoted(this.take().text));
        continue;
      }
      if (this.token.kind !== 'word') this.fail(`has ${this.token.text.slice(0, 40)} in its metadata`);
      let name = this.take().text;
      if (EDITS.has(name) && this.token.kind === 'word') name = this.take().text;
      this.expect('=');
      out.set(name, this.value(depth + 1));
    }
    this.advance();
    return out;
  }

  private prim(depth: number): UsdPrim {
    if (depth > MOST_DEPTH) this.fail(`nests prims more than ${MOST_DEPTH} deep`, 'file.too-large');
    const specifier = this.take();
    if (!['def', 'over', 'class'].includes(specifier.text))
      this.fail(`has ${specifier.text.slice(0, 40)} where a prim should begin`);
    const type = this.token.kind === 'word' ? this.take().text : '';
    if (this.token.kind !== 'string') this.fail('has a prim without a name');
    const name = unquoted(this.take().text);
    if (this.is('(')) this.metadata(depth);
    const properties = new Map<string, UsdValue>();
    const children: UsdPrim[] = [];
    this.expect('{');
    while (!this.is('}')) {
      if (this.ended()) this.fail('ends inside a prim');
      if (this.is(';')) this.advance();
      else if (this.is('def') || this.is('over') || this.is('class')) children.push(this.prim(depth + 1));
      else if (this.is('variantSet')) this.variants(depth + 1);
      else this.property(properties, depth);
    }
    this.advance();
    return { type, name, properties, children };
  }

  /** Variants are read past: none of them is chosen here. */
  private variants(depth: number): void {
    if (depth > MOST_DEPTH) this.fail(`nests variants more than ${MOST_DEPTH} deep`, 'file.too-large');
    this.advance();
    this.take();
    this.expect('=');
    this.expect('{');
    while (!this.is('}')) {
      if (this.token.kind !== 'string') this.fail('has a variant without a name');
      this.advance();
      if (this.is('(')) this.metadata(depth);
      this.expect('{');
      while (!this.is('}')) {
        if (this.ended()) this.fail('ends inside a variant');
        if (this.is('def') || this.is('over') || this.is('class')) this.prim(depth + 1);
        else if (this.is('variantSet')) this.variants(depth + 1);
        else this.property(new Map(), depth);
      }
      this.advance();
    }
    this.advance();
  }

  private property(into: Map<string, UsdValue>, depth: number): void {
    const words: string[] = [];
    while (this.token.kind === 'word' || this.is('[') || this.is(']')) {
      if (this.token.kind === 'word') words.push(this.token.text);
      this.advance();
    }
    if (words.length < 2) this.fail(`has ${this.token.text.slice(0, 40)} where a property should stand`);
    const name = words.at(-1)!;
    if (this.is('=')) {
      this.advance();
      into.set(name, name.endsWith('.timeSamples') ? this.samples(depth) : this.value(depth + 1));
    }
    if (this.is('(')) this.metadata(depth);
  }

  private samples(depth: number): Map<string, UsdValue> {
    const out = new Map<string, UsdValue>();
    this.expect('{');
    while (!this.is('}')) {
      if (this.is(',')) {
        this.advance();
        continue;
      }
      if (this.token.kind !== 'number')
        this.fail(`has ${this.token.text.slice(0, 40)} where a time should stand`);
      const time = this.take().text;
      this.expect(':');
      out.set(time, this.value(depth + 1));
    }
    this.advance();
    return out;
  }

  private value(depth: number): UsdValue {
    if (depth > MOST_DEPTH) this.fail(`nests values more than ${MOST_DEPTH} deep`, 'file.too-large');
    if (++this.values > MOST_VALUES) this.fail('holds more values than are read', 'file.too-large');
    const { kind, text } = this.token;
    if (kind === 'number') {
      this.advance();
      return Number(text);
    }
    if (kind === 'string') {
      this.advance();
      return unquoted(text);
    }
    if (kind === 'path' || kind === 'asset') {
      this.advance();
      const whole = text.replace(/^[<@]+|[>@]+$/g, '');
      // An asset may name a prim in it.
      if (kind === 'asset' && (this.token.kind as string) === 'path') this.advance();
      if (this.is('(')) this.metadata(depth);
      return whole;
    }
    if (kind === 'word') {
      this.advance();
      if (text === 'None') return null;
      if (text === 'inf' || text === 'nan') return text === 'inf' ? Infinity : NaN;
      return text === 'true' || text === 'false' ? text === 'true' : text;
    }
    if (text === '-inf') {
      this.advance();
      return -Infinity;
    }
    if (text === '(' || text === '[') {
      const close = text === '(' ? ')' : ']';
      this.advance();
      const out: UsdValue[] = [];
      while (!this.is(close)) {
        if (this.is(',')) this.advance();
        else out.push(this.value(depth + 1));
      }
      this.advance();
      return out;
    }
    if (text === '{') {
      const out = new Map<string, UsdValue>();
      this.advance();
      while (!this.is('}')) {
        if (this.is(';') || this.is(',')) {
          this.advance();
          continue;
        }
        if (this.token.kind === 'string') out.set(unquoted(this.take().text), null);
        else this.property(out, depth + 1);
      }
      this.advance();
      return out;
    }
    return this.fail(`has ${text.slice(0, 40)} where a value should stand`);
  }
}

function unquoted(text: string): string {
  const quotes = /^("""|''')/.test(text) ? 3 : 1;
  return text
    .slice(quotes, -quotes)
    .replace(/\\(.)/g, (_, c: string) => (c === 'n' ? '\n' : c === 't' ? '\t' : c));
}
