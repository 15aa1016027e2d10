import { createSlice, type Draft, type PayloadAction } from '@reduxjs/toolkit';
import type { StrandPath } from '@oscillum/core/character';
import type { MeshRegion } from '@oscillum/core/model';
import { BRUSH, COMB, endCombing, type BrushHow, type CombHow } from './brushes';
import type { Shaken, ShakeHow } from './shaken';
import type { CopiedMarks, LaneListing, Mark } from './lanes';
import { shotSlice } from './shot';

/** Rows of joints to be added to a mesh, root to tip, m at rest; the last one takes clicks while `clicking`. */
export interface Strand {
  mesh: number;
  parent: number;
  joints: number;
  rows: StrandPath[];
  clicking: boolean;
}

/**
 * What a mesh may be tinted by: how far it is from its skin, how much of its leash that is, how much longer it is, how
 * deep it stands in what it touches, or how near its layers are to each other.
 */
export type Tint = 'stray' | 'leash' | 'stretch' | 'contact' | 'layers' | 'softness' | 'cells';

/** Runs of the shot that are looked at side by side. */
export type Strip = { of: 'clips' } | { of: 'setting'; key: string; ids: string[] };

/** What was clicked for a choice that waits: a joint by its node, or a collider by its id. */
export type Picked = { readonly joint: number } | { readonly collider: string };

/** How the shot is looked at: never part of the document. */
export interface ViewSlice {
  /** Frame under the playhead; a fraction while it plays slowly. */
  frame: number;
  playing: boolean;
  speed: number;
  loop: boolean;
  /** Selected joints (nodes), in the order they were picked. */
  joints: number[];
  /** Selected parts. */
  parts: string[];
  hoverJoint: number | null;
  /** What the list to the left shows; the mesh chosen in it (a node), and the one under the pointer. */
  list: 'joints' | 'meshes';
  mesh: number | null;
  hoverMesh: number | null;
  /** A part of it instead of all. */
  region: MeshRegion | null;
  hoverRegion: MeshRegion | null;
  /** Rows being laid along a mesh that has no joints. */
  strand: Strand | null;
  /** The collider or force that is worked on. */
  thing: { kind: 'collider' | 'force' | 'motion' | 'pose' | 'thickness'; id: string } | null;
  /** A choice that waits for a joint (or a collider) clicked on the stage or in the list, and what was clicked. */
  pick: { readonly asks: string; readonly got: Picked | null } | null;
  /** Parts that are looked at alone: the others follow their source meanwhile. Not an edit. */
  solo: string[];
  /** The take that is looked at instead of the present settings, and the one (or the present) before it. */
  take: string | null;
  takeBefore: string | null;
  /** The take whose chains are overlaid on what is shown. */
  overlaidTake: string | null;
  /** Share of the stage, from the left, that shows the source without what is simulated; null for none. */
  without: number | null;
  /** What is shown side by side: the set-up on all clips, or one setting at half, as it is, and doubled. */
  strip: Strip | null;
  /** By what the meshes of parts are tinted. */
  tint: Tint | null;
  /** How many times as far off their skin soft regions are drawn: a look, which changes no bake. */
  larger: number;
  /** The map that is painted, by part and setting, and the brush it is painted with. */
  painting: { readonly part: string; readonly key: string } | null;
  brush: BrushHow;
  /** The hair that is brushed, and how; guides of it that are left alone. */
  combing: string | null;
  comb: CombHow;
  frozen: number[];
  /** Whether a press on a chain grabs it, and what a hand has drawn with it and not yet kept. */
  shaking: boolean;
  shake: Shaken | null;
  shakeHow: ShakeHow;
  /** Anchor poses and keys that are chosen in the lanes, and what was copied of them. */
  marks: Mark[];
  copiedMarks: CopiedMarks | null;
  /** How the lanes are listed, and groups of them that are folded. */
  listing: LaneListing;
  folded: string[];
  /** Frames that are played, when not all. */
  bracket: { from: number; to: number } | null;
  /** Frames a second that playing really shows; null while it stands. */
  rate: number | null;
  /** Frames the lanes show, when not all. */
  window: { from: number; to: number } | null;
  /** What is looked for in the joints list; kept from room to room. */
  search: string;
  ghost: boolean;
  trails: boolean;
  /** Trails of every joint of the selected chains, not of tips alone. */
  allTrails: boolean;
  /** Chains as they stand on frames nearby. */
  onion: boolean;
  showJoints: boolean;
  /** The points that are simulated, tips too. */
  points: boolean;
  showColliders: boolean;
  /** Where chains press on something. */
  contacts: boolean;
  /** Links that are longer or shorter than their source. */
  stretch: boolean;
  /** Parallel lines stay parallel. */
  flat: boolean;
  /** The camera goes along with the figure. */
  follow: boolean;
  /** Every frame is shown, however long it takes. */
  everyFrame: boolean;
  /** No coarse answer is shown first: what stands on the stage stays until the true one comes. */
  waitWhole: boolean;
  /** Wind and other forces as streaks. */
  air: boolean;
  /** The night desk. */
  night: boolean;
}

