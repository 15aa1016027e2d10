import { useEffect, useRef } from 'react';
import { createPortal } from 'react-dom';
import type { FitCost } from '@oscillum/core/bake';
import type { Frames } from '@oscillum/core/frames';
import type { Shot } from '@oscillum/core/shot';
import { NOTHING } from '../../../sim/picture';
import { PLAIN } from '../../../stage/view';
import { useAppSelector } from '../../../state/store';
import { useDesk } from '../../kit/desk';
import { useHiddenStage } from '../../kit/useHiddenStage';

/** Size of a picture, px. */
const [WIDTH, HEIGHT] = [116, 116];

/** One way to fit, as it is drawn: what it is called, what it costs in words, and how the meshes stand. */
export interface CostPicture {
  readonly name: string;
  /** Each on a line of its own. */
  readonly says: readonly string[];
  /** Null is the cloth as it is simulated. */
  readonly cost: FitCost | null;
  onUse: (() => void) | null;
}

/** The frames with the points of some meshes as they were fitted, on the frame where that is. */
function withShapes(frames: Frames, worst: FitCost['worst'], f: number): Frames {
  const pointed = worst.map(({ node, places }) => ({ node, vertices: places.length / 3 }));
  const wide = pointed.reduce((n, p) => n + p.vertices, 0);
  const points = new Float32Array(3 * wide * frames.count);
  let at = 3 * f * wide;
  for (const { places } of worst) {
    points.set(places, at);
    at += places.length;
  }
  return { ...frames, pointed, points };
}

/** Every way to fit side by side on the stage, each on the frame where it is farthest off. */
export function CostPictures({
  shot,
  pictures,
  onClose,
}: {
  shot: Shot;
  pictures: readonly CostPicture[];
  onClose: () => void;
}) {
  const { simulation, stage } = useDesk();
  const night = useAppSelector((s) => s.view.night);
  const hidden = useHiddenStage(WIDTH, HEIGHT);
  const canvases = useRef(new Map<string, HTMLCanvasElement>());
  const place = stage.current?.host.parentElement;
  useEffect(() => {
    const { frames } = simulation.picture;
    if (!frames || !hidden.current) return;
    // What is as simulated is shown where the way with the fewest numbers is farthest off.
    const time = pictures.find((p) => p.cost)?.cost?.worst[0]?.time ?? 0;
    for (const { name, cost } of pictures) {
      const canvas = canvases.current.get(name);
      const at = Math.round((cost?.worst[0]?.time ?? time) * shot.fps);
      const f = Math.min(frames.count - 1, Math.max(0, at - frames.first));
      const drawn = cost ? withShapes(frames, cost.worst, f) : frames;
      if (!canvas) continue;
      const picture = { ...NOTHING, frames: drawn };
      const view = { shot, picture, frame: frames.first + f, ...PLAIN, night, offered: [] };
      hidden.current.show(view);
      hidden.current.frame('three-quarter');
      hidden.current.still(view, canvas);
    }
  }, [simulation, hidden, pictures, shot, night]);
  if (!place) return null;
  return createPortal(
    <div className="corner">
      <section className="clip-strip float" aria-label="Costs, drawn">
        <span className="brush-row">
          <b>What it would cost</b>
          <span className="muted small">each where it is farthest off; press one to use it</span>
          <button className="mini" onClick={onClose}>
            close
          </button>
        </span>
        <div className="clip-pictures">
          {pictures.map(({ name, says, onUse }) => (
            <button key={name} className="plain" disabled={!onUse} onClick={() => onUse?.()}>
              <canvas
                ref={(c) => void (c ? canvases.current.set(name, c) : canvases.current.delete(name))}
                style={{ width: WIDTH, height: HEIGHT }}
              />
              <b>{name}</b>
              {says.map((line) => (
                <span key={line} className="muted small">
                  {line}
                </span>
              ))}
            </button>
          ))}
        </div>
      </section>
    </div>,
    place,
  );
}
