import { C0, EPS0, ETA0 } from '../numeric/constants';
import { Table } from '../numeric/table';
import { solveStrip, type Filling } from '../section';
import { atProportions, type Row } from './among';
import type {
  CrossSection,
  LineModelLevel,
  LinePoint,
  LineWarning,
  Medium,
  PreparedSection,
  Substrate,
} from './contract';
import { lossThickness, surfaceResistance } from './loss';
import { receding } from './recession';
import { remembered } from './remembered';

/** Impedance in vacuum of an open thin strip of w/h = u, and its derivative by u. Source: Hammerstad & Jensen 1980, eq. 1-2. */
function airImpedance(u: number): { z: number; slope: number } {
  const s = Math.pow(30.666 / u, 0.7528);
  const e = (2 * Math.PI - 6) * Math.exp(-s);
  const f = 6 + e;
  const root = Math.sqrt(1 + 4 / (u * u));
  const g = f / u + root;
  const dg = (e * 0.7528 * s) / (u * u) - f / (u * u) - 4 / (u * u * u * root);
  const scale = ETA0 / (2 * Math.PI);
  return { z: scale * Math.log(g), slope: (scale * dg) / g };
}

/** Effective permittivity of an open thin strip. Source: Hammerstad & Jensen 1980, eq. 3-5. */
function thinPermittivity(width: number, er: number): number {
  // Far below its range (w/h 0.01) the fit's exponent changes sign; there the value stays.
  const u = Math.max(width, 1e-4);
  const u2 = u * u;
  const u4 = u2 * u2;
  const a = 1 + Math.log((u4 + u2 / 2704) / (u4 + 0.432)) / 49 + Math.log(1 + Math.pow(u / 18.1, 3)) / 18.7;
  const b = 0.564 * Math.pow(Math.max(er - 0.9, 0) / (er + 3), 0.053);
  return (er + 1) / 2 + ((er - 1) / 2) * Math.pow(1 + 10 / u, -a * b);
}

/** Added width over height by a thickness t/h = tau in air and its partial derivatives. Source: Hammerstad & Jensen 1980, eq. 6. */
function addedWidth(u: number, tau: number): { d: number; byU: number; byTau: number } {
  // Thinner than an atom the added width is nothing, and its logarithm would overflow.
  if (tau <= 1e-12) return { d: 0, byU: 0, byTau: 0 };
  const y = Math.sqrt(6.517 * u);
  const th = Math.tanh(y);
  const q = (4 * Math.E * th * th) / tau;
  return {
    d: (tau / Math.PI) * Math.log1p(q),
    byU: (4 * Math.E * th * (1 - th * th) * 6.517) / (y * Math.PI * (1 + q)),
    byTau: (Math.log1p(q) - q / (1 + q)) / Math.PI,
  };
}

interface Statics {
  readonly z0: number;
  readonly eeff: number;
}

/** What the closed forms say of an open strip at zero frequency. */
export function closedStrip(er: number, u: number, tau: number): { air: number; eeff: number } {
  const { d } = addedWidth(u, tau);
  const ur = u + 0.5 * d * (1 + 1 / Math.cosh(Math.sqrt(Math.max(er - 1, 0))));
  const air = airImpedance(u + d).z;
  const ratio = air / airImpedance(ur).z;
  return { air, eeff: thinPermittivity(ur, er) * ratio * ratio };
}

/** Their change of the impedance in vacuum (ohm/m, lengths over the height) when all walls recede by n. */
function closedSlope(u: number, tau: number): number {
  const added = addedWidth(u, tau);
  return airImpedance(u + added.d).slope * -2 * ((1 + u) * (1 + added.byU) + (1 + tau) * added.byTau);
}

/**
 * Widths over the height up to which a strip is solved for. Open ones follow their closed formulas from there on, and
 * the edges of a covered strip no longer see one another past its nearer face. The field solution's work grows with the
 * width over the nearer of lid and ground, so it is bounded here, however close the lid is.
 */
const widest = (lid: number, er: number): number =>
  lid === Infinity
    ? 60
    : // Beside a strip close to the lid the dielectric's surface is at zero to er lid/(pi distance).
      lid < 1
      ? Math.min(60, Math.min(120, Math.max(30, 10 * er)) * lid)
      : Math.min(120, Math.max(60, 3 * lid));

