import { createHash } from 'node:crypto';
import { PartId } from '@oscillum/core/model';
import { makeChainPart, type ChainSettings } from '@oscillum/core/chain';
import { editShot, makeShot, type Shot } from '@oscillum/core/shot';
import { readGltf } from '@oscillum/core/gltf';
import { brindleRig } from './brindle';
import { brindleMeshes } from './brindleMeshes';
export { benchFile } from './bench';
import { brindleClips } from './clips';
import { toGlb } from './glb';
import { withGusts, withPoncho } from './ponchoShots';
import { withSoftness } from './softShots';
import { balloonMesh } from './balloons';
import { withDown } from './downShot';
import { hoistClips, hoistMeshes, hoistRig } from './hoist';
import { withCords } from './hoistShot';
import { parcelClips, parcelMeshes, parcelRig } from './parcel';
import { mailClips, mailMeshes, mailRig } from './mail';
import { withBalloons, withJelly, withMail } from './postShots';
import { lanternClips, lanternMeshes, lanternRig } from './lantern';

export async function brindleGlb(): Promise<Uint8Array<ArrayBuffer>> {
  const rig = brindleRig();
  return toGlb('Brindle', rig, brindleMeshes(rig), brindleClips(rig));
}

export { goatGlb } from './goat';
export { CORD, DRUM, HOIST_AXLES } from './hoist';

export async function lanternGlb(): Promise<Uint8Array<ArrayBuffer>> {
  const rig = lanternRig();
  return toGlb('Lantern', rig, lanternMeshes(rig), lanternClips());
}

export async function parcelGlb(): Promise<Uint8Array<ArrayBuffer>> {
  const rig = parcelRig();
  return toGlb('Parcel', rig, parcelMeshes(rig), parcelClips());
}

export async function mailGlb(): Promise<Uint8Array<ArrayBuffer>> {
  const rig = mailRig();
  return toGlb('Mail', rig, mailMeshes(rig), mailClips());
}

export async function hoistGlb(): Promise<Uint8Array<ArrayBuffer>> {
  const rig = hoistRig();
  return toGlb('Hoist', rig, hoistMeshes(rig), hoistClips());
}

/** Brindle with post balloons on her wing. */
export async function balloonsGlb(): Promise<Uint8Array<ArrayBuffer>> {
  const rig = brindleRig();
  return toGlb('Brindle', rig, [...brindleMeshes(rig), balloonMesh(rig)], brindleClips(rig));
}

export interface DemoFile {
  fileName: string;
  bytes: Uint8Array<ArrayBuffer>;
  shots: Shot[];
}

/** Quick turns of the head would fling a limp lappet over the crown. */
const LOOKOUT_LAPPET = { hold: 1.4, bend: 1.8, damping: 0.35, gravity: 0.8, turn: 60 };

