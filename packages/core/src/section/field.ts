import { EPS0 } from '../numeric/constants';
import type { Steps } from '../numeric/steps';
import { chargesOf, outline, type Symmetry } from './conductors';
import { greenOf, type Filling, type Green, type Heights } from './layers';
import { sinc, type Panel } from './panels';

/** The charge (or, in vacuum, the current of a fast wave) on a piece of the copper's outline. */
export interface Surface {
  /** Middle of the piece, m, and half its length. */
  readonly x: number;
  readonly y: number;
  readonly half: number;
  /** Outward direction. */
  readonly nx: number;
  readonly ny: number;
  /** Density over its mean along the outline. */
  readonly density: number;
}

/** The field of one mode at 1 V, on a grid over the right half; y from the interface that the copper stands on. */
export interface SectionField {
  readonly symmetry: Symmetry;
  readonly x: Float64Array;
  readonly y: Float64Array;
  /** V, row by row from the lowest y. */
  readonly potential: Float64Array;
  /** V/m per volt. */
  readonly strength: Float64Array;
  /** Where the current flows on the right half of the copper. */
  readonly current: readonly Surface[];
}

/** The copper of a section that is its own mirror image: its right half. */
export interface Copper {
  readonly from: number;
  readonly to: number;
  readonly thickness: number;
}

/** Mean of -ln r over a panel, seen from a place (dx, dy) off its middle. */
function logAt({ along, a }: Panel, dx: number, dy: number): number {
  const [u, d] = along === 1 ? [dx, Math.abs(dy)] : [dy, Math.abs(dx)];
  const f = (v: number) => {
    const r2 = v * v + d * d;
    return r2 === 0 ? 0 : v * (0.5 * Math.log(r2) - 1) + (d === 0 ? 0 : d * Math.atan2(v, d));
  };
  return -(f(u + a) - f(u - a)) / (2 * a);
}

/** The potential of charges at places at or above the interface, by the layered medium's Green's function. */
function above(
  panels: readonly Panel[],
  charge: Float64Array,
  { images, k, smooth: [smooth] }: Green,
  symmetry: Symmetry,
  top: number,
): (x: number, y: number) => number {
  const { down, up, across } = smooth;
  const fall = new Float64Array(k.length);
  const rise = new Float64Array(k.length);
  const lidded = up.length > 0;
  for (let e = 0; e < k.length; e++)
    panels.forEach(({ along, x, y, a }, i) => {
      const wave = symmetry === 1 ? Math.cos(k[e] * x) : Math.sin(k[e] * x);
      const ka = k[e] * a;
      const spread = along === 1 ? sinc(ka) : ka < 1e-3 ? 1 : Math.sinh(ka) / ka;
      fall[e] += charge[i] * wave * spread * Math.exp(-k[e] * y);
      rise[e] += charge[i] * wave * spread * Math.exp(k[e] * (y - top));
    });
  return (x, y) => {
    let sum = 0;
    panels.forEach((p, i) => {
      let own = 0;
      for (const { sign, shift, weights } of images) {
        const dy = y - (sign * p.y + shift);
        own += weights[0] * (logAt(p, x - p.x, dy) + symmetry * logAt(p, x + p.x, dy));
      }
      sum += charge[i] * own;
    });
    for (let e = 0; e < k.length; e++) {
      const wave = 2 * (symmetry === 1 ? Math.cos(k[e] * x) : Math.sin(k[e] * x));
      const f = Math.exp(-k[e] * y);
      let term = down[e] * f * fall[e];
      if (lidded) {
        const r = Math.exp(k[e] * (y - top));
        term += up[e] * r * rise[e] + across[e] * (r * fall[e] + f * rise[e]);
      }
      sum += wave * term;
    }
    return sum;
  };
}

/**
 * The potential between a plane on which it is known and a parallel one where it is none, in what holds no charge: the
 * Poisson integral of a layer, exact for what is constant from sample to sample.
 */
function between(
  samples: Float64Array,
  step: number,
  depth: number,
  symmetry: Symmetry,
): (x: number, distance: number) => number {
  return (x, distance) => {
    if (distance <= 0) return at(samples, x / step - 0.5);
    if (distance >= depth) return 0;
    const t = Math.tan((Math.PI * distance) / (2 * depth));
    const c = Math.PI / (2 * depth);
    const g = (u: number) => Math.atan(Math.tanh(c * u) / t);
    let sum = 0;
    let [own, other] = [g(-x), g(x)];
    for (let i = 0; i < samples.length; i++) {
      const edge = (i + 1) * step;
      const [nextOwn, nextOther] = [g(edge - x), g(edge + x)];
      sum += samples[i] * (nextOwn - own + symmetry * (nextOther - other));
      own = nextOwn;
      other = nextOther;
    }
    return sum / Math.PI;
  };
}

/** A value between samples, by straight lines. */
function at(samples: Float64Array, place: number): number {
  const i = Math.max(0, Math.min(samples.length - 2, Math.floor(place)));
  const share = Math.max(0, Math.min(1, place - i));
  return samples[i] * (1 - share) + samples[i + 1] * share;
}

