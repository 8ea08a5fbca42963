import { solveComplex } from '../numeric';
import type { Complex } from '../numeric';

/**
 * A part as the network solution sees it: the S-matrix of its pins against ground, referred to the real impedance `zn`
 * that the solution chooses. Parts are written as whichever description suits them (scattering, admittance, impedance,
 * chain) with the functions below; a passive part has an S-matrix at every frequency, whatever its other matrices do.
 */
export interface Electrical {
  readonly pins: number;
  /** It is dear to work out and changes slowly with frequency: over a sweep it may be read between a few places. */
  readonly isSlow?: true;
  /** Writes the `pins x pins` S-matrix at `f` (Hz), row-major. Allocates nothing. */
  scatter(f: number, zn: number, re: Float64Array, im: Float64Array): void;
}

/** Says of a part that it is dear and changes slowly. */
export const changingSlowly = (part: Electrical): Electrical => ({ ...part, isSlow: true });

/** Propagation at one frequency: `alpha` Np and `beta` rad over the whole length, real impedance `z0`. */
export interface Propagation {
  z0: number;
  alpha: number;
  beta: number;
}

/** A uniform line between two pins, from its own travelling waves: exact at any length and loss, without overflow. */
export function uniformLine(at: (f: number, out: Propagation) => void): Electrical {
  const p: Propagation = { z0: 0, alpha: 0, beta: 0 };
  return {
    pins: 2,
    scatter(f, zn, re, im) {
      at(f, p);
      const g = (p.z0 - zn) / (p.z0 + zn);
      const size = Math.exp(-p.alpha);
      const er = size * Math.cos(p.beta);
      const ei = -size * Math.sin(p.beta);
      const qr = er * er - ei * ei;
      const qi = 2 * er * ei;
      // S11 = g (1 - E^2) / (1 - g^2 E^2), S21 = (1 - g^2) E / (1 - g^2 E^2)
      const dr = 1 - g * g * qr;
      const di = -g * g * qi;
      const d = 1 / (dr * dr + di * di);
      const nr = g * (1 - qr);
      const ni = -g * qi;
      re[0] = re[3] = (nr * dr + ni * di) * d;
      im[0] = im[3] = (ni * dr - nr * di) * d;
      const t = 1 - g * g;
      re[1] = re[2] = t * (er * dr + ei * di) * d;
      im[1] = im[2] = t * (ei * dr - er * di) * d;
    },
  };
}

/**
 * Two equal lines side by side from the uniform lines of their even and odd modes. Pins: 1 and 2 at the near end, 3 and
 * 4 at the far end of the first and of the second strip. Equal modes are two lines that know nothing of one another.
 * Source: Reed & Wheeler 1956, superposition of the two excitations of a symmetric structure.
 */
export function symmetricPair(even: Electrical, odd: Electrical): Electrical {
  const er = new Float64Array(4);
  const ei = new Float64Array(4);
  const or = new Float64Array(4);
  const oi = new Float64Array(4);
  return {
    pins: 4,
    scatter(f, zn, re, im) {
      even.scatter(f, zn, er, ei);
      odd.scatter(f, zn, or, oi);
      for (let i = 0; i < 4; i++)
        for (let j = 0; j < 4; j++) {
          // The end (near or far) that each pin stands at picks the entry, the strip its sign in the odd mode.
          const k = 2 * (i >> 1) + (j >> 1);
          const sign = (i & 1) === (j & 1) ? 1 : -1;
          re[4 * i + j] = 0.5 * (er[k] + sign * or[k]);
          im[4 * i + j] = 0.5 * (ei[k] + sign * oi[k]);
        }
    },
  };
}

/** A complex number to write to. */
interface Slot {
  re: number;
  im: number;
}

/** Told when two joined parts resonate with nothing that could take the wave away: what they answer there means nothing. */
export interface Trap {
  sprung: boolean;
}

/** Square of 1 - A B below which the wave between two parts A and B has lost too many digits. */
const RESONANT = 1e-10;

/** Writes 1 / (1 - A B), the wave that goes to and fro between two reflections. */
function between(ar: number, ai: number, br: number, bi: number, trap: Trap | undefined, out: Slot): void {
  const dr = 1 - (ar * br - ai * bi);
  const di = -(ar * bi + ai * br);
  const size = dr * dr + di * di;
  const caught = trap !== undefined && size < RESONANT;
  if (caught) trap.sprung = true;
  // What is caught is solved another way; numbers that are not finite would only spoil that.
  const d = caught ? 0 : 1 / size;
  out.re = dr * d;
  out.im = -di * d;
}

