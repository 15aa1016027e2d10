import { loadMeshopt, type Decoders } from '@oscillum/core/gltf';
import dracoEncoderWasm from 'draco3dgltf/draco_encoder.wasm?url&no-inline';
import dracoWasm from 'draco3dgltf/draco_decoder_gltf.wasm?url&no-inline';

/** What reads and writes compressed files, fetched when a file asks for it. */
export async function dracoDecoder(): Promise<unknown> {
  const { default: create } = await import('draco3dgltf/draco_decoder_gltf_nodejs.js');
  return create({ wasmBinary: await (await fetch(dracoWasm)).arrayBuffer() });
}

export async function dracoEncoder(): Promise<unknown> {
  const { default: create } = await import('draco3dgltf/draco_encoder_gltf_nodejs.js');
  return create({ wasmBinary: await (await fetch(dracoEncoderWasm)).arrayBuffer() });
}

export async function loadDecoders(json: { extensionsUsed?: string[] | undefined }): Promise<Decoders> {
  const used = json.extensionsUsed ?? [];
  const out: Decoders = {};
  if (used.some((e) => e.includes('meshopt'))) out.meshopt = await loadMeshopt();
  if (used.includes('KHR_draco_mesh_compression')) {
    out.draco = (await dracoDecoder()) as NonNullable<Decoders['draco']>;
  }
  return out;
}
