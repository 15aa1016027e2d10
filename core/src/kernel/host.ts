import type { Index } from './numbers';

let ask: (body: Index) => void = () => undefined;

/** Who answers {@link nearestMesh}: the distance to a mesh is measured outside of the kernel. */
export function askMeshes(answer: (body: Index) => void): void {
  ask = answer;
}

/** Measures from the segment of the search at hand to a mesh, by its place in the list of bodies. */
export function nearestMesh(body: Index): void {
  ask(body);
}
