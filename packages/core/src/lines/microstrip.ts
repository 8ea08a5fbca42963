import { C0, EPS0, ETA0 } from '../numeric/constants';
import type {
  CrossSection,
  LineModelLevel,
  LinePoint,
  LineWarning,
  Medium,
  PreparedSection,
  Substrate,
} from './contract';
import { thinStripCapacitance } from './covered';
import { lossThickness, surfaceResistance } from './loss';

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

/** Capacitances of the thin strip at w/h = u, F/m: open in air and filled, covered in air and filled. */
function capacitances(u: number, er: number, lid: number): number[] {
  const open = [1, er].map((e) => ({ er: e, cover: Infinity }));
  const covered = [1, er].map((e) => ({ er: e, cover: lid }));
  // A lid nearer than the ground asks for finer work, which the open strip has no use for.
  return lid < 1
    ? [...thinStripCapacitance(u, 1, open), ...thinStripCapacitance(u, 1, covered)]
    : thinStripCapacitance(u, 1, [...open, ...covered]);
}

/**
 * Widths over the height up to which the lid is solved for; beyond them the edges of a covered strip no longer see one
 * another past its nearer face. The field solution's work grows with the square of the width over the nearer of lid and
 * ground, so it is bounded here, however close the lid is.
 */
const widest = (lid: number, er: number): number =>
  // Beside a strip close to the lid the dielectric's surface is at zero to er lid/(pi distance).
  lid < 1 ? Math.min(60, Math.min(120, Math.max(30, 10 * er)) * lid) : Math.min(120, Math.max(60, 3 * lid));

const lnSinh = (x: number): number => x + Math.log1p(-Math.exp(-2 * x)) - Math.LN2;

/**
 * What a strip of w/h = u between ground and a lid has more than one of w/h = v, F/m: its part of the plate capacitor
 * towards the lid, and below it the flux of a strip in the plane of the lid, whose two edges do see one another while it
 * is narrow against the height: the integral of (1/h) / (1 - exp(-pi x/h)) from either edge (the conformal map of a
 * strip whose wall changes its potential), (2 er/pi) ln sinh(pi u/2). For wide strips that is the other plate capacitor.
 */
const widened = (u: number, v: number, er: number, lid: number): number =>
  EPS0 * ((u - v) / lid + ((2 * er) / Math.PI) * (lnSinh((Math.PI * u) / 2) - lnSinh((Math.PI * v) / 2)));

/** Solutions by width, permittivity and lid: a design asks for the same lines again at every edit. */
const solutions = new Map<string, number[]>();
const KEPT = 4096;

function solved(u: number, er: number, lid: number): number[] {
  const key = `${u} ${er} ${lid}`;
  let found = solutions.get(key);
  if (!found) {
    if (solutions.size >= KEPT) solutions.clear();
    solutions.set(key, (found = capacitances(u, er, lid)));
  }
  return found;
}

/** Ratio of covered to open thin strip: impedance in vacuum, and effective permittivity, at w/h = u. */
function coverFactors(u: number, er: number, lid: number): { z: number; eeff: number } {
  if (lid === Infinity) return { z: 1, eeff: 1 };
  const limit = widest(lid, er);
  const [openAir, open, air, filled] = solved(Math.min(u, limit), er, lid);
  if (u <= limit) return { z: openAir / air, eeff: ((filled / air) * openAir) / open };
  const covered = air + widened(u, limit, 1, lid);
  // The open strip follows its closed formulas from there on.
  const openHere = (openAir * airImpedance(limit).z) / airImpedance(u).z;
  const openEeff = ((open / openAir) * thinPermittivity(u, er)) / thinPermittivity(limit, er);
  return { z: openHere / covered, eeff: (filled + widened(u, limit, er, lid)) / covered / openEeff };
}

/**
 * The added width as a strip under a lid shows it: all of it far from the lid; none where the gap to the lid is small
 * against it, because the plate capacitor there has the width of the conductor itself.
 */
const underLid = (d: number, lid: number): number => d / (1 + (d / lid) ** 2);

/** Distance to the lid over the height as the strip sees it: a thick conductor's upper face is nearer by its thickness. */
const lidDistance = (cover: number, t: number, h: number): number => (cover - t) / h;

/** Impedance and effective permittivity at zero frequency. */
function statics({ er, height, thickness, cover }: Substrate, width: number): Statics {
  const u = width / height;
  const distance = lidDistance(cover, thickness, height);
  const d = underLid(addedWidth(u, thickness / height).d, distance);
  const u1 = u + d;
  const ur = u + 0.5 * d * (1 + 1 / Math.cosh(Math.sqrt(Math.max(er - 1, 0))));
  const z1 = airImpedance(u1).z;
  const zr = airImpedance(ur).z;
  const lid = coverFactors(ur, er, distance);
  const thin = thinPermittivity(ur, er) * lid.eeff;
  const ratio = z1 / zr;
  return { z0: (zr * lid.z) / Math.sqrt(thin), eeff: thin * ratio * ratio };
}

