import { digits, identifier, quoted } from './text';
import type { UsdaOptions } from './write';

/** A mesh whose vertices have places of their own on every frame. Places are in the file's units, 3 numbers each. */
export interface MovingMesh {
  readonly name: string;
  /** Three a triangle. */
  readonly indices: ArrayLike<number>;
  /** 2 a vertex, null where there are none. */
  readonly uvs: ArrayLike<number> | null;
  /** Frame after frame, all vertices in each; unit normals alike. */
  readonly places: ArrayLike<number>;
  readonly normals: ArrayLike<number>;
}

/** Strands whose points have places of their own on every frame, in the file's units. */
export interface MovingCurves {
  readonly name: string;
  /** Points of each strand. */
  readonly counts: readonly number[];
  /** Width at each root and tip, in the file's units, and colours there, linear. */
  readonly widths: readonly [number, number];
  readonly colours: readonly [readonly number[], readonly number[]];
  /** Frame after frame, all points in each. */
  readonly places: ArrayLike<number>;
}

/** Frames of meshes, a time code each. */
export interface MovingMeshes {
  readonly fps: number;
  readonly first: number;
  readonly count: number;
  readonly meshes: readonly MovingMesh[];
  readonly curves: readonly MovingCurves[];
}

const tuples = (list: ArrayLike<number>, from: number, count: number, size: number): string => {
  const out: string[] = [];
  for (let k = 0; k < count; k++) {
    const row: string[] = [];
    for (let a = 0; a < size; a++) row.push(digits(list[from + size * k + a]!));
    out.push(`(${row.join(', ')})`);
  }
  return `[${out.join(', ')}]`;
};

function samples(list: ArrayLike<number>, { first, count }: Pick<MovingMeshes, 'first' | 'count'>): string {
  const width = list.length / count;
  return Array.from(
    { length: count },
    (_, f) => `            ${first + f}: ${tuples(list, f * width, width / 3, 3)},`,
  ).join('\n');
}

function extent({ places }: Pick<MovingMesh, 'places'>): string {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let k = 0; k < places.length; k++) {
    low[k % 3] = Math.min(low[k % 3]!, places[k]!);
    high[k % 3] = Math.max(high[k % 3]!, places[k]!);
  }
  return tuples([...low, ...high], 0, 2, 3);
}

function meshText(mesh: MovingMesh, name: string, all: MovingMeshes): string {
  const { indices, uvs, places, normals } = mesh;
  const triangles = indices.length / 3;
  const texture = uvs
    ? `        texCoord2f[] primvars:st = ${tuples(uvs, 0, uvs.length / 2, 2)} (
            interpolation = "vertex"
        )\n`
    : '';
  return `    def Mesh "${name}" (
        displayName = ${quoted(mesh.name)}
    )
    {
        float3[] extent = ${extent(mesh)}
        int[] faceVertexCounts = [${new Array<number>(triangles).fill(3).join(', ')}]
        int[] faceVertexIndices = [${Array.from(indices).join(', ')}]
        normal3f[] normals.timeSamples = {
${samples(normals, all)}
        }
        point3f[] points.timeSamples = {
${samples(places, all)}
        }
${texture}        uniform token subdivisionScheme = "none"
    }
`;
}

/** Strands as linear curves (UsdGeomBasisCurves); widths and colours go from root to tip. */
function curvesText(curves: MovingCurves, name: string, all: MovingMeshes): string {
  const { counts, widths, colours, places } = curves;
  const along = counts.flatMap((n) => Array.from({ length: n }, (_, i) => i / (n - 1)));
  const mixed = (a: number, b: number, t: number) => a + t * (b - a);
  const colour = along.flatMap((t) => [0, 1, 2].map((k) => mixed(colours[0][k]!, colours[1][k]!, t)));
  return `    def BasisCurves "${name}" (
        displayName = ${quoted(curves.name)}
    )
    {
        int[] curveVertexCounts = [${counts.join(', ')}]
        float3[] extent = ${extent(curves)}
        point3f[] points.timeSamples = {
${samples(places, all)}
        }
        color3f[] primvars:displayColor = ${tuples(colour, 0, along.length, 3)} (
            interpolation = "vertex"
        )
        uniform token type = "linear"
        float[] widths = [${along.map((t) => digits(mixed(widths[0], widths[1], t))).join(', ')}] (
            interpolation = "vertex"
        )
    }
`;
}

/**
 * Writes meshes and strands as USD text: a Mesh each, with a sample of its points and of its normals on every
 * frame; BasisCurves each, with a sample of their points.
 * Source: UsdGeomMesh, UsdGeomBasisCurves and UsdGeomPointBased schemas (OpenUSD).
 */
export function writePointsUsda(all: MovingMeshes, o: UsdaOptions): string {
  const { first, count, fps, meshes, curves } = all;
  const root = identifier(o.name);
  const names: string[] = [];
  for (const { name } of [...meshes, ...curves]) {
    let word = identifier(name);
    while (names.includes(word)) word += '_';
    names.push(word);
  }
  return `#usda 1.0
(
    defaultPrim = "${root}"
    endTimeCode = ${first + count - 1}
    framesPerSecond = ${digits(fps)}
    metersPerUnit = ${digits(o.metresPerUnit)}
    startTimeCode = ${first}
    timeCodesPerSecond = ${digits(fps)}
    upAxis = "${o.upAxis}"
)

def Xform "${root}"
{
${[
  ...meshes.map((m, k) => meshText(m, names[k]!, all)),
  ...curves.map((c, k) => curvesText(c, names[meshes.length + k]!, all)),
].join('\n')}}
`;
}
