/**
 * The steps a part takes: so many a frame, one in every so many of the shot's steps, or so many within each of them.
 */
export interface Steps {
  readonly aFrame: number;
  readonly every: number;
  readonly within: number;
}

/** At least so many steps a second in a shot of so many frames a second and steps a frame: they fall together. */
export function stepsAt(rate: number, fps: number, substeps: number): Steps {
  const wanted = Math.ceil(rate / fps);
  if (substeps < wanted) {
    const within = Math.ceil(wanted / substeps);
    return { aFrame: within * substeps, every: 1, within };
  }
  let aFrame = wanted;
  while (substeps % aFrame !== 0) aFrame++;
  return { aFrame, every: substeps / aFrame, within: 1 };
}
