import { smallestMode } from '../math/band';
import { cos, exp, sin } from '../math/index';

/** What a chain is made of, in metres, kilograms and hertz. Points are 0 (root, carried) to n (tip). */
export interface ChainMatter {
  /** Rest length of each of the n links, m; all above 0. */
  readonly lengths: Float64Array;
  /** Mass of points 1..n, kg; all above 0. */
  readonly masses: Float64Array;
}

export interface ChainFeel {
  /** Hz */
  readonly hold: number;
  /** Hz */
  readonly bend: number;
  /** Ratio of critical. */
  readonly damping: number;
  /** Largest share by which a link may lengthen or shorten; 0 is a hard length. */
  readonly stretch: number;
  /** Stretches by all of its share under 2 / softness times its own weight. */
  readonly stretchSoftness: number;
  /** m/s², already scaled. */
  readonly gravity: readonly [number, number, number];
  /** Largest angle of a link from its source, degrees; 180 is free. */
  readonly angleLimit: number;
  /** Whether links stay parallel to the solver's plane as their source is. */
  readonly planar: boolean;
  /** Multipliers of these settings, one a link; what is not here is 1 everywhere. */
  readonly profiles: Partial<Record<ProfiledFeel, ArrayLike<number>>>;
}

type ProfiledFeel = 'hold' | 'bend' | 'damping' | 'stretch' | 'stretchSoftness' | 'gravity' | 'angleLimit';

/** A chain without any feel, to begin from. */
export const NO_FEEL: ChainFeel = {
  hold: 0,
  bend: 0,
  damping: 0,
  stretch: 0,
  stretchSoftness: 1,
  gravity: [0, 0, 0],
  angleLimit: 180,
  planar: false,
  profiles: {},
};

/** Coefficients of one chain for one step length; see docs/simulation.md, "The step". */
export interface ChainCoefficients {
  /** N/m on each link vector, toward its source vector. */
  readonly hold: Float64Array;
  /** N·m on the unit direction of link i, toward where the link before it points it. */
  readonly bend: Float64Array;
  /** Mass-proportional damping, 1/s. */
  readonly alpha: number;
  /** Stiffness-proportional damping, s. */
  readonly beta: number;
  /** Largest stretch of each link. */
  readonly stretch: Float64Array;
  /** m/N along each link; 0 for a hard length. */
  readonly compliance: Float64Array;
  /** Least cosine of the angle from the source. */
  readonly cone: Float64Array;
  /** Profiles as they are used: factors on the damping of each link and the gravity of each point. */
  readonly damping: Float64Array;
  readonly gravity: Float64Array;
}

/** Masses of points 1..n for kg/m along each link: half of each link at either end, so the tip gets half a share. */
export function lumpMasses(lengths: ArrayLike<number>, kgPerMetre: number | ArrayLike<number>): Float64Array {
  const n = lengths.length;
  const of = (i: number) =>
    i < n ? lengths[i]! * (typeof kgPerMetre === 'number' ? kgPerMetre : kgPerMetre[i]!) : 0;
  return Float64Array.from({ length: n }, (_, i) => (of(i) + of(i + 1)) / 2);
}

/** Mass beyond each link: of points i+1..n. */
function massOutboard(masses: Float64Array): Float64Array {
  const out = Float64Array.from(masses);
  for (let i = out.length - 2; i >= 0; i--) out[i]! += out[i + 1]!;
  return out;
}

/** Adds weight · |Σ terms|² / 2 to a band of half width 2, where the terms are (column, factor) pairs. */
function addSquare(band: Float64Array, weight: number, terms: readonly (readonly [number, number])[]): void {
  for (const [i, a] of terms) {
    if (i < 0) continue;
    for (const [j, b] of terms) if (j >= 0 && j <= i) band[3 * i + (i - j)]! += weight * a * b;
  }
}

/** Adds the energy ½ k_i |u_i|² of every link vector u_i = x_{i+1} − x_i (unknown column i is point i+1). */
function addLinks(band: Float64Array, k: Float64Array): void {
  for (let i = 0; i < k.length; i++)
    addSquare(band, k[i]!, [
      [i, 1],
      [i - 1, -1],
    ]);
}

/** Adds ½ κ_i |u_i/l_i − u_{i−1}/l_{i−1}|², the bending energy of a straight shape clamped at its root. */
function addBends(band: Float64Array, kappa: Float64Array, l: Float64Array): void {
  for (let i = 0; i < kappa.length; i++) {
    const a = 1 / l[i]!;
    const b = i > 0 ? 1 / l[i - 1]! : 0;
    addSquare(
      band,
      kappa[i]!,
      i > 0
        ? [
            [i, a],
            [i - 1, -a - b],
            [i - 2, b],
          ]
        : [[0, a]],
    );
  }
}

/**
 * Stiffness k (1/s²) and damping c (1/s) for which the BDF2 step has exactly the poles of ω (rad/s) and ratio ζ:
 * λ = −ζω ± iω√(1−ζ²), z = e^{λh}, D = (3/2 − 2/z + ½z⁻²)/h, k = |D|², c = −2 Re D. Poles faster than about a third
 * of the step rate and overdamped ones keep the raw k = ω², c = 2ζω; between 0.3 and 0.4 the two are blended.
 */