const lnSinh = (x: number): number => x + Math.log1p(-Math.exp(-2 * x)) - Math.LN2;

/**
 * What a strip of w/h = u between ground and a lid has more than one of w/h = v, F/m: its part of the plate capacitor
 * towards the lid, and below it the flux of a strip in the plane of the lid, whose two edges do see one another while it
 * is narrow against the height: the integral of (1/h) / (1 - exp(-pi x/h)) from either edge (the conformal map of a
 * strip whose wall changes its potential), (2 er/pi) ln sinh(pi u/2). For wide strips that is the other plate capacitor.
 */
const widened = (u: number, v: number, er: number, lid: number): number =>
  EPS0 * ((u - v) / lid + ((2 * er) / Math.PI) * (lnSinh((Math.PI * u) / 2) - lnSinh((Math.PI * v) / 2)));

/**
 * Capacitances in vacuum and filled, F/m, of a strip under a lid or not; lengths over the height.
 * @param lid distance of the lid above the dielectric
 */
function solved(u: number, tau: number, lid: number, fillings: readonly Filling[]): number[] {
  const heights = { ground: 1, cover: lid };
  const limit = lid === Infinity ? Infinity : widest(lid - tau, Math.max(...fillings.map((f) => f.below)));
  if (u <= limit) return solveStrip(u, tau, heights, fillings).map((c) => c.value);
  return solveStrip(limit, tau, heights, fillings).map(
    (c, f) => c.value + widened(u, limit, fillings[f].below, lid - tau),
  );
}

const VACUUM: Filling = { below: 1, above: 1 };
/** Intervals of the tables, in the logarithm of the width: a design on a board lives in one or two. */
const INTERVAL = Math.log(16);

/** How far the field solution lies from the closed forms, over the logarithm of w/h, one for each board's proportions. */
interface Corrections {
  /** Logarithms of the ratios of impedance in vacuum and of permittivity. */
  readonly statics: Table;
  /** Logarithm of the ratio of the slopes for receding walls. */
  readonly slope: Table;
}

function correctionsOf(er: number, tau: number, lid: number): Corrections {
  const thick = lossThickness(tau, 1);
  // A wide strip is solved at the limit where it is open.
  const most = (x: number) => (lid === Infinity ? Math.min(Math.exp(x), widest(lid, er)) : Math.exp(x));
  return {
    statics: new Table(
      (x) => {
        const u = most(x);
        const [air, filled] = solved(u, tau, lid, [VACUUM, { below: er, above: 1 }]);
        const guess = closedStrip(er, u, tau);
        return [-Math.log(C0 * air * guess.air), Math.log(filled / air / guess.eeff)];
      },
      INTERVAL,
      2,
    ),
    slope: new Table(
      (x) => {
        const u = most(x);
        const [slope] = receding(Math.min(u, thick, lid - tau), (n) => {
          const h = 1 + 2 * n;
          // The lid recedes from the strip's upper face.
          const [c] = solved((u - 2 * n) / h, (thick - 2 * n) / h, (lid - tau + thick) / h, [VACUUM]);
          return [1 / (C0 * c)];
        });
        return [Math.log(slope / closedSlope(u, thick))];
      },
      INTERVAL,
      1,
    ),
  };
}

/** The corrections of the boards that were asked for last. */
const corrections = remembered(correctionsOf, 24);

/** What corrections say of a board, or of the many like it. */
const corrected = (substrate: Substrate, read: (of: Corrections) => Row): Row =>
  atProportions(substrate, false, (er, tau, lid) => read(corrections(er, tau, lid)));

/** Impedance and effective permittivity at zero frequency: the field solution's, by its ratio to the closed forms. */
function statics(substrate: Substrate, width: number): Statics {
  const { er, height, thickness } = substrate;
  const [u, tau] = [width / height, thickness / height];
  const [air, eeff] = corrected(substrate, (c) => c.statics.at(Math.log(u)));
  const guess = closedStrip(er, u, tau);
  const e = guess.eeff * Math.exp(eeff);
  return { z0: (guess.air * Math.exp(air)) / Math.sqrt(e), eeff: e };
}

