import { zipSync } from 'fflate';
import type { FilmRequest } from '@oscillum/core/contract';
import type { Shot } from '@oscillum/core/shot';
import type { Picture } from '../../../sim/picture';
import type { ViewSlice } from '../../../state/view';
import { viewed } from '../../desk/StageView';
import type { StageView } from '../../../stage/view';
import type { Stage } from '../../../stage/stage';
import type { Side } from '../../../stage/cameras';

/** A film, pictures, a contact sheet of frames, or an animated one of four views. */
export type FilmKind = FilmRequest['kind'];

interface FilmPlan {
  readonly kind: FilmKind;
  readonly first: number;
  readonly last: number;
  readonly fps: number;
  /** Whether each picture says its frame. */
  readonly numbers: boolean;
  readonly name: string;
}

interface Film {
  readonly name: string;
  readonly type: string;
  readonly bytes: Uint8Array<ArrayBuffer>;
}

/** What a film of a shot is of: the whole range at its rate. */
export const filmPlan = (shot: Shot, kind: FilmKind, numbers: boolean): FilmPlan => ({
  ...{ kind, numbers, first: shot.range.first, last: shot.range.last, fps: shot.fps },
  name: shot.name.replace(/[^\w .,-]/g, '').trim() || 'film',
});

/** What is drawn of it: as on the stage, without what is only for the hand. */
export const filmView = (view: ViewSlice, shot: Shot, picture: Picture): Omit<StageView, 'frame'> => ({
  ...viewed(view),
  ...{ shot, picture, overlay: null, offered: [] },
  ...{
    thing: null,
    strand: null,
    selectedJoints: [],
    hoverJoint: null,
    tint: null,
    without: null,
    litMesh: null,
  },
});

/** Bits a second of a film: drawn pictures are flat, so this is plenty. */
const BITRATE = 8e6;
/** Cells of a contact sheet at most, and across. */
const CELLS = 24;
const ACROSS = 6;
const CELL_WIDTH = 320;
/** VP9, profile 0, level 4.1, 8 bits: what every browser with the encoder takes up to 1920×1080. */
const CODEC = 'vp09.00.41.08';

/**
 * Draws frames first..last of a view one after another and puts them together: a WebM film at the shot's rate (by the
 * browser's encoder, so at true speed however long the drawing takes), a zip of PNG pictures, or one picture of up to
 * 24 frames. `progress` is told the share done and returns whether to go on; null when it did not. Throws when the
 * browser cannot encode.
 */
export async function makeFilm(
  stage: Stage,
  view: Omit<StageView, 'frame'>,
  plan: FilmPlan,
  progress: (share: number) => boolean,
): Promise<Film | null> {
  const canvas = document.createElement('canvas');
  const draw = (frame: number) => {
    stage.still({ ...view, frame }, canvas);
    if (plan.numbers) number(canvas, frame);
  };
  const count = plan.last - plan.first + 1;
  /** Lets the page answer between pictures. */
  const look = async (done: number, of: number) => {
    await new Promise((r) => setTimeout(r));
    return progress(done / of);
  };
  if (plan.kind === 'sheet') {
    const cells = Math.min(CELLS, count);
    draw(plan.first);
    const height = Math.round((CELL_WIDTH * canvas.height) / canvas.width);
    const sheet = document.createElement('canvas');
    sheet.width = CELL_WIDTH * Math.min(ACROSS, cells);
    sheet.height = height * Math.ceil(cells / ACROSS);
    const g = sheet.getContext('2d')!;
    for (let k = 0; k < cells; k++) {
      draw(plan.first + Math.round((k * (count - 1)) / Math.max(1, cells - 1)));
      g.drawImage(canvas, CELL_WIDTH * (k % ACROSS), height * Math.floor(k / ACROSS), CELL_WIDTH, height);
      if (!(await look(k + 1, cells))) return null;
    }
    return { name: `${plan.name}.png`, type: 'image/png', bytes: await png(sheet) };
  }
  if (plan.kind === 'png') {
    const files: Record<string, Uint8Array> = {};
    for (let f = plan.first; f <= plan.last; f++) {
      draw(f);
      files[`${plan.name}.${String(f).padStart(4, '0')}.png`] = await png(canvas);
      if (!(await look(f - plan.first + 1, count))) return null;
    }
    // Pictures are packed already.
    const bytes = zipSync(files, { level: 0 }) as Uint8Array<ArrayBuffer>;
    return { name: `${plan.name}.zip`, type: 'application/zip', bytes };
  }
  if (plan.kind === 'four') return four(stage, view, plan, look);
  draw(plan.first);
  return encode(canvas, draw, plan, look);
}

