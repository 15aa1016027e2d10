import type { RegionPart } from './document';

/** Hz of hold from which a region is quick, and steps a second that it takes at least, and where it is quick. */
const QUICK = 5;
const RATES = [120, 240] as const;

/**
 * The steps a region takes: so many a frame, one in every so many of the shot's steps, or so many within each of them.
 */
export interface Steps {
  readonly aFrame: number;
  readonly every: number;
  readonly within: number;
}

/** Steps for a part in a shot of so many frames a second and steps a frame: they fall together where they can. */
export function stepsOf(
  { settings, keys }: Pick<RegionPart, 'settings' | 'keys'>,
  fps: number,
  substeps: number,
): Steps {
  const hold = keys.hold?.length ? Math.max(...keys.hold.map((k) => k.value)) : settings.hold;
  const wanted = Math.ceil(RATES[hold > QUICK ? 1 : 0] / fps);
  if (substeps < wanted) {
    const within = Math.ceil(wanted / substeps);
    return { aFrame: within * substeps, every: 1, within };
  }
  let aFrame = wanted;
  while (substeps % aFrame !== 0) aFrame++;
  return { aFrame, every: substeps / aFrame, within: 1 };
}
