import { useEffect, useMemo, useRef, useState } from 'react';
import type { BakedClip } from '@oscillum/core/gltf';
import type { Shot } from '@oscillum/core/shot';
import { WorkError } from '../../sim/asks';
import { bakeable, unmuted } from '../../state/baking';
import { useDesk } from '../kit/desk';

type Baked =
  | { at: 'baking' }
  | { at: 'baked'; shot: Shot; clip: BakedClip; every: BakedClip | null; key: string }
  | { at: 'failed'; sentence: string };

/** The shot's bake as curves, baked again whenever what it depends on changes; the last one stands meanwhile. */
export function useBaked(shot: Shot, wanted = true): Baked & { readonly stale: boolean } {
  const { simulation } = useDesk();
  const [baked, setBaked] = useState<Baked>({ at: 'baking' });
  // Refinements, takes and the name change nothing in it.
  const key = useMemo(() => JSON.stringify({ ...shot, name: '', takes: {}, refine: null }), [shot]);
  const latest = useRef(shot);
  useEffect(() => void (latest.current = shot));
  useEffect(() => {
    if (!wanted) return;
    const waiting = new AbortController();
    const asked = latest.current;
    const whole = unmuted(
      asked,
      bakeable(asked).map((p) => p.id),
    );
    simulation
      .bakeCurves(whole, waiting.signal)
      .then(
        ({ clip, every }) =>
          !waiting.signal.aborted && setBaked({ at: 'baked', shot: whole, clip, every, key }),
      )
      .catch((e: unknown) => {
        if (waiting.signal.aborted) return;
        if (!(e instanceof WorkError)) throw e;
        setBaked({ at: 'failed', sentence: e.trouble.sentence });
      });
    // Nobody waits for it any more once the shot is another.
    return () => waiting.abort();
  }, [key, simulation, wanted]);
  return { ...baked, stale: baked.at === 'baked' && baked.key !== key };
}
