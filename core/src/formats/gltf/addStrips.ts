import type { Container } from './container';
import type { GltfJson } from './schema';
import { INFLUENCES } from './skins';
import { ownBinary, pack, Tail } from './write';

/** A mesh that is skinned to joints of a file. */
export interface AddedStrips {
  readonly name: string;
  /** Places, unit normals and texture places of vertices: 3, 3 and 2 numbers each. */
  readonly places: Float64Array;
  readonly normals: Float64Array;
  readonly uvs: Float64Array;
  /** Linear red, green and blue, 3 a vertex. */
  readonly colours: Float64Array;
  /** 3 a triangle, below 65 536. */
  readonly indices: Float64Array;
  /** Joints by their place in the list below, and shares: 4 each a vertex. */
  readonly joints: Float64Array;
  readonly shares: Float64Array;
  /** Nodes of the skin's joints, and their inverse bind matrices. */
  readonly nodes: readonly number[];
  readonly inverses: Float64Array;
}

/** A file with a skinned mesh more, as the bytes of a GLB. Its material is seen from both sides. */
export function addStrips(container: Container, added: AddedStrips): Uint8Array<ArrayBuffer> {
  const json = structuredClone(container.json) as GltfJson;
  const pieces = ownBinary(container, json);
  const tail = new Tail(json, pieces);
  const indices = tail.add(added.indices, 'SCALAR', 1, false, Uint16Array);
  const primitive = {
    attributes: {
      POSITION: tail.addPlaces(added.places),
      NORMAL: tail.addVertices(added.normals),
      TEXCOORD_0: tail.add(added.uvs, 'VEC2', 2, false),
      COLOR_0: tail.add(added.colours, 'VEC3', 3, false),
      JOINTS_0: tail.add(added.joints, 'VEC4', INFLUENCES, false, Uint16Array),
      WEIGHTS_0: tail.add(added.shares, 'VEC4', INFLUENCES, false),
    },
    indices,
    material:
      (json.materials ??= []).push({
        name: added.name,
        doubleSided: true,
        pbrMetallicRoughness: { metallicFactor: 0, roughnessFactor: 0.8 },
      } as never) - 1,
  };
  const mesh = (json.meshes ??= []).push({ name: added.name, primitives: [primitive] } as never) - 1;
  const skin =
    (json.skins ??= []).push({
      joints: [...added.nodes],
      inverseBindMatrices: tail.add(added.inverses, 'MAT4', 16, false),
    } as never) - 1;
  const node = json.nodes!.push({ name: added.name, mesh, skin } as never) - 1;
  json.scenes![json.scene ?? 0]!.nodes!.push(node);
  return pack(json, pieces, container.fileName);
}