/** Columns and rows over the right half of a section, denser in the metal's layer; y from its lower face, m. */
export function gridOf({
  columns,
  rows,
  reach,
  ground,
  thickness: t,
  cover,
}: {
  readonly columns: number;
  readonly rows: number;
  readonly reach: { readonly x: number; readonly y: number };
  readonly ground: number;
  readonly thickness: number;
  readonly cover: number;
}): { readonly x: Float64Array; readonly y: Float64Array } {
  const x = Float64Array.from({ length: columns }, (_, i) => (reach.x * i) / (columns - 1));
  const layer = (low: number, high: number, n: number) =>
    Array.from({ length: n }, (_, i) => low + ((high - low) * i) / n);
  const ceiling = cover === Infinity ? Math.max(reach.y, t) : cover;
  const beside = t > 0 ? Math.max(2, Math.round((rows * t) / (ground + ceiling))) : 0;
  return {
    x,
    y: Float64Array.from([
      ...layer(-ground, 0, rows),
      ...layer(0, t, beside),
      ...layer(t, ceiling, rows),
      ceiling,
    ]),
  };
}

/** Size of a potential's slope on a grid, V/m, row by row. */
export function strengthOf(
  x: Float64Array,
  y: Float64Array,
  potential: Float64Array,
  symmetry: Symmetry,
): Float64Array {
  const strength = new Float64Array(potential.length);
  const columns = x.length;
  const slope = (a: number, b: number, pa: number, pb: number) => (pb - pa) / (b - a);
  for (let r = 0; r < y.length; r++)
    for (let i = 0; i < columns; i++) {
      const [l, n] = [Math.max(0, i - 1), Math.min(columns - 1, i + 1)];
      const [d, u] = [Math.max(0, r - 1), Math.min(y.length - 1, r + 1)];
      // At the middle the mirror image goes on: nothing changes across it, or all of it.
      const across =
        i === 0
          ? symmetry === 1
            ? 0
            : slope(-x[1], x[1], -potential[r * columns + 1], potential[r * columns + 1])
          : slope(x[l], x[n], potential[r * columns + l], potential[r * columns + n]);
      const up = slope(y[d], y[u], potential[d * columns + i], potential[u * columns + i]);
      strength[r * columns + i] = Math.hypot(across, up);
    }
  return strength;
}

/** Samples of a plane's potential per column of the grid. */
const FINE = 4;

/**
 * The field around a strip or a pair from the charges that solve it: directly beside and above the copper, and by the
 * potential on the planes through the copper's faces elsewhere. For looking at: within a thousandth of a volt.
 * @param filling below and above the interface
 * @param reach how far to the right, and how far up where no plane ends it, m
 * @param counts columns, and rows of each of the layers
 */
export function* fieldSteps(
  copper: Copper,
  symmetry: Symmetry,
  heights: Heights,
  filling: Filling,
  reach: { readonly x: number; readonly y: number },
  counts: { readonly columns: number; readonly rows: number },
): Steps<SectionField> {
  const { from, to, thickness: t } = copper;
  const open = heights.cover === Infinity;
  const panels = outline(from, to, t);
  const solve = (f: Filling) => chargesOf(panels, heights, [f], [symmetry])[0][0].charge;
  const full = solve(filling);
  const scale = 2 * Math.PI * EPS0 * filling.above;
  const charge = full.map((q) => q / scale);
  const wide = reach.x + 2 * Math.max(heights.ground, open ? 0 : heights.cover);
  const green = greenOf(heights, [filling], t, wide + to);
  const direct = above(panels, charge, green, symmetry, t);

  const { columns } = counts;
  const { x, y } = gridOf({ ...counts, reach, ground: heights.ground, thickness: t, cover: heights.cover });

  const step = reach.x / (columns - 1) / FINE;
  const plane = (height: number) =>
    Float64Array.from({ length: Math.ceil(wide / step) }, (_, i) => direct((i + 0.5) * step, height));
  const below = between(plane(0), step, heights.ground, symmetry);
  yield 0.1;
  const beyond = open ? undefined : between(plane(t), step, heights.cover - t, symmetry);
  yield 0.2;
  const potential = new Float64Array(x.length * y.length);
  for (let r = 0; r < y.length; r++) {
    for (let i = 0; i < columns; i++) {
      const inside = x[i] >= from && x[i] <= to && y[r] >= 0 && y[r] <= t;
      potential[r * columns + i] = inside
        ? 1
        : y[r] < 0
          ? below(x[i], -y[r])
          : y[r] <= t || !beyond
            ? direct(x[i], y[r])
            : beyond(x[i], y[r] - t);
    }
    yield 0.2 + (0.8 * (r + 1)) / y.length;
  }
  const strength = strengthOf(x, y, potential, symmetry);
  const flowing = solve({ below: 1, above: 1 });
  const whole = flowing.reduce((a, b) => a + b, 0);
  const length = panels.reduce((a, p) => a + 2 * p.a, 0);
  const middle = (from + to) / 2;
  const current = panels.map((p, i): Surface => ({
    x: p.x,
    y: p.y,
    half: p.a,
    nx: p.along === 1 ? 0 : Math.sign(p.x - middle),
    ny: p.along === 1 ? (p.y > 0 ? 1 : -1) : 0,
    density: flowing[i] / (2 * p.a) / (whole / length),
  }));
  return { symmetry, x, y, potential, strength, current };
}