/** The views of an animated contact sheet. */
const VIEWS: readonly Side[] = ['side', 'front', 'three-quarter', 'top'];

/** All views side by side, as a film. The camera goes back to where it was. */
async function four(
  stage: Stage,
  view: Omit<StageView, 'frame'>,
  plan: FilmPlan,
  look: (done: number, of: number) => Promise<boolean>,
): Promise<Film | null> {
  const before = stage.place();
  const cameras = VIEWS.map((side) => {
    stage.frame(side);
    return stage.place();
  });
  const one = document.createElement('canvas');
  const sheet = document.createElement('canvas');
  const draw = (frame: number) => {
    cameras.forEach((camera, k) => {
      stage.lookFrom(camera);
      stage.still({ ...view, frame }, one);
      if (k === 0 && (sheet.width !== one.width || sheet.height !== one.height))
        Object.assign(sheet, { width: one.width, height: one.height });
      const [w, h] = [one.width / 2, one.height / 2];
      sheet.getContext('2d')!.drawImage(one, w * (k % 2), h * Math.floor(k / 2), w, h);
    });
    if (plan.numbers) number(sheet, frame);
  };
  try {
    draw(plan.first);
    return await encode(sheet, draw, plan, look);
  } finally {
    stage.lookFrom(before);
  }
}

async function encode(
  canvas: HTMLCanvasElement,
  draw: (frame: number) => void,
  plan: FilmPlan,
  look: (done: number, of: number) => Promise<boolean>,
): Promise<Film | null> {
  const { width, height } = canvas;
  const config = { codec: CODEC, width, height, bitrate: BITRATE, framerate: plan.fps };
  const fine =
    typeof VideoEncoder !== 'undefined' && (await VideoEncoder.isConfigSupported(config)).supported === true;
  if (!fine)
    throw new Error('This browser cannot encode a film of this size. Take PNG pictures, or another browser.');
  const { BufferTarget, EncodedPacket, EncodedVideoPacketSource, Output, WebMOutputFormat } =
    await import('mediabunny');
  const target = new BufferTarget();
  const output = new Output({ format: new WebMOutputFormat(), target });
  const source = new EncodedVideoPacketSource('vp9');
  output.addVideoTrack(source, { frameRate: plan.fps });
  let failed: unknown = null;
  const fail = (e: unknown): void => void (failed ??= e);
  /** Packets go into the file one after another. */
  let written = output.start();
  const encoder = new VideoEncoder({
    output: (chunk, meta) => {
      written = written.then(() => source.add(EncodedPacket.fromEncodedChunk(chunk), meta)).catch(fail);
    },
    error: fail,
  });
  try {
    encoder.configure(config);
    const count = plan.last - plan.first + 1;
    for (let f = plan.first; f <= plan.last; f++) {
      draw(f);
      const picture = new VideoFrame(canvas, {
        timestamp: Math.round(((f - plan.first) * 1e6) / plan.fps),
        duration: Math.round(1e6 / plan.fps),
      });
      // A key picture a second, so that it can be scrubbed.
      encoder.encode(picture, { keyFrame: (f - plan.first) % Math.round(plan.fps) === 0 });
      picture.close();
      if (failed) throw failed;
      if (!(await look(f - plan.first + 1, count))) return null;
    }
    await encoder.flush();
    await written;
    if (failed) throw failed;
    await output.finalize();
    return { name: `${plan.name}.webm`, type: 'video/webm', bytes: new Uint8Array(target.buffer!) };
  } finally {
    if (encoder.state !== 'closed') encoder.close();
  }
}

function number(canvas: HTMLCanvasElement, frame: number): void {
  const g = canvas.getContext('2d')!;
  const size = Math.max(12, Math.round(canvas.height / 28));
  g.font = `600 ${size}px "Atkinson Hyperlegible Next Variable", sans-serif`;
  g.textBaseline = 'bottom';
  g.fillStyle = getComputedStyle(document.documentElement).getPropertyValue('--ink') || '#23263a';
  g.fillText(String(frame), size / 2, canvas.height - size / 2);
}

async function png(canvas: HTMLCanvasElement): Promise<Uint8Array<ArrayBuffer>> {
  const blob = await new Promise<Blob | null>((r) => canvas.toBlob(r, 'image/png'));
  if (!blob)
    throw new Error('The picture could not be made: the browser is out of memory. Make the stage smaller.');
  return new Uint8Array(await blob.arrayBuffer());
}
