import type { Shot } from '@oscillum/core/shot';
import type * as THREE from 'three';

/** Something on the stage that a hand can take hold of. */
export interface Handle {
  /** What dragging it does, for edits and the eye. */
  readonly name: string;
  /** Where it is, m. */
  readonly at: THREE.Vector3;
  /** Changes a draft of the shot so that the handle comes to be at a place. */
  readonly put: (draft: Shot, place: THREE.Vector3) => void;
}