/**
 * A part prolonged at one of its pins by a two-pin part: passive however long and lossy they are, where products of chain
 * matrices lose all digits. Source: Redheffer 1962, the star product.
 * @param near pin of the two-pin part that is joined, its other takes the place of `pin`
 */
export function attached(
  part: Electrical,
  pin: number,
  two: Electrical,
  near: number,
  trap?: Trap,
): Electrical {
  const n = part.pins;
  const far = 1 - near;
  const [nn, nf, fn, ff] = [2 * near + near, 2 * near + far, 2 * far + near, 2 * far + far];
  const own = pin * n + pin;
  const others = Array.from({ length: n }, (_, i) => i).filter((i) => i !== pin);
  // Entries of waves from the pin to the others, from those to it, and among themselves.
  const out = Int32Array.from(others, (i) => i * n + pin);
  const into = Int32Array.from(others, (i) => pin * n + i);
  const among = Int32Array.from(others.flatMap((i) => others.map((j) => i * n + j)));
  const count = others.length;
  const br = new Float64Array(4);
  const bi = new Float64Array(4);
  const k: Slot = { re: 0, im: 0 };
  return {
    pins: n,
    scatter(f, zn, re, im) {
      part.scatter(f, zn, re, im);
      two.scatter(f, zn, br, bi);
      between(re[own], im[own], br[nn], bi[nn], trap, k);
      // What a wave at the far pin sends into the part, and one out of it sends to the far pin and back.
      const gr = br[nf] * k.re - bi[nf] * k.im;
      const gi = br[nf] * k.im + bi[nf] * k.re;
      const hr = br[fn] * k.re - bi[fn] * k.im;
      const hi = br[fn] * k.im + bi[fn] * k.re;
      const rr = br[nn] * k.re - bi[nn] * k.im;
      const ri = br[nn] * k.im + bi[nn] * k.re;
      for (let i = 0, at = 0; i < count; i++) {
        const ar = re[out[i]];
        const ai = im[out[i]];
        const tr = ar * rr - ai * ri;
        const ti = ar * ri + ai * rr;
        for (let j = 0; j < count; j++, at++) {
          const cr = re[into[j]];
          const ci = im[into[j]];
          re[among[at]] += tr * cr - ti * ci;
          im[among[at]] += tr * ci + ti * cr;
        }
      }
      for (let i = 0; i < count; i++) {
        const ar = re[out[i]];
        const ai = im[out[i]];
        re[out[i]] = ar * gr - ai * gi;
        im[out[i]] = ar * gi + ai * gr;
        const cr = re[into[i]];
        const ci = im[into[i]];
        re[into[i]] = cr * hr - ci * hi;
        im[into[i]] = cr * hi + ci * hr;
      }
      const or = re[own];
      const oi = im[own];
      const pr = or * gr - oi * gi;
      const pi = or * gi + oi * gr;
      re[own] = br[ff] + br[fn] * pr - bi[fn] * pi;
      im[own] = bi[ff] + br[fn] * pi + bi[fn] * pr;
    },
  };
}

/** A part with one of its pins closed by a one-pin part; the pins behind it move up. */
export function closed(part: Electrical, pin: number, by: Electrical, trap?: Trap): Electrical {
  const n = part.pins;
  const ar = new Float64Array(n * n);
  const ai = new Float64Array(n * n);
  const lr = new Float64Array(1);
  const li = new Float64Array(1);
  const k: Slot = { re: 0, im: 0 };
  const own = pin * n + pin;
  return {
    pins: n - 1,
    scatter(f, zn, re, im) {
      part.scatter(f, zn, ar, ai);
      by.scatter(f, zn, lr, li);
      between(ar[own], ai[own], lr[0], li[0], trap, k);
      const gr = lr[0] * k.re - li[0] * k.im;
      const gi = lr[0] * k.im + li[0] * k.re;
      let at = 0;
      for (let i = 0; i < n; i++) {
        if (i === pin) continue;
        const a = i * n + pin;
        const tr = ar[a] * gr - ai[a] * gi;
        const ti = ar[a] * gi + ai[a] * gr;
        for (let j = 0; j < n; j++) {
          if (j === pin) continue;
          const b = pin * n + j;
          re[at] = ar[i * n + j] + tr * ar[b] - ti * ai[b];
          im[at] = ai[i * n + j] + tr * ai[b] + ti * ar[b];
          at++;
        }
      }
    },
  };
}

