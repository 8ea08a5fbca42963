import { agm } from '../numeric/elliptic';
import { C0, ETA0 } from '../numeric/constants';
import { Grid } from '../numeric/grid';
import { solvePair, type Filling, type PairCapacitance } from '../section';
import { atProportions, type Proportions } from './among';
import { closedPair } from './closed-pair';
import type {
  CrossSection,
  LineModelLevel,
  LinePoint,
  LineWarning,
  PreparedSection,
  StaticPoint,
  Substrate,
} from './contract';
import { linePoint } from './contract';
import { lossThickness } from './loss';
import { impedanceDispersionWeight, impedanceExponent, stripInMicrostrip } from './microstrip';
import { fillingOf, fromCapacitances, prepared } from './modes';
import { receding } from './recession';
import { remembered } from './remembered';
import { stripInStripline } from './stripline';

type Pair = readonly [width: number, gap: number];

const VACUUM: Filling = { below: 1, above: 1 };
const values = ({ even, odd }: PairCapacitance): [number, number] => [even.value, odd.value];

/** Side of the cells of a table in the logarithms of width and gap: its error stays below a hundredth of the solution's. */
const CELL = Math.LN2;
/** Widths and gaps, over the height, between which pairs are tabulated; others are solved each for itself. */
const TABLED = { least: 0.01, most: 16 } as const;

/** What is solved for pairs on boards of one kind of proportions, from a table of its logarithms. */
function tabled(f: (width: number, gap: number) => readonly number[], size: number): typeof f {
  const grid = new Grid((x, y) => f(Math.exp(x), Math.exp(y)).map(Math.log), CELL, size);
  const within = (x: number) => x >= TABLED.least && x <= TABLED.most;
  return (width, gap) =>
    within(width) && within(gap) ? grid.at(Math.log(width), Math.log(gap)).map(Math.exp) : f(width, gap);
}

/** Positive values at a board's proportions; of one of many boards in their logarithms. */
const amongLogs = (
  substrate: Substrate,
  between: boolean,
  at: (...proportions: Proportions) => readonly number[],
): number[] =>
  substrate.among
    ? Array.from(
        atProportions(substrate, between, (...p) => at(...p).map(Math.log)),
        Math.exp,
      )
    : Array.from(atProportions(substrate, between, at));

/** What the field solution says of pairs in microstrip; lengths over the height. */
function microstripPairs(er: number, tau: number, lid: number) {
  const thick = lossThickness(tau, 1);
  return {
    /** Capacitances of the even and the odd mode, in vacuum and then filled, F/m. */
    capacitances: tabled(
      (width, gap) =>
        solvePair(width, gap, tau, { ground: 1, cover: lid }, [VACUUM, { below: er, above: 1 }]).flatMap(
          values,
        ),
      4,
    ),
    /** Change of the impedances in vacuum when all walls recede, ohm. */
    slopes: tabled(
      (width, gap) =>
        receding(Math.min(1, width, gap, thick, lid - tau), (n) =>
          values(
            solvePair(
              width - 2 * n,
              gap + 2 * n,
              thick - 2 * n,
              // The lid recedes from the strips' upper faces.
              { ground: 1 + 2 * n, cover: lid - tau + thick },
              [VACUUM],
            )[0],
          ).map((c) => 1 / (C0 * c)),
        ),
      2,
    ),
  };
}
const inMicrostrip = remembered(microstripPairs, 16);
/**
 * Dispersion of both modes of a pair in microstrip on what they are at zero frequency. Source: Kirschning & Jansen 1984,
 * with the corrections of 1985; frequencies in GHz mm.
 * @param single the strip alone, of the same width
 */
