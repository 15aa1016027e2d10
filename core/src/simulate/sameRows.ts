import { kindOf, type SourceTrack } from '../parts/index';
import type { Part, Shot } from '../shot/index';
import { moving, sourceKey } from './track';

const said = (p: Part): string => JSON.stringify([p.kind, kindOf(p).sampled(p)]);

/** What changes the source of all parts, beside the clip. */
function driven(shot: Shot): string {
  const parts = moving(shot);
  const drivers = parts.flatMap((p) => (kindOf(p).drive ? [said(p)] : []));
  return JSON.stringify([drivers, shot.clip?.baked ? parts.map((p) => p.id) : null]);
}

/**
 * Parts, by id, whose rows are the same in the tracks of two shots: those follow the same source, and the same of
 * themselves is sampled. What another part of the shot is sampled by changes nothing for them.
 */
export function sameRows(
  a: { readonly asked: Shot; readonly track: SourceTrack },
  b: { readonly asked: Shot; readonly track: SourceTrack },
): ReadonlySet<string> {
  if (a.track === b.track) return new Set(moving(b.asked).map((p) => p.id));
  const key = ({ asked, track }: typeof a) =>
    JSON.stringify([
      sourceKey(asked),
      track.loop && [track.loop.period, ...track.loop.travel],
      driven(asked),
    ]);
  if (key(a) !== key(b)) return new Set();
  const before = new Map(moving(a.asked).map((p) => [p.id as string, said(p)]));
  return new Set(moving(b.asked).flatMap((p) => (before.get(p.id) === said(p) ? [p.id] : [])));
}
