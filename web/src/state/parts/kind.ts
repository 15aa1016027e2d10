import type { Part } from '@oscillum/core/shot';

/** What the maps of a kind of part are called, and what they mean. */
export interface PaintedMaps<P extends Part = Part> {
  label(key: string): string;
  /** What shares of 0 and of 1 stand for at a frame, in a unit. */
  span(
    part: P,
    key: string,
    frame: number,
  ): { readonly low: number; readonly high: number; readonly unit: string };
}