function dispersion(
  { er, height }: Substrate,
  [width, gap]: Pair,
  [even, odd]: readonly StaticPoint[],
  single: PreparedSection,
): (f: number, out: readonly LinePoint[]) => void {
  const u = width / height;
  const g = gap / height;
  const { exp, pow, atan, abs } = Math;
  const e1 = er - 1;
  const p2 = 0.33622 * (1 - exp(-0.03442 * er));
  const p4 = 1 + 2.751 * (1 - exp(-pow(er / 15.916, 8)));
  const p5 = 0.334 * exp(-3.3 * pow(er / 15, 3)) + 0.746;
  const p7 = 4.069 * pow(g, 0.479) * exp(-1.347 * pow(g, 0.595) - 0.17 * pow(g, 2.5));
  const p8 = 0.7168 * (1 + 1.076 / (1 + 0.0576 * e1));
  const p9 = atan(2.481 * pow(er / 8, 0.946));
  const p10 = 0.242 * pow(e1, 0.55);
  const p11 = atan(1.263 * pow(u / 3, 1.629));
  const p12 = 1 + 1.183 * pow(u, 1.376);
  const p13 = exp((-1.695 * p10 * pow(g, 1.092)) / (0.414 + 1.605 * p10));
  /** How far the permittivity has come from its static value towards the dielectric's, for each mode. */
  const shares = (fn: number): [number, number] => {
    const p1 = 0.27488 + (0.6315 + 0.525 / pow(1 + 0.0157 * fn, 20)) * u - 0.065683 * exp(-8.7513 * u);
    const p3 = 0.0363 * exp(-4.6 * u) * (1 - exp(-pow(fn / 38.7, 4.97)));
    const p6 = p5 * exp(-pow(fn / 18, 0.368));
    const fe = p1 * p2 * pow((p3 * p4 + 0.1844 * (1 + p6 * p7)) * fn, 1.5763);
    const p9f = p8 - 0.7913 * (1 - exp(-pow(fn / 20, 1.424))) * p9;
    const p11f = 0.6366 * (exp(-0.3401 * fn) - 1) * p11;
    const p12f = p9f + (1 - p9f) / p12;
    const p14 = 0.8928 + 0.1072 * (1 - exp(-0.42 * pow(fn / 20, 3.215)));
    const p15 = abs(1 - (0.8928 * (1 + p11f) * p13 * p12f) / p14);
    const fo = p1 * p2 * pow((p3 * p4 + 0.1844) * fn * p15, 1.5763);
    return [fe / (1 + fe), fo / (1 + fo)];
  };

  const q11 = 0.893 * (1 - 0.3 / (1 + 0.7 * e1));
  const q12 = 2.121 * exp(-2.87 * g) * pow(g, 0.902);
  const q13 = 1 + 0.038 * pow(er / 8, 5.1);
  const er15 = pow(er / 15, 4);
  const q14 = 1 + (1.203 * er15) / (1 + er15);
  const q15 = 1.887 * exp(-1.5 * pow(g, 0.84)) * pow(g, q14);
  const q15u = (0.41 * pow(u, 2 / q13)) / (0.125 + pow(u, 1.626 / q13));
  const q16 = 1 + 9 / (1 + 0.403 * e1 * e1);
  const q17 = 0.394 * (1 - exp(-1.47 * pow(u / 7, 0.672)));
  const q18 = (0.61 * (1 - exp(-2.13 * pow(u / 8, 1.593)))) / (1 + 6.544 * pow(g, 4.17));
  const q19 = (0.21 * pow(g, 4)) / ((1 + 0.18 * pow(g, 4.9)) * (1 + 0.1 * u * u));
  const q20 = 0.09 + 1 / (1 + 0.1 * pow(e1, 2.7));
  const u25 = pow(u, 2.5);
  const q21 = abs(1 - (42.54 * pow(g, 0.133) * exp(-0.812 * g) * u25) / (1 + 0.033 * u25));
  const qe = 0.016 + pow(0.0514 * er * q21, 4.524);
  const pe = 4.766 * exp(-3.228 * pow(u, 0.641));
  const e6 = pow(e1, 6);
  const de = ((5.086 * qe) / (0.3838 + 0.386 * qe)) * exp(-22.2 * pow(u, 1.92)) * (e6 / (1 + 10 * e6));
  const ceRoot = 0.004625 * pe * pow(er, 1.674);
  const e13 = pow(e1 / 13, 12);
  const q29 = 15.16 / (1 + 0.196 * e1 * e1);
  const q26 = 30 - 22.2 * (e13 / (1 + 3 * e13)) - q29;
  const e15 = pow(e1, 1.5);
  const q27 = 0.4 * pow(g, 0.84) * (1 + (2.5 * e15) / (5 + e15));
  const q28 = (0.149 * pow(e1, 3)) / (94.5 + 0.038 * pow(e1, 3));
  const u894 = pow(u, 0.894);
  const g22 = pow(0.46 * g, 2.2);
  const q25e = 1 + (2.333 * e1 * e1) / (5 + e1 * e1);
  const exponent = impedanceExponent(er, u);
  const alone = single.statics[0].eeff;
  const weight = impedanceDispersionWeight(Math.min(er, 2 * Math.min(alone, even.eeff, odd.eeff) - 1));
  const strip = linePoint();
  const strips = [strip];

  return (f, [ofEven, ofOdd]) => {
    const fn = f * height * 1e-6;
    const [se, so] = shares(fn);
    ofEven.eeff = er - (er - even.eeff) * (1 - se);
    ofOdd.eeff = er - (er - odd.eeff) * (1 - so);
    if (weight === 0) return;
    single.impedanceAt(f, strips);

    const f20 = pow(fn / 20, 4.91);
    const ce =
      1 +
      1.275 * (1 - exp(-ceRoot * pow(fn / 18.365, 2.745))) -
      (q12 * f20) / (1 + q11 * f20) +
      (q16 * q15) / (1 + pow(fn / 15, 3) * q15u) -
      q17 * (1 - exp(-4.25 * pow(fn / 20, 1.87))) +
      q18 +
      (q20 * q19) / (1 + pow(fn / 24, 3));
    const re = pow(fn / 28.843, 12);
    const ratio =
      (0.9408 * pow(strip.eeff, ce) - 0.9603) /
      ((0.9408 - (de * re) / (1 + 1.2992 * re)) * pow(alone, ce) - 0.9603);
    if (ratio > 0) ofEven.z0 = even.z0 * exp(weight * exponent(fn) * Math.log(ratio));

    const q22 = (0.925 * pow(fn / q26, 1.536)) / (1 + 0.3 * pow(fn / 30, 1.536));
    const q23 = 1 + (0.005 * fn * q27) / ((1 + 0.812 * pow(fn / 15, 1.9)) * (1 + 0.025 * u * u));
    const q24 = (2.506 * q28 * u894 * pow(((1 + 1.3 * u) * fn) / 99.25, 4.29)) / (3.575 + u894);
    const q25 = ((0.3 * fn * fn) / (10 + fn * fn)) * q25e;
    const zo = strip.z0 + (odd.z0 * pow(ofOdd.eeff / odd.eeff, q22) - strip.z0 * q23) / (1 + q24 + g22 * q25);
    if (zo > 0) ofOdd.z0 = odd.z0 * exp(weight * Math.log(zo / odd.z0));
  };
}