export function matchPoles(omega: number, zeta: number, h: number): { k: number; c: number } {
  const raw = { k: omega * omega, c: 2 * zeta * omega };
  const share = Math.min(1, Math.max(0, (0.4 - omega * h) / 0.1));
  if (zeta > 1 || share === 0 || omega === 0) return raw;
  const wd = omega * Math.sqrt(1 - zeta * zeta) * h;
  const grow = exp(zeta * omega * h);
  const re = grow * cos(wd);
  const im = -grow * sin(wd);
  const dRe = (1.5 - 2 * re + 0.5 * (re * re - im * im)) / h;
  const dIm = (-2 * im + re * im) / h;
  return {
    k: raw.k + share * (dRe * dRe + dIm * dIm - raw.k),
    c: Math.max(0, raw.c + share * (-2 * dRe - raw.c)),
  };
}

/** A link of softness 1 stretches by its whole share when it carries what hangs from it at this many m/s². */
const STRETCH_LOAD = 2 * 9.81;

/** Turns hertz and ratios into the coefficients of one chain stepped every h seconds. */
export function calibrateChain(matter: ChainMatter, feel: ChainFeel, h: number): ChainCoefficients {
  const { lengths, masses } = matter;
  const n = lengths.length;
  const outboard = massOutboard(masses);
  // Unit stiffnesses: a field of strength 1 m/s² along the source, and EI = 1 N·m².
  const hold = Float64Array.from(lengths, (l, i) => outboard[i]! / l);
  const bend = Float64Array.from(lengths, (l, i) => 2 / (i > 0 ? l + lengths[i - 1]! : l));
  const unitHold = new Float64Array(3 * n);
  addLinks(unitHold, hold);
  const muField = smallestMode(unitHold, masses, n, 2);
  const omega = (hz: number) => 2 * Math.PI * hz;
  const scaleHold = omega(feel.hold) ** 2 / muField;
  for (let i = 0; i < n; i++) hold[i]! *= scaleHold;
  if (feel.bend > 0) {
    const unitBend = new Float64Array(3 * n);
    addBends(unitBend, bend, lengths);
    const scale = omega(feel.bend) ** 2 / smallestMode(unitBend, masses, n, 2);
    for (let i = 0; i < n; i++) bend[i]! *= scale;
  } else bend.fill(0);

  // Damping is a ratio at the first mode of hold and bend together (or of the shot's gravity where that is the
  // faster). Half of it is proportional to mass and half to stiffness, so that mode k has ζ/2 (ω₁/ω_k + ω_k/ω₁) ≥ ζ:
  // ripples never outlive the swing.
  const g = Math.sqrt(feel.gravity[0] ** 2 + feel.gravity[1] ** 2 + feel.gravity[2] ** 2);
  const stiff = feel.hold > 0 || feel.bend > 0;
  const band = new Float64Array(3 * n);
  addLinks(band, hold);
  addBends(band, bend, lengths);
  const own = stiff ? Math.sqrt(smallestMode(band, masses, n, 2)) : 0;
  const swing = Math.sqrt(g * muField);
  const matched = stiff ? matchPoles(own, feel.damping, h) : { k: 0, c: 0 };
  const scale = stiff ? matched.k / (own * own) : 1;
  for (let i = 0; i < n; i++) {
    hold[i]! *= scale;
    bend[i]! *= scale;
  }
  const c = swing > own ? 2 * feel.damping * swing : matched.c;
  const alpha = stiff ? c / 2 : c;
  const beta = stiff ? c / (2 * matched.k) : 0;

  // Profiles scale the settings, hertz among them, so stiffness goes with their square.
  const profile = (key: ProfiledFeel) => Float64Array.from(lengths, (_, i) => feel.profiles[key]?.[i] ?? 1);
  const [holdBy, bendBy] = [profile('hold'), profile('bend')];
  const [stretchBy, softBy] = [profile('stretch'), profile('stretchSoftness')];
  for (let i = 0; i < n; i++) {
    hold[i]! *= holdBy[i]! * holdBy[i]!;
    bend[i]! *= bendBy[i]! * bendBy[i]!;
  }
  const stretch = Float64Array.from(lengths, (_, i) => Math.min(1, feel.stretch * stretchBy[i]!));
  return {
    hold,
    bend,
    alpha,
    beta,
    stretch,
    compliance: Float64Array.from(
      lengths,
      (l, i) => (stretch[i]! * l * feel.stretchSoftness * softBy[i]!) / (STRETCH_LOAD * outboard[i]!),
    ),
    cone: profile('angleLimit').map((by) => {
      const limit = feel.angleLimit * by;
      return limit >= 180 ? -1 : cos((limit * Math.PI) / 180);
    }),
    damping: profile('damping'),
    gravity: profile('gravity'),
  };
}
