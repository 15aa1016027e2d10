import type { Character } from '@oscillum/core/character';
import * as THREE from 'three';

/** Dashes a side of the lattice. */
const REACH = 9;

/** Short dashes on the floor round the figure, on a lattice that stays where it is, so that travel is seen. */
export class Ground {
  readonly lines: THREE.LineSegments;

  constructor() {
    const points: number[] = [];
    for (let i = -REACH; i <= REACH; i++) {
      for (let k = -REACH; k <= REACH; k++) {
        if (i * i + k * k <= REACH * REACH) points.push(i - 0.1, 0, k, i + 0.1, 0, k);
      }
    }
    const geometry = new THREE.BufferGeometry().setAttribute(
      'position',
      new THREE.Float32BufferAttribute(points, 3),
    );
    this.lines = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: '#cbbfa5' }));
    this.lines.frustumCulled = false;
  }

  /** Moves the lattice by whole steps to stay under the figure; its step follows the figure's size. */
  follow(character: Character, world: Float64Array): void {
    const root = character.joints[0];
    if (root === undefined) return;
    const x = world[16 * root + 12]!;
    const z = world[16 * root + 14]!;
    let size = 1e-6;
    for (const j of character.joints)
      size = Math.max(
        size,
        Math.abs(world[16 * j + 13]!),
        Math.abs(world[16 * j + 12]! - x),
        Math.abs(world[16 * j + 14]! - z),
      );
    const decade = 10 ** Math.floor(Math.log10(size));
    const step = decade * (size / decade > 4 ? 1 : 0.3);
    this.lines.scale.setScalar(step);
    this.lines.position.set(Math.round(x / step) * step, 0, Math.round(z / step) * step);
  }

  dispose(): void {
    this.lines.geometry.dispose();
    (this.lines.material as THREE.Material).dispose();
  }
}