/** Heights of the board beyond which strips neither see one another nor the ends of their own width; the field solution stops there. */
const FARTHEST = 1000;

/** A symmetric pair in microstrip. */
export const pairInMicrostrip: CrossSection<'pair'> = {
  name: 'Pair in microstrip',
  shape: 'pair',
  modes: 2,
  about:
    'Two equal strips on a dielectric over one ground plane, open or under a lid. Static values of the even and the odd mode by the field ' +
    'solution of the cross-section (0.02 %; thick 0.05 %); dispersion of both modes by Kirschning & Jansen 1984; conductor loss by ' +
    "Wheeler's incremental inductance rule on the field solution, dielectric loss by each mode's filling factor.",

  prepare(substrate: Substrate, dimensions, level: LineModelLevel = 'dispersive') {
    const { er, height: h, thickness: t, cover } = substrate;
    const [width, gap] = dimensions.map((d) => Math.min(d, FARTHEST * h));
    const heights = { ground: h, cover };
    const solved = (what: 'capacitances' | 'slopes') =>
      amongLogs(substrate, false, (...board) => inMicrostrip(...board)[what](width / h, gap / h));
    const [evenAir, oddAir, even, odd] = solved('capacitances');
    const air = [evenAir, oddAir];
    const statics = [fromCapacitances(evenAir, even), fromCapacitances(oddAir, odd)];
    const slopes = () => solved('slopes').map((slope) => slope / h);
    const filling = fillingOf(er, (beside) =>
      values(solvePair(width, gap, t, heights, [{ below: beside, above: 1 }])[0]).map((c, m) => c / air[m]),
    );
    const single = level === 'dispersive' ? stripInMicrostrip.prepare(substrate, [width]) : undefined;
    return prepared(
      substrate,
      statics,
      { slopes, depth: t, filling },
      single && dispersion(substrate, [width, gap], statics, single),
    );
  },

  origin({ er, height: h, thickness, cover }, [width, gap]) {
    const heights = { ground: h, cover };
    const [air, { even, odd }] = solvePair(width, gap, thickness, heights, [VACUUM, { below: er, above: 1 }]);
    const own = fromCapacitances(air.odd.value, odd.value);
    const closed = closedPair(er, width / h, gap / h).odd;
    return {
      answers: 'field solution of the cross-section',
      error: Math.max(even.error, odd.error),
      closed: {
        source: `Kirschning & Jansen 1984 for strips without thickness${cover < Infinity ? ' or lid' : ''}, odd mode,`,
        z0: closed.z0 / own.z0 - 1,
        eeff: closed.eeff / own.eeff - 1,
      },
    };
  },

  higherOrderMode: (substrate, [width]) => stripInMicrostrip.higherOrderMode(substrate, [width]),

  warnings(substrate, [width, gap], f) {
    const { er, height } = substrate;
    const [u, g] = [width / height, gap / height];
    const list: LineWarning[] = stripInMicrostrip
      .warnings(substrate, [width], f)
      .filter((w) => w.code === 'microstrip-cover-dispersion');
    if (u < 0.1 || u > 10 || g < 0.1 || g > 10 || er > 18 || f * height > 25e6)
      list.push({
        code: 'pair-dispersion-range',
        message:
          'Kirschning & Jansen 1984 (dispersion of a pair) holds for w/h and gap/h from 0.1 to 10, permittivity up to 18 and 25 GHz mm.',
      });
    return list;
  },
};