/** What is shown or not, remembered in this browser. */
export const SWITCHES = [
  'ghost',
  'trails',
  'allTrails',
  'onion',
  'showJoints',
  'points',
  'showColliders',
  'contacts',
  'stretch',
  'air',
  'flat',
  'follow',
  'everyFrame',
  'waitWhole',
  'loop',
  'night',
] as const;
export type Switch = (typeof SWITCHES)[number];

const KEY = 'oscillum.view';
function remembered(): Partial<ViewSlice> {
  try {
    const saved = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Record<string, unknown>;
    return Object.fromEntries(
      Object.entries(saved).filter(([k, v]) => SWITCHES.includes(k as Switch) && typeof v === 'boolean'),
    );
  } catch {
    return {};
  }
}

const initial: ViewSlice = {
  frame: 0,
  playing: false,
  speed: 1,
  loop: true,
  joints: [],
  parts: [],
  hoverJoint: null,
  list: 'joints',
  mesh: null,
  hoverMesh: null,
  region: null,
  hoverRegion: null,
  strand: null,
  thing: null,
  pick: null,
  solo: [],
  take: null,
  takeBefore: null,
  overlaidTake: null,
  shaking: false,
  shake: null,
  without: null,
  strip: null,
  tint: null,
  larger: 1,
  painting: null,
  brush: BRUSH,
  combing: null,
  comb: COMB,
  frozen: [],
  shakeHow: { takes: 'joint', by: 'move', strength: 6, slip: 1e5, still: false },
  window: null,
  marks: [],
  copiedMarks: null,
  listing: { filter: '', sort: 'order', grouped: false },
  folded: [],
  bracket: null,
  rate: null,
  search: '',
  ghost: true,
  trails: true,
  allTrails: false,
  onion: false,
  showJoints: true,
  points: false,
  showColliders: true,
  contacts: true,
  stretch: false,
  flat: false,
  follow: false,
  waitWhole: false,
  everyFrame: false,
  air: true,
  night: false,
  ...remembered(),
};

