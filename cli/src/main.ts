import { parseArgs } from 'node:util';
import {
  diagnose,
  loopGap,
  measureShot,
  partFeel,
  peakAcceleration,
  roughness,
} from '@oscillum/core/measure';
import { clipOf, loopTrouble, misnamed, simulateAll, type TrackCache } from '@oscillum/core/simulate';
import { guessFps, questionUnit, rigSize, type Character } from '@oscillum/core/character';
import { readContainer } from '@oscillum/core/gltf';
import { lengthText, OscillumError } from '@oscillum/core/model';
import { printTruth } from '@oscillum/core/truth';
import { bake } from './bake';
import { checkSame, open, readShot, UsageError } from './common';
import { apply, presets } from './apply';
import { check, convert, thin } from './files';

const HELP = `oscillum: simulate and bake without the application or a database.

  Clips are given by number or by name. A .gltf is read with the files beside it.

  oscillum inspect FILE [--json]
      Joints, skins, clips and what was found or repaired in a .glb, .gltf or .zip.

  oscillum bake SHOT… --character FILE --out FILE.glb|.bvh|.usda|.csv|.json|FOLDER
      [--clips all|CLIP,CLIP…] [--frames A..B] [--step N] [--lead] [--into new|replace|offset] [--name NAME]
      [--thin cubic|linear|no] [--degrees 0.5] [--millimetres 5] [--format glb,bvh,usda,csv,json,points.usda,points.csv,cards.glb,hair.glb]
      [--pack meshopt|draco] [--jobs N] [--json] [--force]
      Writes baked files: as GLB the same bytes the application gives. SHOT is a shot saved from the application, a
      folder of them or a pattern; --clips bakes the set-up on other clips too ({clip} in NAME is the name of each);
      several shots go into a folder, --jobs of them at a time.
      [--vertices morphs|joints] [--shapes 64] [--within 1] [--largest] [--sparse] [--helpers 24] [--under JOINT]
      What cloth and soft parts become: at most so many morph targets, the fewest that leave no more than --within
      mm (RMS, or of the farthest vertex with --largest), with no room for vertices they leave alone where --sparse;
      or helper joints that hang from a joint.
      points.usda and points.csv hold every point on every frame; cards.glb holds hair as strips on joints,
      hair.glb the character with joints and strips for her hair.

  oscillum thin FILE --out FILE.glb [--clip CLIP] [--kind cubic|linear] [--degrees 0.5] [--share 0.0005] [--json]
      Fewest keys within a tolerance, for one clip of a file or all.

  oscillum convert FILE --out FILE.glb|.bvh|.usda|.csv|.json [--clip CLIP] [--fps N] [--unit METRES] [--from METRES] [--up Y|Z] [--json]
      The motion of a clip in another format; from .glb, .gltf, .zip, .bvh or .usda. --from says what a unit of FILE is;
      a BVH file does not say, so it is taken from its size.

  oscillum check A B [--clip CLIP] [--clip-b CLIP] [--fps N] [--within SHARE] [--degrees D] [--json]
      Largest differences between two files' motion in places, turns and scales, by joints of like names. Exit code 1
      when one is more than --within (a share of the rig's size, 0.0001), --degrees (0.1) or a thousandth of a scale.

  oscillum apply PRESET|SHOT --character FILE --out SHOT.json
      [--clip CLIP] [--frames A..B] [--fps N] [--unit METRES] [--loop] [--joints NAME,NAME…] [--json]
      A shot for another character: the parts of a shot on joints of like names, or a preset (a file, or a name of
      "oscillum presets") on every row of joints that only rides along, or on the rows that begin at --joints.

  oscillum presets [--json]
      Names of the presets, and what they are for.

  oscillum apply MOTION.bvh|.usda --character FILE --out FILE.glb [--json]
      A copy of the character with that motion as one clip more: joints of like names, rest poses aligned.

  oscillum measure SHOT.json --character FILE [--json] [--force]
      Simulates a shot and prints lag, overshoot, settle and more for each chain, and what is wrong with its cure.

  oscillum truth [--json]
      Prints the truth table of the simulation.

Exit codes: 0 done, 1 the file or shot cannot be used, 2 the command was not understood.
`;