/** Impedance in vacuum of a mode of the thin pair between planes, of modulus k. Source: Cohn 1955; exact. */
const thinImpedance = (k: number, complement: number): number =>
  ((ETA0 / 4) * agm(1, complement)) / agm(1, k);

const isThin = (t: number, w: number, s: number): boolean => t < 1e-6 * Math.min(w, s);

/** Both modes' impedances in vacuum, exact for thin strips. */
function vacuum(w: number, s: number, t: number, b: number, off = 0): number[] {
  if (off === 0 && isThin(t, w, s)) {
    const x = (Math.PI * w) / (2 * b);
    const y = (Math.PI * (w + s)) / (2 * b);
    const [tx, ty, cx, cy] = [Math.tanh(x), Math.tanh(y), 1 / Math.cosh(x), 1 / Math.cosh(y)];
    // The complements of the moduli without the difference to one, which would cancel.
    const even = Math.sqrt(cx * cx + tx * tx * cy * cy);
    const odd = Math.sqrt(cx * cx - cy * cy) / ty;
    return [thinImpedance(tx * ty, even), thinImpedance(tx / ty, odd)];
  }
  const heights = { ground: (b - t) / 2 - off, cover: (b + t) / 2 + off };
  return values(solvePair(w, s, t, heights, [VACUUM])[0]).map((c) => 1 / (C0 * c));
}

/** What the field solution says of pairs in stripline; lengths over the planes' distance. */
function striplinePairs(tau: number, off: number) {
  const thick = lossThickness(tau, 1);
  return {
    /** Impedances in vacuum of the even and the odd mode, ohm. */
    vacuum: tabled((width, gap) => vacuum(width, gap, tau, 1, off), 2),
    /** Their change when all walls recede, ohm. */
    slopes: tabled(
      (width, gap) =>
        receding(Math.min(width, gap, thick, 1 - thick - 2 * off), (n) =>
          vacuum(width - 2 * n, gap + 2 * n, thick - 2 * n, 1 + 2 * n, off),
        ),
      2,
    ),
  };
}
const inStripline = remembered(striplinePairs, 16);

/** A symmetric pair in stripline. */
export const pairInStripline: CrossSection<'pair'> = {
  name: 'Pair in stripline',
  shape: 'pair',
  modes: 2,
  about:
    'Two equal strips midway between two ground planes in one dielectric. Exact by elliptic integrals (Cohn 1955) for thin conductors, by the ' +
    "field solution of the cross-section for thick ones. TEM, so without dispersion; conductor loss by Wheeler's incremental inductance rule " +
    'on the solution, dielectric loss exact.',

  prepare(substrate: Substrate, [width, gap]) {
    const { er, height, thickness, offCentre = 0 } = substrate;
    const solved = (what: 'vacuum' | 'slopes') =>
      amongLogs(substrate, true, (...board) => inStripline(...board)[what](w, g));
    const [w, g] = [width / height, gap / height];
    // Exact ones need no table.
    const impedances =
      offCentre === 0 && isThin(thickness, width, gap) ? vacuum(w, g, 0, 1) : solved('vacuum');
    const statics = impedances.map((z) => ({ z0: z / Math.sqrt(er), eeff: er }));
    const slopes = () => solved('slopes').map((slope) => slope / height);
    // The strips' current enters both faces, so each face sees half of the metal.
    return prepared(substrate, statics, { slopes, depth: thickness / 2, filling: () => 1 });
  },

  origin({ height: b, thickness: t, offCentre = 0 }, [width, gap]) {
    if (offCentre === 0 && isThin(t, width, gap))
      return { answers: 'elliptic integrals (Cohn 1955), exact', error: 0 };
    const heights = { ground: (b - t) / 2 - offCentre, cover: (b + t) / 2 + offCentre };
    const [{ even, odd }] = solvePair(width, gap, t, heights, [VACUUM]);
    const thin = vacuum(width, gap, 0, b);
    return {
      answers: 'field solution of the cross-section',
      error: Math.max(even.error, odd.error),
      closed: {
        source: 'Cohn 1955 for strips without thickness, odd mode',
        z0: thin[1] * C0 * odd.value - 1,
        eeff: 0,
      },
    };
  },

  higherOrderMode: (substrate, [width]) => stripInStripline.higherOrderMode(substrate, [width]),
  warnings: () => [],
};
