import { get, set } from 'idb-keyval';
import { useEffect, useState } from 'react';
import type { ShotSummary } from '@oscillum/core/contract';
import { call } from '../../../api/http';
import { Simulation } from '../../../sim/simulation';
import { Stage } from '../../../stage/stage';
import { PLAIN } from '../../../stage/view';

/** Pictures to draw, the latest asked for last. */
const waiting: (() => Promise<void>)[] = [];
let drawing = false;

/** One picture at a time, so that a long library does not crowd out the page; the one asked for last comes first. */
async function drawWaiting(): Promise<void> {
  if (drawing) return;
  drawing = true;
  for (let next = waiting.pop(); next; next = waiting.pop()) await next();
  drawing = false;
}

/** A picture as it is kept in the browser: one a shot, of its latest revision. */
interface Kept {
  revision: number;
  url: string;
}

/** A drawn picture of a shot at the middle of its range. */
export function useThumbnail({ id, revision }: ShotSummary): string | null {
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    let gone = false;
    const key = `thumbnail:${id}`;
    const work = async () => {
      if (gone) return;
      const made = await draw(id).catch(() => null);
      if (made) await set(key, { revision, url: made } satisfies Kept).catch(() => undefined);
      if (!gone && made) setUrl(made);
    };
    void get<Kept>(key)
      .catch(() => undefined)
      .then((kept) => {
        if (gone) return;
        if (kept?.revision === revision) return setUrl(kept.url);
        waiting.push(work);
        void drawWaiting();
      });
    return () => {
      gone = true;
    };
  }, [id, revision]);
  return url;
}

async function draw(id: string): Promise<string> {
  const { shot } = await call('getShot', { params: { id } });
  const file = await call('downloadCharacter', { params: { hash: shot.character.hash } });
  const simulation = new Simulation(1);
  const host = document.createElement('div');
  host.style.cssText = 'position:fixed;left:-2000px;top:0;width:380px;height:240px';
  document.body.append(host);
  let stage: Stage | null = null;
  try {
    const { first, last } = shot.range;
    const middle = Math.round((first + last) / 2);
    // What comes after the middle is not looked at.
    const half = { ...shot, loop: false, range: { first, last: Math.max(first + 1, middle) } };
    const character = await simulation.open(await file.arrayBuffer(), shot.character.fileName);
    await new Promise<void>((resolve) => {
      const stop = simulation.subscribe(() => {
        if (simulation.picture.running) return;
        stop();
        resolve();
      });
      simulation.simulate(half);
    });
    stage = new Stage(host);
    stage.setCharacter(character);
    stage.show({
      shot: half,
      picture: simulation.picture,
      frame: middle,
      ...PLAIN,
      offered: [],
    });
    return stage.picture();
  } finally {
    simulation.close();
    stage?.dispose();
    host.remove();
  }
}
