import { WebIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS, EXTMeshoptCompression, KHRDracoMeshCompression } from '@gltf-transform/extensions';
import { OscillumError } from '@oscillum/core/model';
import { MeshoptDecoder, MeshoptEncoder } from 'meshoptimizer';

/** How the bytes of a GLB are packed: buffers without loss, or meshes more tightly with their places rounded. */
export type Packing = 'meshopt' | 'draco';

/** Draco's encoder and decoder (package draco3dgltf), which are loaded differently in a browser and elsewhere. */
export interface DracoModules {
  encoder: () => Promise<unknown>;
  decoder: () => Promise<unknown>;
}

/**
 * The same GLB, packed. It goes through the glTF SDK, which leaves out extensions that it does not know. Throws
 * OscillumError('file.unsupported') when it cannot be packed, saying what it was.
 */
export async function packGlb(
  bytes: Uint8Array,
  packing: Packing,
  draco: DracoModules,
): Promise<Uint8Array<ArrayBuffer>> {
  try {
    await Promise.all([MeshoptDecoder.ready, MeshoptEncoder.ready]);
    const io = new WebIO().registerExtensions(ALL_EXTENSIONS).registerDependencies({
      'meshopt.decoder': MeshoptDecoder,
      'meshopt.encoder': MeshoptEncoder,
      'draco3d.decoder': await draco.decoder(),
      ...(packing === 'draco' && { 'draco3d.encoder': await draco.encoder() }),
    });
    const document = await io.readBinary(bytes);
    for (const extension of document.getRoot().listExtensionsUsed())
      if (/_(meshopt|draco_mesh)_compression$/.test(extension.extensionName)) extension.dispose();
    if (packing === 'draco') document.createExtension(KHRDracoMeshCompression).setRequired(true);
    else
      document
        .createExtension(EXTMeshoptCompression)
        .setRequired(true)
        .setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE });
    return new Uint8Array(await io.writeBinary(document));
  } catch (e) {
    throw new OscillumError(
      'file.unsupported',
      `The GLB cannot be packed with ${packing === 'draco' ? 'Draco' : 'meshopt'}: ${e instanceof Error ? e.message : String(e)}`,
      '',
      'Hand it off without packing.',
    );
  }
}
