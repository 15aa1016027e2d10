import type { BakedInto, BakeOptions, VertexFit } from '@oscillum/core/bake';
import type { Character, StrandPath } from '@oscillum/core/character';
import type { Applied, FileCheck, HandedOff, HandOffPlan, Weighed } from '@oscillum/core/handoff';
import type { BakedClip, JointPlan } from '@oscillum/core/gltf';
import type { AskedFeel, Diagnosis, Feel, FittedFeel, ShotFeel } from '@oscillum/core/measure';
import type { Collider, JointRef } from '@oscillum/core/model';
import type { Preset } from '@oscillum/core/chain';
import type { Shot } from '@oscillum/core/shot';
import type { Frames, FramesLayout, Rows, StartReport } from '@oscillum/core/frames';
import type { Share } from '@oscillum/core/simulate';

/** Where an error was and what to do, as it crosses the worker's border. */
export interface Trouble {
  code: string;
  sentence: string;
}

export type ToWorker =
  | { kind: 'open'; job: number; fileName: string; bytes: ArrayBuffer }
  /** `look`: the last frame that is seen meanwhile; `rough`: whether a coarse answer is wanted first. */
  | { kind: 'simulate'; job: number; shot: Shot; share: Share; look: number; rough: boolean }
  | { kind: 'hand off'; job: number; shot: Shot; plan: HandOffPlan }
  | { kind: 'fit colliders'; job: number; shot: Shot }
  | { kind: 'fit feel'; job: number; shot: Shot; parts: readonly string[]; asked: AskedFeel }
  | {
      kind: 'find strands';
      job: number;
      mesh: number;
      parent: number;
      rows: number;
      metresPerUnit: number;
      upAxis: 'Y' | 'Z';
    }
  | { kind: 'add joints'; job: number; plan: JointPlan; metresPerUnit: number; upAxis: 'Y' | 'Z' }
  | { kind: 'apply motion'; job: number; fileName: string; bytes: ArrayBuffer }
  | { kind: 'try presets'; job: number; shot: Shot; part: string; presets: readonly Preset[] }
  /** All of a shot in one answer, beside whatever else is asked. */
  | { kind: 'simulate apart'; job: number; shot: Shot }
  /** The curves a bake of the whole range would write, before they are refined. */
  | { kind: 'bake curves'; job: number; shot: Shot }
  /** Parts into the shot's clip, for the shot to go on with. */
  | { kind: 'bake into'; job: number; shot: Shot; parts: readonly string[] }
  /** What fitting the vertices that move one by one costs, in several ways. */
  | { kind: 'weigh fits'; job: number; shot: Shot; bake: BakeOptions; choices: readonly VertexFit[] }
  | { kind: 'cancel'; job: number };

/** What is known of a simulated shot, or a share of it, beyond its frames. */
export interface Advice {
  readonly diagnoses: readonly Diagnosis[];
  /** Feel of each chain on the standard quick turn, by part. */
  readonly feels: Readonly<Record<string, Feel>>;
  /** And on the shot itself. */
  readonly shots: Readonly<Record<string, ShotFeel>>;
}

/** Files with what was found when they were read back and played, and all of them in one zip. */
export interface HandOffResult extends HandedOff {
  readonly checks: readonly FileCheck[];
  /** What the standard's validator finds wrong. */
  readonly faults: readonly string[];
  readonly zip: Uint8Array<ArrayBuffer> | null;
}

/** A copy of the character with one clip more. */
export interface AppliedMotion extends Applied {
  readonly name: string;
  /** Seconds. */
  readonly duration: number;
}

export type FromWorker =
  | { kind: 'opened'; job: number; character: Character }
  | { kind: 'layout'; job: number; layout: FramesLayout }
  | {
      kind: 'rows';
      job: number;
      rows: Rows;
      finished: boolean;
      /** The first of a run that will soon be whole: for the stage alone, so that the eye has its answer. */
      early: boolean;
      start: StartReport;
      /** When this share was begun and sent, ms on the clock all workers share. */
      began: number;
      sent: number;
    }
  /** All rows of a coarse answer, which stand until the true ones have come. */
  | { kind: 'rough'; job: number; rows: Rows }
  | { kind: 'advice'; job: number; advice: Advice }
  | { kind: 'fitted colliders'; job: number; colliders: Collider[] }
  | { kind: 'fitted feel'; job: number; fits: Record<string, FittedFeel> }
  | { kind: 'found strands'; job: number; paths: StrandPath[] }
  | { kind: 'jointed'; job: number; bytes: Uint8Array<ArrayBuffer>; rows: JointRef[][] }
  | { kind: 'tried presets'; job: number; curves: Float64Array[] }
  | { kind: 'simulated apart'; job: number; frames: Frames }
  /** `every` is the same with all its keys, when they are thinned. */
  | { kind: 'baked curves'; job: number; clip: BakedClip; every: BakedClip | null }
  | { kind: 'weighed fits'; job: number; weighed: Weighed }
  | { kind: 'progress'; job: number; share: number }
  | { kind: 'baked into'; job: number; baked: BakedInto }
  | ({ kind: 'applied motion'; job: number } & AppliedMotion)
  | { kind: 'handed off'; job: number; result: HandOffResult }
  | { kind: 'failed'; job: number; trouble: Trouble };