/** The demo characters with the shots that are seeded for them. */
export async function demoFiles(): Promise<DemoFile[]> {
  const brindle = await brindleGlb();
  const lantern = await lanternGlb();
  const parcel = await parcelGlb();
  const balloons = await balloonsGlb();
  const mail = await mailGlb();
  const hoist = await hoistGlb();
  return [
    {
      fileName: 'brindle.glb',
      bytes: brindle,
      shots: [
        demoShot('Brindle, Stride away', 'brindle.glb', brindle, 'Stride away', [
          ['Plume, middle', 'plume middle', 7, { hold: 0.7, bend: 0.9, damping: 0.18, gravity: 0.2 }],
          ['Plume, left', 'plume left', 7, { hold: 0.8, bend: 1, damping: 0.18, gravity: 0.2 }],
          ['Plume, right', 'plume right', 7, { hold: 0.8, bend: 1, damping: 0.18, gravity: 0.2 }],
          ['Crest', 'crest front', 4, { hold: 1.6, bend: 2.4, damping: 0.16, gravity: 0.2 }],
          ['Lappet, left', 'lappet left', 4, { hold: 0.4, bend: 1.2, damping: 0.2, gravity: 1 }],
          ['Lappet, right', 'lappet right', 4, { hold: 0.4, bend: 1.2, damping: 0.2, gravity: 1 }],
        ]),
        demoShot('Brindle, Lookout', 'brindle.glb', brindle, 'Lookout', [
          ['Crest, front', 'crest front', 4, { hold: 2.4, bend: 4, damping: 0.22, gravity: 0.3 }],
          ['Crest, left', 'crest left', 4, { hold: 2.4, bend: 4, damping: 0.22, gravity: 0.3 }],
          ['Crest, right', 'crest right', 4, { hold: 2.4, bend: 4, damping: 0.22, gravity: 0.3 }],
          ['Lappet, left', 'lappet left', 4, LOOKOUT_LAPPET],
          ['Lappet, right', 'lappet right', 4, LOOKOUT_LAPPET],
        ]),
        withPoncho(demoShot('Brindle, Walk in a poncho', 'brindle.glb', brindle, 'Stride away', []), brindle),
        withGusts(
          withPoncho(demoShot('Brindle, Leap in the wind', 'brindle.glb', brindle, 'Leap', []), brindle),
        ),
        withSoftness(demoShot('Brindle, Leap, well fed', 'brindle.glb', brindle, 'Leap', []), brindle),
      ],
    },
    {
      fileName: 'lantern.glb',
      bytes: lantern,
      shots: [demoShot('Lantern, first try', 'lantern.glb', lantern, 'Swing round', [])],
    },
    {
      fileName: 'parcel.glb',
      bytes: parcel,
      shots: [withJelly(demoShot('Parcel, Bounce', 'parcel.glb', parcel, 'Bounce', []), parcel)],
    },
    {
      fileName: 'brindle-balloons.glb',
      bytes: balloons,
      shots: [
        withBalloons(
          demoShot('Brindle, Stride with balloons', 'brindle-balloons.glb', balloons, 'Stride', []),
          balloons,
        ),
      ],
    },
    {
      fileName: 'mail.glb',
      bytes: mail,
      shots: [withMail(demoShot('Mailbag, Swelling parcels', 'mail.glb', mail, 'Fill the bag', []), mail)],
    },
    // Shots are numbered in their order: what is new comes last.
    {
      fileName: 'brindle.glb',
      bytes: brindle,
      shots: [withDown(demoShot('Brindle, Lookout in down', 'brindle.glb', brindle, 'Lookout', []), brindle)],
    },
    {
      fileName: 'hoist.glb',
      bytes: hoist,
      shots: [withCords(demoShot('Mail hoist, Four turns', 'hoist.glb', hoist, 'Hoist', []), hoist)],
    },
  ];
}

type DemoChain = readonly [name: string, row: string, joints: number, settings: Partial<ChainSettings>];

function demoShot(
  name: string,
  fileName: string,
  bytes: Uint8Array,
  clipName: string,
  chains: readonly DemoChain[],
): Shot {
  const character = readGltf(bytes, fileName, {}, { skeletonOnly: true });
  const index = character.clips.findIndex((c) => c.name === clipName);
  const clip = character.clips[index]!;
  const shot = makeShot({
    name,
    hash: createHash('sha256').update(bytes).digest('hex'),
    fileName,
    clip: { index, name: clip.name, duration: clip.duration },
  });
  return editShot(shot, 'demo-seed', 'Make chains', (d) => {
    chains.forEach(([partName, row, joints, settings], order) => {
      const id = PartId.parse(`part${order + 1}`);
      d.parts[id] = makeChainPart({
        id,
        name: partName,
        order,
        joints: Array.from({ length: joints }, (_, i) => ({
          node: character.nodes.findIndex((n) => n.name === `${row} ${i + 1}`),
          name: `${row} ${i + 1}`,
        })),
        settings: { thickness: 0.008, ...settings },
      });
    });
  }).shot;
}
