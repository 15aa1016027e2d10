import type * as THREE from 'three';

/**
 * Draws a scene twice: left of a share of the picture's width as `left` puts it, right of it as `right` does. A share
 * of null draws it once as `right` does, 1 as `left` does.
 */
export function drawSplit(
  renderer: THREE.WebGLRenderer,
  scene: THREE.Scene,
  camera: THREE.Camera,
  share: number | null,
  left: () => void,
  right: () => void,
): void {
  if (share === null || share >= 1) {
    (share === null ? right : left)();
    renderer.render(scene, camera);
    return;
  }
  const { width, height } = renderer.domElement;
  const ratio = renderer.getPixelRatio();
  const [w, h] = [width / ratio, height / ratio];
  renderer.setScissorTest(true);
  renderer.setScissor(0, 0, w * share, h);
  left();
  renderer.render(scene, camera);
  renderer.setScissor(w * share, 0, w - w * share, h);
  right();
  renderer.render(scene, camera);
  renderer.setScissorTest(false);
}
