import {
  eachOf,
  inPlainWords,
  measuresInPlainWords,
  refineInPlainWords,
  type Plain,
} from '../model/oldWords';

/** Pre-roll in seconds, of plain data that has it in frames. */
const withSeconds = ({ preRoll, ...doc }: Plain, fps: unknown): Plain => ({
  ...doc,
  ...(typeof preRoll === 'number' && {
    preRollSeconds: preRoll / (typeof fps === 'number' && fps > 0 ? fps : 30),
  }),
});
const withBakedInto = (parts: unknown): unknown =>
  eachOf(parts, ({ mutedBecause, ...part }) => {
    const clip = /^Muted because its motion was baked into “(.*)”\. Unmute/.exec(String(mutedBecause ?? ''));
    return { ...part, bakedInto: clip && part.muted ? clip[1] : null };
  });

/** The hold of a cloth was damped as its swing is. */
const withHoldDamping = (parts: unknown): unknown =>
  eachOf(parts, (part) => {
    const { damping } = (part.settings ?? {}) as Plain;
    const sheet = part.kind === 'cloth' || part.kind === 'panel';
    if (!sheet || damping === undefined) return part;
    return { ...part, settings: { holdDamping: damping, ...(part.settings as Plain) } };
  });

/** From version n to n + 1, on plain data. The first entry upgrades version 0, which kept parts in a list. */
export const UPGRADES: readonly ((doc: Record<string, unknown>) => Record<string, unknown>)[] = [
  (doc) => ({
    ...doc,
    version: 1,
    parts: Array.isArray(doc.parts)
      ? Object.fromEntries(doc.parts.map((p: { id: string }) => [p.id, p]))
      : doc.parts,
  }),
  // Version 2 added settings, colliders, forces and time; what a version 1 shot does not say keeps its default. Air
  // took no hold in version 1: thickness, which air needs, begins at 0.
  (doc) => ({ ...doc, version: 2 }),
  // Version 3 added takes.
  (doc) => ({ ...doc, version: 3 }),
  // Version 4 added how keys are written, and refinements.
  (doc) => ({ ...doc, version: 4 }),
  // Version 5 says in a field into which clip a part was baked; before, a sentence said so.
  (doc) => ({
    ...doc,
    version: 5,
    parts: withBakedInto(doc.parts),
    takes: eachOf(doc.takes, (take) => ({
      ...take,
      tuned: { ...(take.tuned as Plain), parts: withBakedInto((take.tuned as Plain | undefined)?.parts) },
    })),
  }),
  // Version 6 says which parts were baked into the shot's clip.
  (doc) => ({ ...doc, version: 6 }),
  // Version 7 keeps the pre-roll in seconds, calls added turns added motions, for they can move as well, and says what
  // the interface says: see oldWords.ts.
  ({ sourceTurns, ...doc }) => ({
    ...inPlainWords(withSeconds(doc, doc.fps)),
    version: 7,
    ...(doc.refine !== undefined && { refine: refineInPlainWords(doc.refine) }),
    ...(sourceTurns !== undefined && { addedMotions: sourceTurns }),
    takes: eachOf(doc.takes, (take) => ({
      ...take,
      ...(take.measures !== undefined && { measures: measuresInPlainWords(take.measures) }),
      tuned: inPlainWords(withSeconds(take.tuned as Plain, doc.fps)),
    })),
  }),
  // Version 8 gave the hold of a cloth a damping of its own.
  (doc) => ({
    ...doc,
    version: 8,
    parts: withHoldDamping(doc.parts),
    takes: eachOf(doc.takes, (take) => ({
      ...take,
      tuned: {
        ...(take.tuned as Plain),
        parts: withHoldDamping((take.tuned as Plain | undefined)?.parts),
      },
    })),
  }),
];
