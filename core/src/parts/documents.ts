import { z } from 'zod';
import { ChainPart } from './chain/document';

/** The documents of all kinds of part, by name: one line a kind. */
export const DOCUMENTS = {
  chain: ChainPart,
};
export type KindName = keyof typeof DOCUMENTS;

/** A part of any kind. */
export const Part = z.discriminatedUnion('kind', [DOCUMENTS.chain]);
export type Part = z.infer<typeof Part>;
