import type { Character } from '@oscillum/core/character';
import type { Shot } from '@oscillum/core/shot';
import * as THREE from 'three';
import { LineMaterial } from 'three/examples/jsm/lines/LineMaterial.js';
import { LineSegments2 } from 'three/examples/jsm/lines/LineSegments2.js';
import { LineSegmentsGeometry } from 'three/examples/jsm/lines/LineSegmentsGeometry.js';
import { inkOf } from './parts/index';

/** Width of lines that nothing says the thickness of, px. */
const PLAIN_PX = 2.4;
/** What the colour of a line that is pointed at is multiplied by. */
const LIT = new THREE.Color(1.6, 1.5, 1.1);
const PLAIN = [0.4, 0.36, 0.3];

/** How thick the lines of meshes are drawn, m, by their nodes: as thick as what moves them. */
export const cordWidths = (shot: Shot, frame: number): ReadonlyMap<number, number> =>
  new Map(
    Object.values(shot.parts).flatMap((part) => {
      const cord = inkOf(part).cord?.(part, frame);
      return cord ? [[cord.node, cord.width] as const] : [];
    }),
  );

/** The lines of one mesh node, drawn as round as cords are. */
interface Drawn {
  readonly node: number;
  /** Two vertices of the node each. */
  readonly ends: readonly number[];
  readonly line: LineSegments2;
}

/** The lines of a character's meshes. */
export class Cords {
  readonly group = new THREE.Group();
  private readonly all: Drawn[] = [];

  constructor(character: Character) {
    character.nodes.forEach((own, node) => {
      const ends: number[] = [];
      const colours: number[] = [];
      let before = 0;
      for (const p of character.meshes[own.mesh]?.primitives ?? []) {
        for (const v of p.lines) {
          ends.push(before + v);
          colours.push(...(p.colours?.subarray(4 * v, 4 * v + 3) ?? PLAIN));
        }
        before += p.positions.length / 3;
      }
      if (ends.length === 0) return;
      const geometry = new LineSegmentsGeometry();
      geometry.setPositions(new Float32Array(3 * ends.length));
      geometry.setColors(colours);
      const line = new LineSegments2(geometry, new LineMaterial({ vertexColors: true }));
      line.frustumCulled = false;
      this.all.push({ node, ends, line });
      this.group.add(line);
    });
  }

  /** Draws them where the vertices of their nodes are, so wide (m) where that is said. */
  show(placesOf: (node: number) => Float64Array, widths: ReadonlyMap<number, number>): void {
    for (const { node, ends, line } of this.all) {
      const places = placesOf(node);
      const at = line.geometry.getAttribute('instanceStart') as THREE.InterleavedBufferAttribute;
      const { array } = at.data;
      ends.forEach((v, k) => {
        for (let a = 0; a < 3; a++) array[3 * k + a] = places[3 * v + a]!;
      });
      at.data.needsUpdate = true;
      const width = widths.get(node);
      line.material.worldUnits = width !== undefined;
      line.material.linewidth = width ?? PLAIN_PX;
    }
  }

  /** Lights the lines of a node, or none. */
  light(node: number | null): void {
    for (const d of this.all) d.line.material.color.set(d.node === node ? LIT : 0xffffff);
  }

  dispose(): void {
    for (const { line } of this.all) {
      line.geometry.dispose();
      line.material.dispose();
    }
  }
}
