import type { Material, Note, Picture } from '../../character/index';
import { AccessorReader } from './accessor';
import { fromDataUri, type Container } from './container';
import { count } from './words';

export function readMaterials(container: Container): Material[] {
  return (container.json.materials ?? []).map((m, i) => {
    const pbr = m.pbrMetallicRoughness;
    const texture = pbr?.baseColorTexture ? container.json.textures?.[pbr.baseColorTexture.index] : undefined;
    const webp = texture?.extensions?.EXT_texture_webp?.source;
    const image = typeof webp === 'number' ? webp : texture?.source;
    return {
      name: m.name ?? `material ${i}`,
      baseColour: (pbr?.baseColorFactor ?? [1, 1, 1, 1]) as [number, number, number, number],
      baseImage: image !== undefined && image < (container.json.images?.length ?? 0) ? image : -1,
      doubleSided: m.doubleSided ?? false,
    };
  });
}

/** The type of a picture by its first bytes, or null: what a file says of itself is not believed. */
function sniffPicture(b: Uint8Array): string | null {
  if (b[0] === 0x89 && b[1] === 0x50 && b[2] === 0x4e && b[3] === 0x47) return 'image/png';
  if (b[0] === 0xff && b[1] === 0xd8 && b[2] === 0xff) return 'image/jpeg';
  if (b[0] === 0x52 && b[1] === 0x49 && b[8] === 0x57 && b[9] === 0x45) return 'image/webp';
  return null;
}

export function readImages(container: Container, accessors: AccessorReader, notes: Note[]): Picture[] {
  let lost = 0;
  const images = (container.json.images ?? []).map((image, i): Picture => {
    let bytes: Uint8Array | null = null;
    if (image.bufferView !== undefined) bytes = accessors.view(image.bufferView, `/images/${i}`).bytes;
    else if (image.uri?.startsWith('data:')) bytes = fromDataUri(image.uri);
    else if (image.uri) bytes = container.resource(image.uri);
    const mimeType = bytes && sniffPicture(bytes);
    if (!bytes || !mimeType) {
      lost++;
      return { mimeType: '', bytes: new Uint8Array(0) };
    }
    return { mimeType, bytes };
  });
  if (lost)
    notes.push({
      kind: 'warning',
      text: `${count(lost, 'picture')} missing or of a kind not shown (PNG, JPEG and WebP are): drawn in plain colour, kept in the file.`,
    });
  return images;
}
