import * as THREE from 'three';
import { inkOf } from './parts';
import type { Standing } from './parts/kind';
import type { StageView } from './view';

/** What parts never pass, as veils round the figure: shown while their leash is what tints them. */
export class Shells {
  readonly group = new THREE.Group();
  private readonly veil = new THREE.MeshBasicMaterial({
    ...{ color: '#a8622c', transparent: true, opacity: 0.13, side: THREE.DoubleSide, depthWrite: false },
  });
  private readonly threads = new THREE.MeshBasicMaterial({
    ...{ color: '#a8622c', transparent: true, opacity: 0.22, wireframe: true, depthWrite: false },
  });

  /** Puts up those of a frame, in place of those before. */
  show({ tint }: Pick<StageView, 'tint'>, at: Standing): void {
    this.clear();
    if (tint !== 'leash') return;
    for (const part of Object.values(at.shot.parts)) {
      const shell = part.muted ? null : (inkOf(part).shell?.(part, at) ?? null);
      if (!shell) continue;
      const geometry = new THREE.BufferGeometry();
      geometry.setAttribute('position', new THREE.BufferAttribute(Float32Array.from(shell.places), 3));
      geometry.setIndex(new THREE.BufferAttribute(shell.triangles, 1));
      for (const material of [this.veil, this.threads]) {
        const mesh = new THREE.Mesh(geometry, material);
        mesh.frustumCulled = false;
        this.group.add(mesh);
      }
    }
  }

  dispose(): void {
    this.clear();
    this.veil.dispose();
    this.threads.dispose();
  }

  private clear(): void {
    for (const child of this.group.children) (child as THREE.Mesh).geometry.dispose();
    this.group.clear();
  }
}