/**
 * Change of the impedance in vacuum (ohm/m) when all walls recede by n: w - 2n, t - 2n, h + 2n, the gap below the lid
 * by 2n.
 */
function recession({ height, thickness, cover }: Substrate, width: number): number {
  const t = lossThickness(thickness, height);
  const open = (n: number) => {
    const h = height + 2 * n;
    const u = (width - 2 * n) / h;
    const tau = (t - 2 * n) / h;
    const added = addedWidth(u, tau);
    return { u, tau, h, added, u1: u + added.d };
  };
  if (cover === Infinity) {
    const g = open(0);
    const du = (-2 / height) * (1 + g.u);
    const dtau = (-2 / height) * (1 + g.tau);
    return airImpedance(g.u1).slope * (du * (1 + g.added.byU) + dtau * g.added.byTau);
  }
  // The lid's factor comes from quadrature, smooth to rounding: the derivative is a central difference.
  const covered = (n: number) => {
    const g = open(n);
    const lid = (cover - thickness + 2 * n) / g.h;
    const u1 = g.u + underLid(g.added.d, lid);
    return airImpedance(u1).z * coverFactors(u1, 1, lid).z;
  };
  const step = 1e-4 * Math.min(height, width, t, cover - thickness);
  return (covered(step) - covered(-step)) / (2 * step);
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
function impedanceDispersionWeight(er: number): number {
  const s = Math.min(1, Math.max(0, (er - 1.05) / 0.25));
  return s * s * (3 - 2 * s);
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
      : (statics({ ...substrate, er: 1.001 }, width).eeff - 1) / 0.001;
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
  const r2 = 0.267 * power7(u);
  const r3 = 4.766 * Math.exp(-3.228 * Math.pow(u, 0.641));
  const r6 = 22.2 * Math.pow(u, 1.92);
  const r7 = 1.206 - 0.3144 * Math.exp(-constants.r1) * (1 - Math.exp(-r2));
  const r8a = constants.r8 * r3;
  const r9a = constants.r9 * Math.exp(-r6);
  const { r10 } = constants;
  const r12 = 1 / (1 + 0.00245 * u * u);
  const u15 = (u / 15) * (u / 15);
  const r16a = 0.0503 * er * er * (1 - Math.exp(-u15 * u15 * u15));
  const logStatic = Math.log(eeff);
  const dispersion = (fn: number, e: number) => {
    const t = termsAt(fn);
    const r8 = 1 + 1.275 * (1 - Math.exp(-r8a * t.r8));
    const r9 = (r9a * t.r5) / (1 + 1.2992 * t.r5);
    const r13 = 0.9408 * Math.exp(r8 * Math.log(e)) - 0.9603;
    const r14 = (0.9408 - r9) * Math.exp(r8 * logStatic) - 0.9603;
    const r16 = 1 + r16a * t.r11;
    const r17 = r7 * (1 - 1.1241 * (r12 / r16) * Math.exp(-t.r17 - r10 * t.r15));
    const ratio = r13 / r14;
    return ratio > 0 ? Math.exp(weight * r17 * Math.log(ratio)) : 1;
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
  shape: 'strip',
  medium: microstrip,
  modes: 1,
  about:
    'A strip on a dielectric over one ground plane. Static impedance and permittivity with conductor thickness by Hammerstad & Jensen 1980 ' +
    '(within 0.2 % of the field solution); a lid by the ratio of covered to open field solutions; dispersion by Kirschning & Jansen 1982 and ' +
    "Jansen & Kirschning 1983; conductor loss by Wheeler's incremental inductance rule with Hammerstad & Bekkadal roughness, dielectric loss by the filling factor.",

  prepare,

  /** First transverse resonance across the strip. Source: Vendelin 1970. */
  higherOrderMode: ({ er, height }, [width]) => C0 / (Math.sqrt(er) * (2 * width + 0.8 * height)),

  warnings({ er, height, thickness, cover }, [width], f) {
    const list: LineWarning[] = [];
    const u = width / height;
    const say = (code: string, message: string) => list.push({ code, message });
    if (u < 0.01 || u > 100 || er > 128)
      say(
        'microstrip-static-range',
        'Hammerstad & Jensen 1980 (static impedance) holds for w/h from 0.01 to 100 and permittivity up to 128.',
      );
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
    if (thickness > 0.2 * height || thickness > width)
      say(
        'microstrip-thickness-range',
        'Hammerstad & Jensen 1980 (thickness) is checked for conductors up to a fifth of the height and no thicker than wide.',
      );
    if (cover !== Infinity && thickness > 0.2 * cover)
      say(
        'microstrip-cover-range',
        'The lid correction is within 0.5 % for conductors up to a fifth of the distance to the lid.',
      );
    if (cover - thickness < 0.3 * height)
      say(
        'microstrip-cover-dispersion',
        'The dispersion formulas are those of the open line; with a lid this close most of the field lies in the air below it and follows the frequency less.',
      );
    return list;
  },
};