/**
 * Change of the impedance in vacuum (ohm/m) when all walls recede by n: w - 2n, t - 2n, h + 2n, the gap below the lid
 * by 2n.
 */
function recession(substrate: Substrate, width: number): number {
  const { height, thickness } = substrate;
  const [u, tau] = [width / height, thickness / height];
  const [ratio] = corrected(substrate, (c) => c.slope.at(Math.log(u)));
  return (closedSlope(u, lossThickness(tau, 1)) * Math.exp(ratio)) / height;
}

/** Constants of the dispersion formulas that depend on the permittivity alone. */
interface PermittivityConstants {
  readonly er: number;
  readonly p2: number;
  readonly p4: number;
  readonly r1: number;
  readonly r4: number;
  readonly r8: number;
  readonly r9: number;
  readonly r10: number;
}
let lastConstants: PermittivityConstants | undefined;

/** The constants for `er`, kept from the last call: synthesis and tuning ask for the same permittivity again and again. */
function permittivityConstants(er: number): PermittivityConstants {
  if (lastConstants?.er === er) return lastConstants;
  const r4 = 0.016 + Math.pow(0.0514 * er, 4.524);
  const e6 = Math.pow(er - 1, 6);
  return (lastConstants = {
    er,
    p2: 0.33622 * (1 - Math.exp(-0.03442 * er)),
    p4: 1 + 2.751 * (1 - Math.exp(-Math.pow(er / 15.916, 8))),
    r1: 0.03891 * Math.pow(er, 1.4),
    r4,
    r8: 0.004625 * Math.pow(er, 1.674),
    r9: (5.086 * r4 * e6) / ((0.3838 + 0.386 * r4) * (1 + 10 * e6)),
    r10: 0.00044 * Math.pow(er, 2.136) + 0.0184,
  });
}

/** Powers of the normalised frequency (GHz mm) in the dispersion formulas, the same for all lines of a substrate. */
const frequencyTerms = { fn: NaN, log: 0, p1: 0, p3: 0, r5: 0, r8: 0, r11: 0, r15: 0, r17: 0 };

/** The terms at `fn`, kept from the last call: a network asks for the same frequency line after line. */
function termsAt(fn: number): typeof frequencyTerms {
  const t = frequencyTerms;
  if (t.fn === fn) return t;
  // Powers as exp(c ln fn): one logarithm serves them all, and Math.pow costs three times an exponential.
  const log = Math.log(fn);
  const f2 = (fn / 28.843) * (fn / 28.843);
  const g2 = (fn / 19.47) * (fn / 19.47);
  const g6 = g2 * g2 * g2;
  t.fn = fn;
  t.log = log;
  t.p1 = 0.525 / power20(1 + 0.0157 * fn);
  t.p3 = 1 - Math.exp(-Math.exp(4.97 * (log - LN_38_7)));
  t.r5 = f2 * f2 * f2 * f2 * f2 * f2;
  t.r8 = Math.exp(2.745 * (log - LN_18_365));
  t.r11 = g6 / (1 + 0.0962 * g6);
  t.r15 = 0.707 * Math.exp(1.097 * (log - LN_12_3));
  t.r17 = 0.026 * Math.exp(1.15656 * log);
  return t;
}
const LN_38_7 = Math.log(38.7);
const LN_18_365 = Math.log(18.365);
const LN_12_3 = Math.log(12.3);

/** x^20 by repeated squares: Math.pow costs four times as much. */
const power20 = (x: number): number => {
  const x4 = x * x * x * x;
  const x16 = x4 * x4 * x4 * x4;
  return x16 * x4;
};

const power7 = (x: number): number => x * x * x * x * x * x * x;

/** The blend that takes the impedance's dispersion in between er = 1.05 and 1.3, below which its formula is singular. */
export function impedanceDispersionWeight(er: number): number {
  const s = Math.min(1, Math.max(0, (er - 1.05) / 0.25));
  return s * s * (3 - 2 * s);
}

