import { z } from 'zod';

/** Vertices in a block of a weight map: what a stroke touches is saved by blocks. */
const BLOCK = 512;
/** What stands for a share of 1. */
const TOP = 65535;
/** One number for all, or whole groups of base64. */
const BLOCK_TEXT = /^(?=.)(=\d{1,5}|(?:[A-Za-z0-9+/]{4})*(?:[A-Za-z0-9+/]{2}==|[A-Za-z0-9+/]{3}=)?)$/;
/** Vertices that a map may have at most. */
const MOST = 1_000_000;

/**
 * A share from 0 to 1 for each vertex of a mesh, in steps of 1/65535. A block holds 512 vertices: base64 of 16-bit
 * numbers, the low byte first, or "=" and one number where all are alike.
 */
export const WeightMap = z
  .strictObject({
    /** Vertices of the mesh it was painted on. */
    vertices: z.int().min(1).max(MOST),
    blocks: z.array(
      z.string().max(1368).regex(BLOCK_TEXT, { error: 'A block of a weight map cannot be read' }),
    ),
  })
  .refine((m) => m.blocks.length === Math.ceil(m.vertices / BLOCK), {
    error: 'A weight map must have a block for every 512 vertices',
  });
export type WeightMap = z.infer<typeof WeightMap>;

const stepOf = (share: number): number => Math.round(Math.min(1, Math.max(0, share)) * TOP);

function writeBlock(shares: Float64Array): string {
  const steps = Array.from(shares, stepOf);
  if (steps.every((s) => s === steps[0])) return `=${steps[0]}`;
  return btoa(steps.map((s) => String.fromCharCode(s & 255, s >> 8)).join(''));
}

/** Reads a block into `out`. What is missing of a damaged block is 1. */
function readBlock(block: string, out: Float64Array): void {
  if (block.startsWith('=')) {
    out.fill(Math.min(TOP, Number(block.slice(1))) / TOP);
    return;
  }
  const bytes = atob(block);
  for (let k = 0; k < out.length; k++)
    out[k] =
      2 * k + 1 < bytes.length ? (bytes.charCodeAt(2 * k) + 256 * bytes.charCodeAt(2 * k + 1)) / TOP : 1;
}

/** A map of shares, one a vertex. */
export const makeWeightMap = (shares: Float64Array): WeightMap => ({
  vertices: shares.length,
  blocks: Array.from({ length: Math.ceil(shares.length / BLOCK) }, (_, b) =>
    writeBlock(shares.subarray(BLOCK * b, BLOCK * (b + 1))),
  ),
});

/** The shares of a map, one a vertex. */
export function readWeightMap({ vertices, blocks }: WeightMap): Float64Array {
  const out = new Float64Array(vertices);
  blocks.forEach((block, b) => readBlock(block, out.subarray(BLOCK * b, BLOCK * (b + 1))));
  return out;
}

/** Puts shares into a map, in place: only blocks that differ are written. */
export function putShares(map: WeightMap, shares: Float64Array): void {
  makeWeightMap(shares).blocks.forEach((block, b) => {
    if (map.blocks[b] !== block) map.blocks[b] = block;
  });
}
