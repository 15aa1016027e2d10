import type { Strands } from '../../solver/strands/index';
import { GIVEN, type Ground } from '../ground';

/** A ground feels strands as at most so many times what its own mass is where they stand: more would throw it. */
const HEAVIEST = 1;

/** Strands on a mesh whose vertices are moved by other parts: those feel what their roots pull with. */
export class Growing {
  private readonly pulls: Float64Array;
  /** What the mesh is still to be given, N s. */
  readonly waits: Float64Array;

  constructor(
    private readonly grounds: readonly Ground[],
    private readonly strands: Strands,
    private readonly h: number,
  ) {
    this.pulls = new Float64Array(3 * (strands.first.length - 1));
    this.waits = new Float64Array(this.pulls.length);
  }

  /** Takes up where the mesh stands at a frame. */
  stand(frame: number): void {
    for (const g of this.grounds) g.stand(frame);
  }

  /** Gives the mesh what the strands pulled their roots with in the last step. */
  pull(): void {
    const { grounds, strands, pulls, waits, h } = this;
    if (!grounds.some((g) => g.body?.soft)) return;
    strands.rootPulls(pulls);
    for (let o = 0; o < pulls.length; o++) {
      waits[o]! -= h * pulls[o]!;
      pulls[o] = GIVEN * waits[o]!;
      waits[o]! -= pulls[o]!;
    }
    const { roots, first, masses } = strands;
    for (const { body } of grounds)
      for (let k = 0; k + 1 < first.length && body?.soft; k++) {
        const [x, y, z] = [roots[7 * k]!, roots[7 * k + 1]!, roots[7 * k + 2]!];
        let mass = 0;
        for (let i = first[k]!; i < first[k + 1]!; i++) mass += masses[i]!;
        const heavy = mass * body.soft.gives(x, y, z);
        const by = heavy > HEAVIEST ? HEAVIEST / heavy : 1;
        const o = 3 * k;
        body.soft.lean(x, y, z, by * pulls[o]!, by * pulls[o + 1]!, by * pulls[o + 2]!, Infinity);
      }
  }
}