export const viewSlice = createSlice({
  name: 'view',
  initialState: initial,
  reducers: {
    entered: (state, { payload }: PayloadAction<{ frame: number; parts: string[]; joints: number[] }>) => {
      Object.assign(state, payload, {
        playing: false,
        hoverJoint: null,
        list: 'joints',
        mesh: null,
        hoverMesh: null,
        region: null,
        hoverRegion: null,
        thing: null,
        pick: null,
        strand: null,
        search: '',
        solo: [],
        window: null,
        marks: [],
        folded: [],
        listing: { filter: '', sort: 'order', grouped: false },
        bracket: null,
        rate: null,
        take: null,
        takeBefore: null,
        overlaidTake: null,
        shaking: false,
        shake: null,
        painting: null,
      });
      endCombing(state);
    },
    frameSet: (state, { payload }: PayloadAction<number>) => {
      state.frame = payload;
    },
    playingSet: (state, { payload }: PayloadAction<boolean>) => {
      state.playing = payload;
      state.rate = null;
      if (!payload) state.frame = Math.round(state.frame);
    },
    speedSet: (state, { payload }: PayloadAction<number>) => {
      state.speed = payload;
    },
    toggled: (state, { payload }: PayloadAction<Switch>) => {
      state[payload] = !state[payload];
      localStorage.setItem(KEY, JSON.stringify(Object.fromEntries(SWITCHES.map((k) => [k, state[k]]))));
    },
    jointsSelected: (state, { payload }: PayloadAction<{ joints: number[]; add?: boolean }>) => {
      // A choice that waits takes the joint, and the selection stays.
      const [joint] = payload.joints;
      if (state.pick && joint !== undefined) state.pick.got = { joint };
      else if (!payload.add) state.joints = payload.joints;
      else
        for (const j of payload.joints)
          state.joints = state.joints.includes(j)
            ? state.joints.filter((k) => k !== j)
            : [...state.joints, j];
    },
    partsSelected: (state, { payload }: PayloadAction<{ parts: string[]; add?: boolean }>) => {
      if (!payload.add) state.parts = payload.parts;
      else
        for (const p of payload.parts)
          state.parts = state.parts.includes(p) ? state.parts.filter((k) => k !== p) : [...state.parts, p];
      // Handles of a chain stay no longer than it is worked on.
      const { thing } = state;
      if (state.painting && !state.parts.includes(state.painting.part)) state.painting = null;
      if (state.combing && !state.parts.includes(state.combing)) endCombing(state);
      if ((thing?.kind === 'pose' || thing?.kind === 'thickness') && !state.parts.includes(thing.id))
        state.thing = null;
    },
    strandSet: (state, { payload }: PayloadAction<Strand | null>) => {
      state.strand = payload as Draft<Strand> | null;
    },
    thingChosen: (state, { payload }: PayloadAction<ViewSlice['thing']>) => {
      state.thing = payload;
    },
    pickSet: (state, { payload }: PayloadAction<ViewSlice['pick']>) => {
      state.pick = payload;
    },
    soloed: (state, { payload }: PayloadAction<string>) => {
      state.solo = state.solo.includes(payload)
        ? state.solo.filter((p) => p !== payload)
        : [...state.solo, payload];
    },
    takeShown: (state, { payload }: PayloadAction<string | null>) => {
      if (payload !== state.take) state.takeBefore = state.take;
      state.take = payload;
    },
    takeOverlaid: (state, { payload }: PayloadAction<string | null>) => {
      state.overlaidTake = payload;
    },
    shakingSet: (state, { payload }: PayloadAction<boolean>) => {
      state.shaking = payload;
    },
    shakeSet: (state, { payload }: PayloadAction<Partial<ShakeHow>>) => {
      Object.assign(state.shakeHow, payload);
    },
    stripSet: (state, { payload }: PayloadAction<Strip | null>) => {
      state.strip = payload;
    },
    withoutSet: (state, { payload }: PayloadAction<number | null>) => {
      state.without = payload;
    },
    largerSet: (state, { payload }: PayloadAction<number>) => {
      state.larger = payload;
    },
    tinted: (state, { payload }: PayloadAction<Tint | null>) => {
      state.tint = payload;
    },
    paintingSet: (state, { payload }: PayloadAction<ViewSlice['painting']>) => {
      state.painting = payload;
      if (!payload) return;
      Object.assign(state, { shaking: false, pick: null, hoverJoint: null });
      endCombing(state);
    },
    combingSet: (state, { payload }: PayloadAction<string | null>) => {
      if (payload === null) return endCombing(state);
      const begun = { combing: payload, frozen: [], playing: false, painting: null };
      Object.assign(state, begun, { frame: Math.round(state.frame), shaking: false, pick: null });
      state.without = state.comb.pose ? null : 1;
    },
    combSet: (state, { payload }: PayloadAction<Partial<CombHow>>) => {
      Object.assign(state.comb, payload);
      if (state.combing && payload.pose !== undefined) state.without = payload.pose ? null : 1;
    },
    frozenSet: (state, { payload }: PayloadAction<number[]>) => {
      state.frozen = payload;
    },
    brushSet: (state, { payload }: PayloadAction<Partial<BrushHow>>) => {
      Object.assign(state.brush, payload);
    },
    shaken: (state, { payload }: PayloadAction<ViewSlice['shake']>) => {
      state.shake = payload as Draft<ViewSlice['shake']>;
    },
    marksChosen: (state, { payload }: PayloadAction<Mark[]>) => {
      state.marks = payload;
    },
    marksCopied: (state, { payload }: PayloadAction<CopiedMarks>) => {
      state.copiedMarks = payload as Draft<CopiedMarks>;
    },
    listed: (state, { payload }: PayloadAction<Partial<LaneListing>>) => {
      state.listing = { ...state.listing, ...payload };
    },
    groupFolded: (state, { payload }: PayloadAction<string>) => {
      state.folded = state.folded.includes(payload)
        ? state.folded.filter((g) => g !== payload)
        : [...state.folded, payload];
    },
    /** Null, or no frames between the ends, plays all. */
    bracketSet: (state, { payload }: PayloadAction<ViewSlice['bracket']>) => {
      state.bracket = payload && payload.to > payload.from ? payload : null;
    },
    rateMeasured: (state, { payload }: PayloadAction<number>) => {
      state.rate = payload;
    },
    windowSet: (state, { payload }: PayloadAction<ViewSlice['window']>) => {
      state.window = payload;
    },
    searched: (state, { payload }: PayloadAction<string>) => {
      state.search = payload;
    },
    listShown: (state, { payload }: PayloadAction<ViewSlice['list']>) => {
      state.list = payload;
    },
    meshChosen: (state, { payload }: PayloadAction<Pick<ViewSlice, 'mesh' | 'region'>>) => {
      Object.assign(state, payload);
    },
    meshHovered: (state, { payload }: PayloadAction<Pick<ViewSlice, 'hoverMesh' | 'hoverRegion'>>) => {
      Object.assign(state, payload);
    },
    hovered: (state, { payload }: PayloadAction<number | null>) => {
      state.hoverJoint = payload;
    },
  },
  extraReducers: (builder) => {
    // A hand on a control works on the present settings, so they are what is shown.
    builder.addCase(shotSlice.actions.previewed, (state) => {
      state.take = null;
    });
    // An edit shows the shot without what was not kept.
    builder.addCase(shotSlice.actions.edited, (state) => {
      state.take = null;
      state.shake = null;
    });
  },
});
