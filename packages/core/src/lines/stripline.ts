import { agm } from '../numeric/elliptic';
import { C0, ETA0 } from '../numeric/constants';
import { Table } from '../numeric/table';
import { solveStrip } from '../section';
import { atProportions } from './among';
import type { CrossSection, Medium, Substrate } from './contract';
import { lossThickness } from './loss';
import { prepared } from './modes';
import { receding } from './recession';
import { remembered } from './remembered';

/** ln cosh x without overflow. */
const lnCosh = (x: number): number => x + Math.log1p(Math.exp(-2 * x)) - Math.LN2;

/** AGM(1, sech x), for large x by its logarithmic limit pi / (2 ln(4 cosh x)). */
const agmSech = (x: number): number =>
  x < 18 ? agm(1, 1 / Math.cosh(x)) : Math.PI / (2 * (Math.log(4) + lnCosh(x)));

/**
 * Impedance in ohm of a strip of zero thickness midway between ground planes in vacuum, for x = pi w / (2 b).
 * Source: Cohn 1954, eta/4 K(sech x)/K(tanh x); exact.
 */
export const thinStripImpedance = (x: number): number => ((ETA0 / 4) * agmSech(x)) / agm(1, Math.tanh(x));

/**
 * Argument of the equivalent thin strip for a conductor of width `w`, thickness `t` between planes `b` apart, and its
 * derivative for walls that recede by n (w - 2n, t - 2n, b + 2n).
 * Source: Wheeler 1978 for the added width; the strip is then the exact thin one in the spacing b - t, which the
 * same paper approximates.
 */
function equivalent(w: number, t: number, b: number): { x: number; slope: number } {
  const gap = b - t;
  let added = 0;
  let addedSlope = 0;
  // Thinner than an atom the added width is nothing, and its logarithms would overflow.
  if (t > 1e-12 * b) {
    const X = t / b;
    const W = w / b;
    const dX = (-2 / b) * (1 + X);
    const dW = (-2 / b) * (1 + W);
    const r = X / (1 - X);
    const dr = dX / ((1 - X) * (1 - X));
    const m = 2 / (1 + (2 / 3) * r);
    const dm = (-m * m * dr) / 3;
    const a = X / (2 - X);
    const A = a * a;
    const dA = (4 * a * dX) / ((2 - X) * (2 - X));
    const Q = (0.0796 * X) / (W + 1.1 * X);
    const B = Math.pow(Q, m);
    const dB = B * (dm * Math.log(Q) + m * (dX / X - (dW + 1.1 * dX) / (W + 1.1 * X)));
    const S = 1 - 0.5 * Math.log(A + B);
    const dS = (-0.5 * (dA + dB)) / (A + B);
    added = (r / Math.PI) * S;
    addedSlope = (dr * S + r * dS) / Math.PI;
  }
  return {
    x: 0.5 * Math.PI * (w / gap + added),
    slope: 0.5 * Math.PI * (-2 / gap - (4 * w) / (gap * gap) + addedSlope),
  };
}

/** Impedance in vacuum and its derivative (ohm/m) for receding walls, in closed form. */
function closed(w: number, t: number, b: number): { z: number; slope: number } {
  const { x, slope } = equivalent(w, t, b);
  const s = agmSech(x);
  return { z: thinStripImpedance(x), slope: ((-ETA0 * s * s) / (2 * Math.PI * Math.tanh(x))) * slope };
}

/** Impedance in vacuum of a strip of w/b = u and t/b = tau by the field solution. */
const solved = (u: number, tau: number, off: number): number => {
  const heights = { ground: (1 - tau) / 2 - off, cover: (1 + tau) / 2 + off };
  return 1 / (C0 * solveStrip(u, tau, heights, [{ below: 1, above: 1 }])[0].value);
};

/** Widths over the spacing from which on a strip's edges have long known nothing of one another. */
const WIDEST = 16;
/** Intervals of the tables, in the logarithm of the width. */
const INTERVAL = Math.log(16);

/** Logarithms of the field solution's ratio to the closed forms over the logarithm of w/b, for one t/b. */
function correctionsOf(tau: number, off: number): { readonly impedance: Table; readonly slope: Table } {
  return {
    impedance: new Table(
      (x) => {
        const u = Math.exp(x);
        return [Math.log(solved(u, tau, off) / closed(u, tau, 1).z)];
      },
      INTERVAL,
      1,
    ),
    slope: new Table(
      (x) => {
        const u = Math.exp(x);
        const [slope] = receding(Math.min(u, tau, 1 - tau - 2 * off), (n) => [
          solved((u - 2 * n) / (1 + 2 * n), (tau - 2 * n) / (1 + 2 * n), off / (1 + 2 * n)),
        ]);
        return [Math.log(slope / closed(u, tau, 1).slope)];
      },
      INTERVAL,
      1,
    ),
  };
}