/** Runs a command; returns its exit code. Results go to stdout, messages to stderr. */
export async function main(args: readonly string[]): Promise<number> {
  const [command, ...rest] = args;
  try {
    const asksHelp = ['help', '--help', '-h'];
    if (
      command === undefined ||
      asksHelp.includes(command) ||
      rest.some((a) => asksHelp.slice(1).includes(a))
    ) {
      process.stdout.write(HELP);
      return command === undefined ? 2 : 0;
    }
    if (command === 'inspect') return await inspect(rest);
    if (command === 'bake') return await bake(rest);
    if (command === 'thin') return await thin(rest);
    if (command === 'convert') return await convert(rest);
    if (command === 'check') return await check(rest);
    if (command === 'apply') return await apply(rest);
    if (command === 'presets') return presets(rest);
    if (command === 'measure') return await measure(rest);
    if (command === 'truth') return await printTruth(rest.includes('--json'));
    throw new UsageError(`There is no command ${command}.`);
  } catch (e) {
    if (e instanceof OscillumError) {
      console.error(e.sentence);
      return 1;
    }
    if (
      e instanceof UsageError ||
      (e instanceof TypeError && 'code' in e && String(e.code).startsWith('ERR_PARSE_ARGS'))
    ) {
      console.error(`${e.message}\nSee: npx oscillum help`);
      return 2;
    }
    if (e instanceof Error && 'code' in e && 'path' in e) {
      const says: Record<string, string> = {
        ENOENT: 'is not there',
        EACCES: 'may not be read or written',
        EISDIR: 'is a folder',
        ENOSPC: 'does not fit: the disk is full',
      };
      console.error(
        `${String(e.path)} ${says[String(e.code)] ?? `cannot be used (${String(e.code)})`}. Check the path and try again.`,
      );
      return 1;
    }
    // The last resort: what, and where, and never a stack.
    console.error(
      [
        `Something went wrong in “oscillum ${args.join(' ').slice(0, 200)}”:`,
        `${e instanceof Error ? e.message : String(e)}.`,
        'Nothing was written. Please report this with the file.',
      ].join(' '),
    );
    return 1;
  }
}

/** A rig whose size makes no sense in metres. */
function unitWarning(c: Character): string[] {
  const likely = questionUnit(rigSize(c), 1);
  return likely
    ? [
        `The rig would be ${lengthText(rigSize(c))} across: one unit of the file is probably ${likely.name} (--unit ${likely.metres}).`,
      ]
    : [];
}

async function inspect(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: { json: { type: 'boolean' } },
    allowPositionals: true,
  });
  if (positionals.length !== 1) throw new UsageError('inspect takes one file.');
  const { container, decoders } = await open(positionals[0]!);
  const c = readContainer(container, decoders);
  const isJoint = new Set(c.joints);
  const jointParent = (joint: number): number => {
    const { parent } = c.nodes[joint]!;
    return isJoint.has(parent) ? parent : -1;
  };
  const clips = c.clips.map((k) => {
    const fps = guessFps(k);
    return {
      name: k.name,
      seconds: k.duration,
      fps,
      frames: Math.floor(k.duration * fps + 1e-3) + 1,
      channels: k.channels.length,
    };
  });
  const report = {
    file: positionals[0],
    joints: Array.from(c.joints, (j) => ({ node: j, name: c.nodes[j]!.name, parent: jointParent(j) })),
    skins: c.skins.map((s) => ({ name: s.name, joints: s.joints.length })),
    meshes: c.meshes.map((m) => ({
      name: m.name,
      vertices: m.primitives.reduce((n, p) => n + p.positions.length / 3, 0),
    })),
    clips,
    size: rigSize(c),
    notes: c.notes,
    warnings: [...c.notes.filter((n) => n.kind === 'warning').map((n) => n.text), ...unitWarning(c)],
  };
  if (values.json) {
    process.stdout.write(JSON.stringify(report, null, 1) + '\n');
    return 0;
  }
  const depths = new Map<number, number>();
  for (const n of c.order) depths.set(n, isJoint.has(n) ? 1 + (depths.get(jointParent(n)) ?? -1) : 0);
  const lines = [
    [
      `${report.file}: ${report.joints.length} joints, ${report.skins.length} skins, ${report.meshes.length} meshes`,
      `${clips.length} clips, rig ${report.size.toPrecision(4)} units across`,
    ].join(', '),
    '',
    ...report.joints.map(
      (j) => `${String(j.node).padStart(5)}  ${'  '.repeat(Math.min(20, depths.get(j.node)!))}${j.name}`,
    ),
    '',
    ...clips.map(
      (k, i) => `clip ${i}  ${k.name}: ${k.frames} frames at ${k.fps} fps, ${k.seconds.toFixed(3)} s`,
    ),
    ...c.notes.map((n) => `${n.kind}: ${n.text}`),
    ...unitWarning(c).map((w) => `warning: ${w}`),
  ];
  process.stdout.write(lines.join('\n') + '\n');
  return 0;
}