/**
 * Exponent R17 of the impedance's dispersion for w/h = u over the normalised frequency (GHz mm).
 * Source: Jansen & Kirschning 1983; the even mode of a pair has the same (Kirschning & Jansen 1984, Q0).
 */
export function impedanceExponent(er: number, u: number): (fn: number) => number {
  const { r1, r10 } = permittivityConstants(er);
  const r7 = 1.206 - 0.3144 * Math.exp(-r1) * (1 - Math.exp(-0.267 * power7(u)));
  const r12 = 1 / (1 + 0.00245 * u * u);
  const u15 = (u / 15) * (u / 15);
  const r16a = 0.0503 * er * er * (1 - Math.exp(-u15 * u15 * u15));
  return (fn) => {
    const t = termsAt(fn);
    return r7 * (1 - 1.1241 * (r12 / (1 + r16a * t.r11)) * Math.exp(-t.r17 - r10 * t.r15));
  };
}

function prepare(
  substrate: Substrate,
  [width]: readonly [width: number],
  level: LineModelLevel = 'dispersive',
): PreparedSection {
  const { er, tand, height, thickness, conductivity, roughness } = substrate;
  const { z0, eeff } = statics(substrate, width);
  // Share of the field in the dielectric; at er = 1 its limit, taken just beside.
  const q0 =
    Math.abs(er - 1) > 1e-4
      ? (eeff - 1) / (er - 1)
      : (statics({ ...substrate, er: 1.001, among: undefined }, width).eeff - 1) / 0.001;
  const u = width / height;
  const dispersive = level === 'dispersive';

  // Kirschning & Jansen 1982, effective permittivity; the normalised frequency is in GHz mm.
  const normalise = height * 1e-6;
  const p1 = 0.27488 + 0.6315 * u - 0.065683 * Math.exp(-8.7513 * u);
  const constants = permittivityConstants(er);
  const { p2, p4 } = constants;
  const p3 = 0.0363 * Math.exp(-4.6 * u);
  const share = (fn: number) => {
    if (fn === 0) return q0;
    const t = termsAt(fn);
    const a = p1 + t.p1 * u;
    const p = a * p2 * Math.exp(1.5763 * (Math.log(0.1844 + p3 * t.p3 * p4) + t.log));
    return 1 - (1 - q0) / (1 + p);
  };

  // Jansen & Kirschning 1983, impedance; only R5, R8, R9, R11 and R13-R17 depend on frequency.
  // A lid close by leaves so little field in the dielectric that the formula is singular there as well.
  const weight = impedanceDispersionWeight(Math.min(er, 2 * eeff - 1));
  const r3 = 4.766 * Math.exp(-3.228 * Math.pow(u, 0.641));
  const r6 = 22.2 * Math.pow(u, 1.92);
  const r8a = constants.r8 * r3;
  const r9a = constants.r9 * Math.exp(-r6);
  const exponent = impedanceExponent(er, u);
  const logStatic = Math.log(eeff);
  const dispersion = (fn: number, e: number) => {
    const t = termsAt(fn);
    const r8 = 1 + 1.275 * (1 - Math.exp(-r8a * t.r8));
    const r9 = (r9a * t.r5) / (1 + 1.2992 * t.r5);
    const r13 = 0.9408 * Math.exp(r8 * Math.log(e)) - 0.9603;
    const r14 = (0.9408 - r9) * Math.exp(r8 * logStatic) - 0.9603;
    const ratio = r13 / r14;
    return ratio > 0 ? Math.exp(weight * exponent(fn) * Math.log(ratio)) : 1;
  };

  const impedanceAt = (f: number, [out]: readonly LinePoint[]): void => {
    if (!dispersive || f === 0) {
      out.z0 = z0;
      out.eeff = eeff;
      return;
    }
    const fn = f * normalise;
    const e = 1 + share(fn) * (er - 1);
    out.eeff = e;
    out.z0 = weight === 0 ? z0 : z0 * dispersion(fn, e);
  };

  // The derivative costs as much as the rest of the static work, so it waits until a loss is asked for.
  let slope: number | undefined;
  return {
    statics: [{ z0, eeff }],
    impedanceAt,
    at(f: number, points: readonly LinePoint[]) {
      impedanceAt(f, points);
      const [out] = points;
      slope ??= recession(substrate, width);
      out.alphaConductor =
        (surfaceResistance(f, conductivity, thickness, roughness) * slope) / (2 * ETA0 * out.z0);
      const q = Math.abs(er - 1) > 1e-4 ? (out.eeff - 1) / (er - 1) : dispersive ? share(f * normalise) : q0;
      out.alphaDielectric = (Math.PI * f * er * q * tand) / (C0 * Math.sqrt(out.eeff));
    },
  };
}

