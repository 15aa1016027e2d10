import type { ClothPart } from '@oscillum/core/cloth';
import type { StagePart } from '../kind';
import { clothTint } from './tint';

/** A cloth is its mesh: no line and no dots stand for it. */
export const clothInk: StagePart<ClothPart> = { line: () => [], dots: () => [], tint: clothTint };
