import { inkOf } from './parts';
import type { Tint } from '../state/view';
import type { StrandPath } from '@oscillum/core/character';
import type { MeshRegion } from '@oscillum/core/model';
import type { Shot } from '@oscillum/core/shot';
import type { Picture } from '../sim/picture';

/** A thing of the shot that is worked on: it has handles on the stage. */
export interface Thing {
  readonly kind: 'collider' | 'force' | 'motion' | 'pose' | 'thickness';
  readonly id: string;
}

/** What the stage draws from; it changes none of it. */
export interface StageView {
  shot: Shot;
  picture: Picture;
  frame: number;
  ghost: boolean;
  trails: boolean;
  allTrails: boolean;
  onion: boolean;
  points: boolean;
  showColliders: boolean;
  contacts: boolean;
  stretch: boolean;
  flat: boolean;
  follow: boolean;
  /** Wind and other forces as streaks. */
  air: boolean;
  showJoints: boolean;
  /** Another take's shot and what it simulates to, to be overlaid. */
  overlay: { readonly shot: Shot; readonly picture: Picture } | null;
  /** Rows being laid along a mesh, and how many joints each gets. */
  strand: { readonly rows: readonly StrandPath[]; readonly joints: number } | null;
  /** What has handles. */
  thing: Thing | null;
  selectedJoints: readonly number[];
  selectedParts: readonly string[];
  hoverJoint: number | null;
  /** How many times as far off their skin soft regions are drawn. */
  larger: number;
  /** By what the meshes of parts are tinted; a map that is painted goes before. */
  tint: Tint | null;
  /** Share of the stage, from the left, that shows the source alone; null for none. */
  without: number | null;
  /** The mesh node that is lit. */
  litMesh: number | null;
  /** The part of it that is lit; null is all. */
  litRegion: MeshRegion | null;
  /** The inks of night. */
  night: boolean;
  /** Rows that a press of Make chain would take. */
  offered: readonly (readonly number[])[];
}

/** Only the figure. */
export const PLAIN: Omit<StageView, 'shot' | 'picture' | 'frame' | 'offered'> = {
  ghost: false,
  trails: false,
  allTrails: false,
  onion: false,
  showJoints: false,
  points: false,
  showColliders: false,
  contacts: false,
  stretch: false,
  air: false,
  larger: 1,
  flat: false,
  follow: false,
  thing: null,
  overlay: null,
  strand: null,
  selectedJoints: [],
  selectedParts: [],
  hoverJoint: null,
  tint: null,
  without: null,
  litMesh: null,
  litRegion: null,
  night: false,
};

/** Frames a trail reaches back, and half as many ahead. */
export const TRAIL = 24;

/** The last frame of which anything is drawn when the stage shows this one. */
export const lastDrawn = (frame: number): number => Math.round(frame) + TRAIL / 2;

/** Of which run the stage was drawn last, and how many of its rows there were. */
export interface DrawnRows {
  readonly frames: Picture['frames'];
  readonly version: number;
  readonly done: number;
}

/** Whether all the rows that a view shows were there already when the stage was drawn last. */
export function hasDrawn(drawn: DrawnRows | null, { picture, frame }: StageView): boolean {
  const { frames, version } = picture;
  if (!drawn || !frames || drawn.frames !== frames || drawn.version !== version) return false;
  return drawn.done >= Math.min(frames.count, lastDrawn(frame) + 1 - frames.first);
}

/** What of a shot is drawn beside its parts. */
const LOOKS = [
  ...(['character', 'clip', 'cycle', 'stillAt', 'fps', 'range', 'settleFrames'] as const),
  ...(['addedMotions', 'inPlace', 'colliders', 'forces'] as const),
];

/** Whether two shots look the same but for what is in their frames: settings alone change nothing that is drawn. */
function looksSame(a: Shot, b: Shot): boolean {
  if (a === b) return true;
  const parts = Object.values(a.parts);
  return (
    LOOKS.every((k) => a[k] === b[k]) &&
    parts.length === Object.keys(b.parts).length &&
    parts.every((p) => {
      const q = b.parts[p.id];
      return q !== undefined && p.muted === q.muted && sameLine(inkOf(p).line(p), inkOf(q).line(q));
    })
  );
}

const sameLine = (a: readonly number[], b: readonly number[]): boolean =>
  a.length === b.length && a.every((n, i) => n === b[i]);

/** Whether the same rows are offered: they are looked for anew whenever the shot changes. */
const sameRows = (a: StageView['offered'], b: StageView['offered']): boolean =>
  a.length === b.length &&
  a.every((row, i) => row.length === b[i]!.length && row.every((n, k) => n === b[i]![k]));

/** Whether two views draw the same picture. */
export function drawsSame(a: StageView, b: StageView): boolean {
  return (
    looksSame(a.shot, b.shot) &&
    sameRows(a.offered, b.offered) &&
    (Object.keys(b) as (keyof StageView)[]).every((k) => k === 'shot' || k === 'offered' || a[k] === b[k])
  );
}