/** A one-pin part across a line: two pins at one node with it. */
export function across(part: Electrical): Electrical {
  const g = { re: new Float64Array(1), im: new Float64Array(1) };
  return {
    pins: 2,
    scatter(f, zn, re, im) {
      part.scatter(f, zn, g.re, g.im);
      // S11 = -(1 - G) / (3 + G), S21 = 1 + S11; a passive reflection G never makes the denominator vanish.
      const dr = 3 + g.re[0];
      const di = g.im[0];
      const d = 1 / (dr * dr + di * di);
      const nr = g.re[0] - 1;
      re[0] = re[3] = (nr * dr + di * di) * d;
      im[0] = im[3] = (di * dr - nr * di) * d;
      re[1] = re[2] = 1 + re[0];
      im[1] = im[2] = im[0];
    },
  };
}

/** Two-pin parts one after the other. */
export const cascade = (parts: readonly Electrical[]): Electrical =>
  parts.reduce((before, next) => attached(before, 1, next, 0));

/** A two-pin part from its chain matrix: `fill` writes A, B, C, D (V1 = A V2 + B I2 with I2 leaving). */
export function fromChain(fill: (f: number, re: Float64Array, im: Float64Array) => void): Electrical {
  const cr = new Float64Array(4);
  const ci = new Float64Array(4);
  return {
    pins: 2,
    scatter(f, zn, re, im) {
      fill(f, cr, ci);
      const br = cr[1] / zn;
      const bi = ci[1] / zn;
      const gr = cr[2] * zn;
      const gi = ci[2] * zn;
      const dr = cr[0] + br + gr + cr[3];
      const di = ci[0] + bi + gi + ci[3];
      const d = 1 / (dr * dr + di * di);
      const put = (at: number, nr: number, ni: number) => {
        re[at] = (nr * dr + ni * di) * d;
        im[at] = (ni * dr - nr * di) * d;
      };
      put(0, cr[0] + br - gr - cr[3], ci[0] + bi - gi - ci[3]);
      put(3, br - cr[0] - gr + cr[3], bi - ci[0] - gi + ci[3]);
      put(2, 2, 0);
      const detR = cr[0] * cr[3] - ci[0] * ci[3] - (cr[1] * cr[2] - ci[1] * ci[2]);
      const detI = cr[0] * ci[3] + ci[0] * cr[3] - (cr[1] * ci[2] + ci[1] * cr[2]);
      put(1, 2 * detR, 2 * detI);
    },
  };
}

/** A part of any number of pins from its admittance matrix in siemens. */
export function fromAdmittance(
  pins: number,
  fill: (f: number, re: Float64Array, im: Float64Array) => void,
): Electrical {
  const n = pins;
  const yr = new Float64Array(n * n);
  const yi = new Float64Array(n * n);
  const ar = new Float64Array(n * n);
  const ai = new Float64Array(n * n);
  return {
    pins,
    scatter(f, zn, re, im) {
      fill(f, yr, yi);
      // (I + zn Y) S = I - zn Y; the two commute, so no transposition is needed.
      for (let i = 0; i < n * n; i++) {
        const unit = i % (n + 1) === 0 ? 1 : 0;
        ar[i] = unit + zn * yr[i];
        ai[i] = zn * yi[i];
        re[i] = unit - zn * yr[i];
        im[i] = -zn * yi[i];
      }
      solveComplex(n, n, ar, ai, re, im);
    },
  };
}

/** A two-pin part that is an impedance in series between its pins; an infinite one is open. */
export function seriesImpedance(at: (f: number, out: { re: number; im: number }) => void): Electrical {
  const z = { re: 0, im: 0 };
  return {
    pins: 2,
    scatter(f, zn, re, im) {
      at(f, z);
      if (!Number.isFinite(z.re) || !Number.isFinite(z.im)) {
        re[0] = re[3] = 1;
        re[1] = re[2] = im[0] = im[1] = im[2] = im[3] = 0;
        return;
      }
      const dr = z.re + 2 * zn;
      const d = 1 / (dr * dr + z.im * z.im);
      re[0] = re[3] = (z.re * dr + z.im * z.im) * d;
      im[0] = im[3] = (z.im * dr - z.re * z.im) * d;
      re[1] = re[2] = 2 * zn * dr * d;
      im[1] = im[2] = -2 * zn * z.im * d;
    },
  };
}

