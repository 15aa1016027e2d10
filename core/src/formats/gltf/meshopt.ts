import { MeshoptDecoder as decoder } from 'meshoptimizer';
import type { MeshoptDecoder } from './accessor';

/**
 * The decoder of meshopt-compressed buffers, ready to use. WebAssembly carried inside its package; no file or network.
 */
export async function loadMeshopt(): Promise<MeshoptDecoder> {
  await decoder.ready;
  return decoder as unknown as MeshoptDecoder;
}
