import { makeSwirl, sin, smoothNoise } from '../math/index';
import { inOrder, makeValueCurve, makeValueIntegral, type Force } from '../model/index';
import type { Shot } from '../shot/index';
import type { PartForces } from '../parts/index';
import type { Field } from '../solver/index';

/**
 * One force: set to a frame, then asked what it adds at a place (air speed, m/s, from 0; acceleration, m/s², from 3).
 */
interface Source {
  at(frame: number): void;
  add: Field;
}

const swirled = new Float64Array(3);

/** Wind: one speed everywhere, gusts in time, and swirls that travel with it. */
function makeWind(force: Extract<Force, { kind: 'wind' }>, fps: number): Source {
  const [dx, dy, dz] = force.direction;
  const l = Math.sqrt(dx * dx + dy * dy + dz * dz) || 1;
  const keyed = force.speedKeys.length > 0;
  const curve = keyed ? makeValueCurve(force.speedKeys) : () => force.speed;
  const way = keyed ? makeValueIntegral(force.speedKeys) : null;
  const swirl = makeSwirl(force.seed, force.swirl);
  let speed = 0;
  let rough = 0;
  let moved = 0;
  return {
    at: (frame) => {
      const time = frame / fps;
      const mean = curve(frame);
      speed = mean * Math.max(0, 1 + force.gust * smoothNoise(force.seed, 2 * force.gustFrequency * time));
      rough = mean * force.turbulence;
      // The swirls go as far as the wind has blown.
      moved = way ? way(frame) / fps : mean * time;
    },
    add: (out, x, y, z) => {
      out[0]! += (speed * dx) / l;
      out[1]! += (speed * dy) / l;
      out[2]! += (speed * dz) / l;
      if (rough === 0) return;
      swirl(swirled, x - (moved * dx) / l, y - (moved * dy) / l, z - (moved * dz) / l);
      for (let c = 0; c < 3; c++) out[c]! += rough * swirled[c]!;
    },
  };
}

/** Burst: air away from a place, rising and falling over its frames, to nothing at its reach. */
function makeBurst(force: Extract<Force, { kind: 'burst' }>): Source {
  let now = 0;
  return {
    at: (frame) => {
      const share = (frame - force.frame) / force.frames;
      const s = share > 0 && share < 1 ? sin(Math.PI * share) : 0;
      now = force.speed * s * s;
    },
    add: (out, x, y, z) => {
      if (now === 0) return;
      const ax = x - force.t[0],
        ay = y - force.t[1],
        az = z - force.t[2];
      const d = Math.sqrt(ax * ax + ay * ay + az * az);
      if (d >= force.radius || d < 1e-9) return;
      const by = (now * (1 - d / force.radius) ** 2) / d;
      out[0]! += by * ax;
      out[1]! += by * ay;
      out[2]! += by * az;
    },
  };
}

/** Attractor: an acceleration toward a place, strongest at half its reach, nothing at its heart and beyond. */
function makeAttractor(force: Extract<Force, { kind: 'attractor' }>): Source {
  const curve = force.strengthKeys.length > 0 ? makeValueCurve(force.strengthKeys) : () => force.strength;
  let strength = 0;
  return {
    at: (frame) => void (strength = curve(frame)),
    add: (out, x, y, z) => {
      const ax = force.t[0] - x,
        ay = force.t[1] - y,
        az = force.t[2] - z;
      const d = Math.sqrt(ax * ax + ay * ay + az * az) / force.radius;
      if (d >= 1 || d < 1e-9) return;
      const by = (4 * strength * (1 - d)) / force.radius;
      out[3]! += by * ax;
      out[4]! += by * ay;
      out[5]! += by * az;
    },
  };
}

/** What a force does in space and time, for the simulation and for drawing it. */
export function forceField(f: Force, fps: number): Source {
  return f.kind === 'wind' ? makeWind(f, fps) : f.kind === 'burst' ? makeBurst(f) : makeAttractor(f);
}

export function forcesOn(shot: Shot, partId: string): PartForces {
  const sources = inOrder(shot.forces)
    .filter((f) => !f.muted && (f.parts === 'all' || f.parts.some((id) => id === partId)))
    .map((f) => forceField(f, shot.fps));
  return {
    any: sources.length > 0,
    at: (frame) => sources.forEach((s) => s.at(frame)),
    field: (out, x, y, z) => {
      out.fill(0);
      for (const s of sources) s.add(out, x, y, z);
    },
  };
}