/** A one-pin part that closes its pin by an impedance to ground. */
export function termination(at: (f: number, out: { re: number; im: number }) => void): Electrical {
  const z = { re: 0, im: 0 };
  return {
    pins: 1,
    scatter(f, zn, re, im) {
      at(f, z);
      if (!Number.isFinite(z.re) || !Number.isFinite(z.im)) {
        re[0] = 1;
        im[0] = 0;
        return;
      }
      const dr = z.re + zn;
      const nr = z.re - zn;
      const d = 1 / (dr * dr + z.im * z.im);
      re[0] = (nr * dr + z.im * z.im) * d;
      im[0] = (z.im * dr - nr * z.im) * d;
    },
  };
}

/** A part from S-parameters referred to impedances of its own (power waves for complex ones, Kurokawa 1965). */
export function fromScattering(
  pins: number,
  z0: readonly Complex[],
  fill: (f: number, re: Float64Array, im: Float64Array) => void,
): Electrical {
  const n = pins;
  const sr = new Float64Array(n * n);
  const si = new Float64Array(n * n);
  const ar = new Float64Array(n * n);
  const ai = new Float64Array(n * n);
  const br = new Float64Array(n * n);
  const bi = new Float64Array(n * n);
  return {
    pins,
    scatter(f, zn, re, im) {
      fill(f, sr, si);
      let isOwn = true;
      for (let i = 0; i < n && isOwn; i++) isOwn = z0[i].re === zn && z0[i].im === 0;
      if (isOwn) {
        re.set(sr);
        im.set(si);
        return;
      }
      for (let i = 0; i < n; i++) {
        const g = z0[i];
        const scale = 1 / (2 * Math.sqrt(g.re * zn));
        // New waves of port i: a' = p a + q b, b' = r a + t b (see results/convert.ts).
        const sum = (g.re + zn) * scale;
        const difference = (g.re - zn) * scale;
        const x = g.im * scale;
        for (let j = 0; j < n; j++) {
          const vr = sr[i * n + j];
          const vi = si[i * n + j];
          const unit = i === j ? 1 : 0;
          ar[j * n + i] = unit * sum + difference * vr - x * vi;
          ai[j * n + i] = -unit * x + difference * vi + x * vr;
          br[j * n + i] = unit * difference + sum * vr - x * vi;
          bi[j * n + i] = -unit * x + sum * vi + x * vr;
        }
      }
      solveComplex(n, n, ar, ai, br, bi);
      for (let i = 0; i < n; i++)
        for (let j = 0; j < n; j++) {
          re[i * n + j] = br[j * n + i];
          im[i * n + j] = bi[j * n + i];
        }
    },
  };
}

/** A one-pin part from its reflection `re + j im` against a real impedance `z0` of its own. */
export function fromReflection(
  at: (f: number, out: { z0: number; re: number; im: number }) => void,
): Electrical {
  const g = { z0: 0, re: 0, im: 0 };
  return {
    pins: 1,
    scatter(f, zn, re, im) {
      at(f, g);
      // (z0 (1 + g) - zn (1 - g)) / (z0 (1 + g) + zn (1 - g)): finite for opens and shorts alike.
      const nr = g.z0 * (1 + g.re) - zn * (1 - g.re);
      const ni = (g.z0 + zn) * g.im;
      const dr = g.z0 * (1 + g.re) + zn * (1 - g.re);
      const di = (g.z0 - zn) * g.im;
      const d = 1 / (dr * dr + di * di);
      re[0] = (nr * dr + ni * di) * d;
      im[0] = (ni * dr - nr * di) * d;
    },
  };
}

/** An ideal joint of any number of pins: equal voltages, currents that sum to nothing. */
export function idealJoint(pins: number): Electrical {
  return {
    pins,
    scatter(_f, _zn, re, im) {
      for (let i = 0; i < pins * pins; i++) {
        re[i] = 2 / pins - (i % (pins + 1) === 0 ? 1 : 0);
        im[i] = 0;
      }
    },
  };
}