const corrections = remembered(correctionsOf, 24);

/** A correction at w/b = u; past the widest the solution and the closed form differ by their edges alone. */
function correction(substrate: Substrate, u: number, tableAt: (tau: number, off: number) => Table): number {
  const at = Math.log(Math.min(u, WIDEST));
  const [value] = Array.from(atProportions(substrate, true, (tau, off) => tableAt(tau, off).at(at)));
  return Math.exp(u > WIDEST ? (value * WIDEST) / u : value);
}

const isThick = (t: number, b: number): boolean => t > 1e-6 * b;

/** Impedance in vacuum: exact for a thin strip, the field solution's for a thick one. */
function airImpedance(substrate: Substrate, w: number): number {
  const { thickness: t, height: b, offCentre = 0 } = substrate;
  const { z } = closed(w, t, b);
  return isThick(t, b) || offCentre > 0
    ? z * correction(substrate, w / b, (tau, off) => corrections(tau, off).impedance)
    : z;
}

/** Its derivative (ohm/m) for receding walls. */
const airSlope = (substrate: Substrate, w: number): number =>
  closed(w, lossThickness(substrate.thickness, substrate.height), substrate.height).slope *
  correction(substrate, w / substrate.height, (tau, off) => corrections(lossThickness(tau, 1), off).slope);

/** Two ground planes and one dielectric between them. */
export const stripline: Medium = {
  id: 'stripline',
  name: 'Stripline',
  grounds: 2,
  homogeneous: true,
  sheeted: (s) => ({ ...s, thickness: 0, height: Math.max(s.height - s.thickness, s.height / 2) }),
  /** From the exact fringing capacitance of a thick edge (Cohn 1954). */
  outward({ thickness, height }) {
    const r = height / (height - thickness);
    const added = 2 * r * Math.log(r + 1) - (thickness > 0 ? (r - 1) * Math.log(r * r - 1) : 0);
    return ((added - 2 * Math.LN2) / (2 * Math.PI)) * (height - thickness);
  },
  refuse({ thickness, height, offCentre = 0 }) {
    if (thickness < height && thickness + 2 * offCentre >= height)
      return { field: 'offCentre', message: 'puts the strip into one of the planes' };
    return thickness < height
      ? undefined
      : { field: 'thickness', message: 'the conductor must be thinner than the ground-plane spacing' };
  },
};

/** A strip in stripline. */
export const stripInStripline: CrossSection<'strip'> = {
  name: 'Stripline',
  shape: 'strip',
  modes: 1,
  about:
    'A strip midway between two ground planes in one dielectric. Exact by elliptic integrals (Cohn 1954) for a thin conductor, by the field ' +
    "solution of the cross-section (0.02 %) for a thick one. TEM, so without dispersion; conductor loss by Wheeler's incremental inductance " +
    'rule on the solution, dielectric loss exact.',

  prepare(substrate: Substrate, [width]) {
    const { er, thickness } = substrate;
    const z0 = airImpedance(substrate, width) / Math.sqrt(er);
    return prepared(substrate, [{ z0, eeff: er }], {
      slopes: () => [airSlope(substrate, width)],
      // The strip's current enters both faces, so each face sees half of the metal.
      depth: thickness / 2,
      filling: () => 1,
    });
  },

  origin(substrate, [width]) {
    const { height, thickness, offCentre = 0 } = substrate;
    if (!isThick(thickness, height) && offCentre === 0)
      return { answers: 'elliptic integrals (Cohn 1954), exact', error: 0 };
    const own = airImpedance(substrate, width);
    return {
      answers: 'field solution of the cross-section',
      error: 5e-4,
      closed: {
        source: `Wheeler 1978${offCentre > 0 ? ', in the middle' : ''}`,
        z0: closed(width, thickness, height).z / own - 1,
        eeff: 0,
      },
    };
  },

  /** First TE mode of the strip's transverse resonance. Source: Vendelin 1970. */
  higherOrderMode: ({ er, height }, [width]) => C0 / (Math.sqrt(er) * (2 * width + (Math.PI * height) / 2)),

  // The solution has no range to leave.
  warnings: ({ offCentre = 0 }) =>
    offCentre > 0
      ? [
          {
            code: 'stripline-offCentre',
            message: 'The strip lies off the middle; junctions and ends are modelled as if it lay there.',
          },
        ]
      : [],
};
