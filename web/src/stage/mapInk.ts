import * as THREE from 'three';

/** What a material needs so that a map of shares can be drawn with it. */
export interface MapInk {
  readonly painted: { value: number };
}

/** Shares at which a contour is drawn. */
const CONTOURS = [0.05, 0.25, 0.5, 0.75] as const;

/**
 * Lets a material draw the attribute `share` (0 to 1) as density of ink with contours, while `painted` is 1. The least
 * share above 0 is told from none.
 */
export function mapInk(material: THREE.Material): MapInk {
  const painted = { value: 0 };
  material.onBeforeCompile = (shader) => {
    shader.uniforms.painted = painted;
    shader.vertexShader = shader.vertexShader
      .replace('#include <common>', 'attribute float share;\nvarying float vShare;\n#include <common>')
      .replace('#include <begin_vertex>', '#include <begin_vertex>\nvShare = share;');
    shader.fragmentShader = shader.fragmentShader
      .replace('#include <common>', 'uniform float painted;\nvarying float vShare;\n#include <common>')
      .replace(
        '#include <color_fragment>',
        `#include <color_fragment>
        if (painted > 0.5) {
          float density = vShare <= 0.0 ? 0.0 : 0.1 + 0.75 * vShare;
          vec3 ink = mix(vec3(0.93, 0.9, 0.82), vec3(0.02, 0.15, 0.14), density);
          float across = fwidth(vShare) + 1e-6;
          float line = 0.0;
          ${CONTOURS.map((c) => `line = max(line, 1.0 - smoothstep(0.5, 1.3, abs(vShare - ${c.toFixed(2)}) / across));`).join('\n          ')}
          diffuseColor.rgb = mix(ink, vec3(0.02, 0.02, 0.04), 0.85 * line);
        }`,
      );
  };
  return { painted };
}

/** Puts shares, one a vertex of a node, into meshes whose vertices begin at `before` of them. */
export function paintShares(meshes: readonly THREE.Mesh[], shares: Float64Array, before: number): void {
  for (const { geometry } of meshes) {
    const { count } = geometry.getAttribute('position');
    let attribute = geometry.getAttribute('share') as THREE.BufferAttribute | undefined;
    if (!attribute) {
      attribute = new THREE.BufferAttribute(new Float32Array(count), 1);
      geometry.setAttribute('share', attribute);
    }
    (attribute.array as Float32Array).set(shares.subarray(before, before + count));
    attribute.needsUpdate = true;
  }
}