async function measure(args: string[]): Promise<number> {
  const { values, positionals } = parseArgs({
    args,
    options: { json: { type: 'boolean' }, character: { type: 'string' }, force: { type: 'boolean' } },
    allowPositionals: true,
  });
  if (positionals.length !== 1 || !values.character)
    throw new UsageError('measure takes a shot and --character FILE.');
  const shot = await readShot(positionals[0]!);
  await checkSame(shot, values.character, values.force ?? false);
  const { container, decoders } = await open(values.character);
  const character = readContainer(container, decoders);
  const warnings = misnamed(character, shot);
  const cache: TrackCache = {};
  const frames = simulateAll(character, shot, cache);
  const { track } = cache.entry!;
  const most = (list: ArrayLike<number>, chain: number) => {
    let x = 0;
    for (let f = 0; f < frames.count; f++) x = Math.max(x, list[f * frames.parts.length + chain]!);
    return x;
  };
  const parts = frames.parts.map(({ partId }, chain) => {
    const { lag, overshoot, settle } = partFeel(shot, track, chain);
    return {
      part: partId,
      name: shot.parts[partId]!.name,
      lag,
      overshoot,
      settle,
      offSourceDegrees: most(frames.offSource, chain),
      tipMetres: most(frames.tipOffSource, chain),
      stretch: most(frames.stretch, chain),
      contacts: most(frames.contacts, chain),
      depthMetres: most(frames.depth, chain),
      slipMetresPerSecond: most(frames.slip, chain),
      peakAcceleration: peakAcceleration(frames, chain, shot.fps),
      roughness: roughness(frames, chain, shot.fps, shot.fps / 4),
      shot: measureShot(shot, frames, track, chain),
    };
  });
  const trouble = loopTrouble(character, clipOf(character, shot), shot, frames.start);
  if (trouble) warnings.push(trouble);
  const report = {
    start: frames.start,
    loopGapRadians: loopGap(frames),
    parts,
    diagnoses: diagnose(character, shot, frames, track),
    warnings,
  };
  if (values.json) {
    process.stdout.write(JSON.stringify(report, null, 1) + '\n');
    return 0;
  }
  const said = (v: number, digits: number, unit: string) =>
    Number.isFinite(v) ? `${v.toFixed(digits)} ${unit}` : 'never';
  const lines = parts.map((p) =>
    [
      `${p.name}: lag ${said(p.lag, 1, 'frames')}, overshoot ${said(p.overshoot, 0, '%')}`,
      `, settle ${said(p.settle, 0, 'frames')}; off source ${p.offSourceDegrees.toFixed(1)}°`,
      `, tip ${p.tipMetres.toFixed(3)} m, ${p.contacts} contacts at most`,
    ].join(''),
  );
  for (const w of warnings) console.error(`warning: ${w}`);
  for (const d of report.diagnoses) lines.push(`  ${d.sentence} Remedy: ${d.remedy.says}.`);
  process.stdout.write(lines.join('\n') + '\n');
  return 0;
}