/** One ground plane below a dielectric, air or a lid above it. */
export const microstrip: Medium = {
  id: 'microstrip',
  name: 'Microstrip',
  grounds: 1,
  homogeneous: false,
  // It lies where the metal does, whose upper face is nearer to a lid.
  sheeted: (s) => ({ ...s, thickness: 0, cover: Math.max(s.cover - s.thickness, s.cover / 2) }),
  /** Hammerstad & Jensen 1980 for a wide strip; the field solution of cross-sections has it within 4 %, 8 % under lids. */
  outward: ({ thickness: t, height, er }) =>
    t > 0
      ? (t / (4 * Math.PI)) *
        (1 + Math.log((4 * height) / t)) *
        (1 + 1 / Math.cosh(Math.sqrt(Math.max(er - 1, 0))))
      : 0,
  refuse({ cover, thickness, height }) {
    if (cover <= thickness)
      return {
        field: 'cover',
        message: 'the lid must be further above the dielectric than the conductor is thick',
      };
    if (thickness >= 2 * height)
      return { field: 'thickness', message: 'the conductor must be thinner than twice the dielectric' };
    return undefined;
  },
};

/** A strip in microstrip. */
export const stripInMicrostrip: CrossSection<'strip'> = {
  name: 'Microstrip',
  shape: 'strip',
  modes: 1,
  about:
    'A strip on a dielectric over one ground plane, open or under a lid. Static impedance and permittivity by the field solution of the ' +
    'cross-section (0.02 %), with conductor thickness; dispersion by Kirschning & Jansen 1982 and Jansen & Kirschning 1983; conductor loss by ' +
    "Wheeler's incremental inductance rule on the field solution, with Hammerstad & Bekkadal roughness; dielectric loss by the filling factor.",

  prepare,

  origin(substrate, [width]) {
    const { er, height, thickness, cover } = substrate;
    const own = statics(substrate, width);
    const guess = closedStrip(er, width / height, thickness / height);
    return {
      answers: 'field solution of the cross-section',
      error: thickness > 0 ? 5e-4 : 2e-4,
      closed: {
        source: `Hammerstad & Jensen 1980${cover < Infinity ? ', which knows no lid' : ''}`,
        z0: guess.air / Math.sqrt(guess.eeff) / own.z0 - 1,
        eeff: guess.eeff / own.eeff - 1,
      },
    };
  },

  /** First transverse resonance across the strip. Source: Vendelin 1970. */
  higherOrderMode: ({ er, height }, [width]) => C0 / (Math.sqrt(er) * (2 * width + 0.8 * height)),

  warnings({ er, height, thickness, cover }, [width], f) {
    const list: LineWarning[] = [];
    const u = width / height;
    const say = (code: string, message: string) => list.push({ code, message });
    if (u < 0.1 || u > 100 || er > 20 || (f * height) / C0 > 0.13)
      say(
        'microstrip-permittivity-dispersion-range',
        'Kirschning & Jansen 1982 (permittivity over frequency) holds for w/h from 0.1 to 100, permittivity up to 20 and a height up to 0.13 free-space wavelengths.',
      );
    if (u < 0.1 || u > 10 || er > 18 || (f * height) / C0 > 0.1)
      say(
        'microstrip-impedance-dispersion-range',
        'Jansen & Kirschning 1983 (impedance over frequency) holds for w/h from 0.1 to 10, permittivity up to 18 and a height up to 0.1 free-space wavelengths.',
      );
    if (cover - thickness < 0.3 * height)
      say(
        'microstrip-cover-dispersion',
        'The dispersion formulas are those of the open line; with a lid this close most of the field lies in the air below it and follows the frequency less.',
      );
    return list;
  },
};
