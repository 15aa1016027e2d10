import { useEffect, useRef, useState } from 'react';
import { useParams } from 'react-router';
import { Vector3 } from 'three';
import type { JobRequest } from '@oscillum/core/contract';
import { call } from '../../../api/http';
import { Simulation } from '../../../sim/simulation';
import { Stage } from '../../../stage/stage';
import { store } from '../../../state/store';
import { sentenceOfAny } from '../../kit/say';
import { movingPicture } from '../../desk/picture';
import { filmPlan, filmView, makeFilm } from './film';
import { saveFile } from '../../kit/saveFile';

type Film = Extract<JobRequest, { film: unknown }>;

/**
 * The film of a job, drawn by a worker's own browser: the page's body says how far it is (`data-film`, 0..1) and what
 * went wrong (`data-film-trouble`); the film comes as a download.
 */
export function FilmRoom() {
  const { id = '' } = useParams();
  const host = useRef<HTMLDivElement>(null);
  const begun = useRef(false);
  const [says, setSays] = useState('Drawing the film…');
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    const { dataset } = document.body;
    draw(id, host.current!, (share) => (dataset.film = String(share)))
      .then(() => setSays('The film is made.'))
      .catch((e: unknown) => setSays((dataset.filmTrouble = sentenceOfAny(e))));
  }, [id]);
  return (
    <main>
      <p role="status">{says}</p>
      <div ref={host} style={{ position: 'relative' }} />
    </main>
  );
}

async function draw(id: string, host: HTMLElement, told: (share: number) => void): Promise<void> {
  const request = await call('getJobRequest', { params: { id } });
  if (!('film' in request)) throw new Error('This job is no film.');
  const { shot, film }: Film = request;
  Object.assign(host.style, { width: `${film.size.width}px`, height: `${film.size.height}px` });
  const simulation = new Simulation();
  const answer = await call('downloadCharacter', { params: { hash: shot.character.hash } });
  const character = await simulation.open(await answer.arrayBuffer(), shot.character.fileName);
  const picture = await movingPicture(simulation, character, shot);
  const stage = new Stage(host);
  stage.setCharacter(character);
  const { target, at, zoom } = film.camera;
  const view = filmView({ ...store.getState().view, ...film.shown }, shot, picture);
  stage.show({ ...view, frame: shot.range.first });
  stage.lookFrom({ target: new Vector3(...target), at: new Vector3(...at), zoom });
  const made = await makeFilm(stage, view, filmPlan(shot, film.kind, film.numbers), (share) => {
    told(share);
    return true;
  });
  if (made) saveFile(made.bytes, made.name, made.type);
}
