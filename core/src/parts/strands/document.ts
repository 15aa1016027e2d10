import { z } from 'zod';
import { Minds, partBase } from '../../model/part';
import { WeightMap } from '../../model/weightMap';
import { documentName, frameNumber, JointRef, vector } from '../../model/world';
import { Groom, MOST_GUIDES } from './groom';
import { StrandKeys, StrandProfiles, StrandSettings } from './settings';

const share = z.number().min(0).max(1);
const colour = z.string().regex(/^#[0-9a-f]{6}$/, { error: 'A colour is # and six hexadecimal digits' });

/** What is drawn between the guides: it changes nothing that moves. */
export const Look = z.strictObject({
  /** Strands that are drawn. */
  strands: z.int().min(0).max(20_000).default(600),
  /** How far about its guides hair stands, as a multiple of what fills the gaps between them. */
  spread: z.number().min(0.02).max(20).default(1),
  /** How far strands draw together toward their guide at the tip, 0..1. */
  clump: share.default(0.4),
  /** Curl: its radius (m), how many turns it makes, and the part of the length in which it does. */
  curl: z.number().min(0).max(100).default(0),
  turns: z.number().min(0).max(60).default(3),
  curlFrom: share.default(0),
  curlTo: share.default(1),
  /** How far strands stray at random, as a share of their length. */
  frizz: share.default(0.03),
  /** Width at the root, m, and of that at the tip. */
  width: z.number().min(1e-6).max(10).default(0.003),
  taper: share.default(0.2),
  /** Colours at root and tip. */
  root: colour.default('#5a4632'),
  tip: colour.default('#a3855c'),
});
export type Look = z.infer<typeof Look>;

/** How guides were grown: see growGuides. */
export const Growth = z.strictObject({
  count: z.int().min(1).max(MOST_GUIDES).default(60),
  /** m */
  length: z.number().min(1e-4).max(1000),
  points: z.int().min(3).max(64).default(9),
  lean: share.default(0.4),
  /** Which way it leans at rest; null for down. */
  way: vector.nullable().default(null),
  seed: z.int().min(1).max(1e6).default(1),
  mirrored: z.boolean().default(false),
  /** Whether guides were brushed, drawn or taken from elsewhere since: growing anew loses that. */
  changed: z.boolean().default(false),
});
export type Growth = z.infer<typeof Growth>;

/** What is painted on the mesh: where guides grow, and shares of settings of those that stand there. */
export const STRAND_MAPS = ['grow', 'hold', 'bend'] as const;
export type StrandMapKey = (typeof STRAND_MAPS)[number];

/** A band about hair: bundles of guides are held together at a share of the way from root to tip. */
const StrandBand = z.strictObject({
  at: share.default(0.5),
  bundles: z.int().min(1).max(200).default(1),
  /** Hz: how firmly each point is held where it stands in its bundle; and how far it is drawn to the middle, %. */
  firmness: z.number().min(0.1).max(30).default(6),
  drawn: z.number().min(0).max(100).default(0),
  /** g: what a band, a ring or a bead on each bundle weighs. */
  weight: z.number().min(0).max(1e5).default(0),
});
export type StrandBand = z.infer<typeof StrandBand>;

/** A hand that holds hair about one place of a guide along a recorded path. */
const StrandPull = z.strictObject({
  id: z.string().regex(/^[A-Za-z0-9_-]{1,40}$/),
  /** The guide that was grabbed, how far along it, and how far about that place the hand reaches, m. */
  guide: z
    .int()
    .min(0)
    .max(MOST_GUIDES - 1),
  along: share,
  reach: z.number().min(0).max(1e4),
  first: frameNumber,
  /** Places of the hand, m, one a frame from `first`. */
  path: z.array(vector).min(1).max(20_000),
  /** Hz: how stiffly the hand holds. */
  strength: z.number().min(0.1).max(30).default(6),
  /** m: the hand slips off when it is farther away than this. */
  slip: z.number().min(0).max(1e5).default(1e5),
});
export type StrandPull = z.infer<typeof StrandPull>;

/** Guides as a hand has combed them on one frame: they are shown so there, and in between on the way. */
const StrandPose = z.strictObject({
  frame: frameNumber,
  /** Frames for which it stays so, and in which it comes to it and goes from it. */
  hold: z.number().min(0).max(10_000).default(0),
  easeIn: z.number().min(0).max(10_000).default(6),
  easeOut: z.number().min(0).max(10_000).default(6),
  /** As they would stand at rest. */
  groom: Groom,
});
export type StrandPose = z.infer<typeof StrandPose>;

/** Strands that grow on a mesh: guides that move, and the hair between them. */
export const StrandsPart = z.strictObject({
  ...partBase,
  kind: z.literal('strands'),
  /** What they grow on. */
  mesh: JointRef,
  groom: Groom,
  /** How the groom was grown; null where it was not. */
  growth: Growth.nullable().default(null),
  /** Where it grows, and how much of its hold and bend a guide has that is rooted there: a share of each vertex. */
  maps: z.partialRecord(z.enum(STRAND_MAPS), WeightMap).default({}),
  bands: z.array(StrandBand).max(20).default([]),
  pulls: z.array(StrandPull).max(100).default([]),
  poses: z.array(StrandPose).max(24).default([]),
  /** Whether the groom is their rest under gravity. */
  keepsGroom: z.boolean().default(true),
  look: Look.prefault({}),
  settings: StrandSettings.prefault({}),
  /** Multipliers of single settings from root to tip. */
  profiles: StrandProfiles.prefault({}),
  keys: StrandKeys.prefault({}),
  collidesWith: z
    .strictObject({
      colliders: Minds.default('all'),
      /** Chains, cloth and soft bodies that they touch, and that feel it. */
      parts: Minds.default([]),
    })
    .prefault({}),
});
export type StrandsPart = z.infer<typeof StrandsPart>;

/** Strands with defaults for everything that is not said. */
export const makeStrandsPart = (
  part: Partial<Omit<z.input<typeof StrandsPart>, 'id' | 'kind'>> & {
    id: string;
    name: z.input<typeof documentName>;
    mesh: z.input<typeof JointRef>;
    groom: z.input<typeof Groom>;
  },
): StrandsPart => StrandsPart.parse({ kind: 'strands', ...part });
