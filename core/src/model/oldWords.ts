export type Plain = Record<string, unknown>;

/** A table of plain data with each entry changed; what is no table stays. */
export const eachOf = (list: unknown, f: (x: Plain) => Plain): unknown =>
  typeof list === 'object' && list !== null
    ? Object.fromEntries(Object.entries(list).map(([id, x]) => [id, f(x as Plain)]))
    : list;

const renamed = (data: unknown, words: Readonly<Record<string, string>>): unknown =>
  typeof data === 'object' && data !== null && !Array.isArray(data)
    ? Object.fromEntries(Object.entries(data).map(([key, x]) => [words[key] ?? key, x]))
    : data;

/** Settings as they were called before version 7 of a shot, by kind of part. */
const SETTINGS = {
  chain: { mix: 'amount', delay: 'delayPerJoint', softness: 'stretchSoftness', shift: 'rootSlide' },
  pendulum: { mix: 'amount' },
} as const;
const PART = {
  planeLock: 'staysInPlane',
  touches: 'collidesWith',
  pullsBack: 'pullsParent',
  tie: 'tipPin',
} as const;
const COLLIDER = { rides: 'attachedTo' } as const;

/** Settings, profiles or keys of a kind under their present names. */
export const settingsInPlainWords = (settings: unknown, kind: unknown = 'chain'): unknown =>
  renamed(settings, SETTINGS[kind as keyof typeof SETTINGS] ?? {});

/** A shot (or what a take holds of one) whose parts and colliders say what the interface says since version 7. */
export const inPlainWords = (doc: Plain): Plain => ({
  ...doc,
  ...(doc.parts !== undefined && {
    parts: eachOf(doc.parts, (part) => ({
      ...(renamed(part, part.kind === 'chain' ? PART : {}) as Plain),
      ...Object.fromEntries(
        ['settings', 'profiles', 'keys']
          .filter((of) => of in part)
          .map((of) => [of, settingsInPlainWords(part[of], part.kind)]),
      ),
    })),
  }),
  ...(doc.colliders !== undefined && {
    colliders: eachOf(doc.colliders, (c) => renamed(c, COLLIDER) as Plain),
  }),
});

/** Tools of refinements as they were called before version 7. */
const TOOLS: Readonly<Record<string, string>> = {
  soften: 'smooth',
  steady: 'remove jitter',
  later: 'offset',
};

/** What is laid over a bake, with its tools under their present names. */
export function refineInPlainWords(refine: unknown): unknown {
  const steps = (refine as { steps?: unknown } | null | undefined)?.steps;
  if (!Array.isArray(steps)) return refine;
  return {
    ...(refine as Plain),
    steps: steps.map((step: { does?: { tool?: string } }) => {
      const tool = TOOLS[step?.does?.tool ?? ''];
      return tool ? { ...step, does: { ...step.does, tool } } : step;
    }),
  };
}

/** What a take measured of each part, under its present names. */
export const measuresInPlainWords = (measures: unknown): unknown =>
  eachOf(measures, (of) => renamed(of, { strayDegrees: 'offSourceDegrees' }) as Plain);
