/** Writes docs/api.md from the contract. */
import { writeFileSync } from 'node:fs';
import { format, resolveConfig } from 'prettier';
import { fileURLToPath } from 'node:url';
import { z } from 'zod';
import { ApiError, ENDPOINTS } from '@oscillum/core/contract';
import { Shot } from '@oscillum/core/shot';

const schema = (s: z.ZodType) =>
  '```json\n' +
  JSON.stringify(
    z.toJSONSchema(s, {
      unrepresentable: 'any',
      io: 'input',
      // The shot is written down in a page of its own.
      override: ({ zodSchema, jsonSchema }) => {
        if ((zodSchema as unknown) !== Shot) return;
        for (const key of Object.keys(jsonSchema)) delete jsonSchema[key as keyof typeof jsonSchema];
        jsonSchema.description = 'A shot document: see document-format.md';
      },
    }),
    null,
    1,
  ) +
  '\n```';

const parts = [
  '# HTTP API',
  '',
  'Printed from `core/src/contract` by `npm run docs:api`; do not edit by hand.',
  'Bodies and answers are JSON unless said otherwise.',
  'One origin: requests whose Host or Origin is another are refused with 403.',
  'On an address that other machines can reach, every request but `/api/health` needs the token',
  '(`Authorization: Bearer …`).',
  '',
  '## Errors',
  '',
  'Whatever fails is answered in one shape: a stable `code`, a `message` saying what and where, and a `remedy` saying',
  'what to do.',
  '',
  schema(ApiError),
  '',
  'Any endpoint may answer `host.refused`, `origin.refused` (403), `token.needed` (401), `request.invalid` (4xx),',
  '`body.type` (415), `body.invalid` (400, 422), `body.too-large` (413), `database.lost` and `database.read-only` (503),',
  '`disk.full` (507) and `fault` (500).',
];
for (const [name, e] of Object.entries(ENDPOINTS)) {
  parts.push('', `## ${name}`, '', `\`${e.method} ${e.path}\``, '', e.says);
  if (e.errors.length) parts.push('', `Errors: ${e.errors.map((c) => `\`${c}\``).join(', ')}`);
  if (e.body === 'upload')
    parts.push('', 'Body: the file’s bytes, as `application/octet-stream`, at most 512 MiB.');
  else if (e.body) parts.push('', 'Body:', '', schema(e.body));
  parts.push('', e.response === 'bytes' ? 'Answer: bytes.' : 'Answer:');
  if (e.response !== 'bytes') parts.push('', schema(e.response));
}
const path = fileURLToPath(new URL('../docs/api.md', import.meta.url));
const style = await resolveConfig(path);
writeFileSync(path, await format(`${parts.join('\n')}\n`, { ...style, parser: 'markdown' }));
