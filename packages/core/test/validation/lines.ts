import {
  analyseLine,
  crossSections,
  surfaceResistance,
  synthesiseWidth,
  type MediumId,
  type Substrate,
} from '../../src/lines';
import { agm, C0, EPS0, ETA0 } from '../../src/numeric';
import { solvePair, solveSlots } from '../../src/section';
import { solveSection } from '../reference/boundary';
import { thinStripCapacitance } from '../reference/thin-strip';
import { each, ratios, type Group } from './contract';

const unit = (change: Partial<Substrate>): Substrate => ({
  er: 1,
  tand: 0,
  height: 1,
  thickness: 0,
  conductivity: 5.8e7,
  roughness: 0,
  cover: Infinity,
  ...change,
});
const statics = (medium: MediumId, s: Substrate, w: number) =>
  crossSections.strip[medium].prepare(s, [w], 'static').statics[0];
const stripline = (w: number, t = 0) => statics('stripline', unit({ thickness: t }), w).z0;
const off = (is: number, shall: number): number => Math.abs(is / shall - 1);

/** Impedance and permittivity of a thin strip by the spectral solution, and of a thick one by boundary elements. */
function thin(w: number, er: number, cover = Infinity) {
  const [air, filled] = thinStripCapacitance(w, 1, [
    { er: 1, cover },
    { er, cover },
  ]);
  return { z0: 1 / (C0 * Math.sqrt(air * filled)), eeff: filled / air };
}
function thick(w: number, t: number, er: number, cover = Infinity) {
  const section = { width: w, thickness: t, height: 1, spacing: 1 + cover, erAbove: 1 };
  const [air, filled] = [1, er].map((e) => solveSection({ ...section, er: e }, 36).capacitance);
  return { z0: 1 / (C0 * Math.sqrt(air * filled)), eeff: filled / air };
}

const AIR = { below: 1, above: 1 };
/** Impedance of a mode of the thin pair between planes, of modulus k. Source: Cohn 1955. */
const thinPair = (k: number) => ((ETA0 / 4) * agm(1, Math.sqrt(1 - k * k))) / agm(1, k);

const WIDTHS = [0.1, 0.3, 1, 3, 8];
const board = unit({ er: 2.94, tand: 0.0012, height: 0.508e-3, thickness: 18e-6 });

export const lines: Group = {
  name: 'Lines',
  cases: [
    {
      what: 'stripline, thin',
      against: 'the self-dual strip, where K = K\u2032: exactly \u03B7/4',
      over: 'w/b = 2 asinh(1)/\u03C0',
      bound: 1e-12,
      errors: () => [off(stripline((2 * Math.asinh(1)) / Math.PI), ETA0 / 4)],
    },
    {
      what: 'stripline, thin',
      against: 'the narrow limit \u03B7/2\u03C0 ln(8b/\u03C0w) (Cohn 1954)',
      over: 'w/b 1e-6 to 1e-4',
      bound: 1e-8,
      errors: () =>
        ratios(1e-6, 1e-4, 5).map((w) =>
          off(stripline(w), (ETA0 / (2 * Math.PI)) * Math.log(8 / (Math.PI * w))),
        ),
    },
    {
      what: 'stripline, thin',
      against: 'the wide limit \u03B7/4 / (w/b + 2 ln 2/\u03C0)',
      over: 'w/b 12 to 5000',
      bound: 1e-9,
      errors: () =>
        ratios(12, 5000, 5).map((w) => off(stripline(w), ETA0 / 4 / (w + (2 * Math.LN2) / Math.PI))),
    },
    {
      what: 'stripline, thick',
      against: 'boundary elements',
      over: 'w/b 0.1 to 3, t/b 0.01 to 0.2',
      bound: 2e-4,
      errors: () =>
        each([0.1, 0.3, 1, 3], [0.01, 0.05, 0.2]).map(([w, t]) => {
          const field = solveSection({
            width: w,
            thickness: t,
            height: (1 - t) / 2,
            spacing: 1,
            er: 1,
            erAbove: 1,
          });
          return off(stripline(w, t), 1 / (C0 * field.capacitance));
        }),
    },
    {
      what: 'thin strip, spectral solution',
      against: 'the exact stripline, the lid as far as the ground',
      over: 'w/h 0.01 to 10',
      bound: 1e-9,
      errors: () =>
        ratios(0.01, 10, 6).map((w) => {
          const [c] = thinStripCapacitance(w, 1, [{ er: 1, cover: 1 }]);
          return off(1 / (C0 * c), statics('stripline', unit({ height: 2 }), w).z0);
        }),
    },
    {
      what: 'thin strip, spectral solution',
      against: 'a wire of radius w/4 over ground',
      over: 'w/h 1e-4 to 1e-3',
      bound: 1e-6,
      errors: () =>
        ratios(1e-4, 1e-3, 3).map((w) => {
          const [c] = thinStripCapacitance(w, 1, [{ er: 1, cover: Infinity }]);
          return off(c, (2 * Math.PI * EPS0) / Math.log(8 / w));
        }),
    },
    {
      what: 'boundary elements',
      against: 'the exact thin stripline',
      over: 't/b 1e-4, w/b 0.3 to 3',
      bound: 1e-3,
      errors: () =>
        [0.3, 0.6, 1, 3].map((w) => {
          const thin = { width: w, thickness: 1e-4, height: 0.49995, spacing: 1, er: 1, erAbove: 1 };
          return off(1 / (C0 * solveSection(thin, 60).capacitance), stripline(w));
        }),
    },
    {
      what: 'pair in stripline, thin, both modes',
      against: 'the exact elliptic integrals of Cohn 1955',
      over: 'w/b 0.1 to 2, gap 0.02 to 1',
      bound: 2e-4,
      errors: () =>
        each([0.1, 0.5, 1, 2], [0.02, 0.1, 0.3, 1]).flatMap(([w, s]) => {
          const { even, odd } = solvePair(w, s, 0, { ground: 0.5, cover: 0.5 }, [AIR])[0];
          const near = Math.tanh((Math.PI * w) / 2);
          const far = Math.tanh((Math.PI * (w + s)) / 2);
          return [
            off(1 / (C0 * even.value), thinPair(near * far)),
            off(1 / (C0 * odd.value), thinPair(near / far)),
          ];
        }),
    },
    {
      what: 'coplanar line, thin, in one dielectric and between two',
      against: 'the exact elliptic integrals (Wen 1969)',
      over: 'w/slot 0.2 to 40, er 1 and 9.8 below',
      bound: 2e-4,
      errors: () =>
        each([0.2, 1, 6, 40], [1, 9.8]).map(([w, er]) => {
          const below = { height: 1e4, grounded: false, cover: Infinity };
          const k = w / (w + 2);
          const exact = 2 * EPS0 * (1 + er) * (agm(1, k) / agm(1, Math.sqrt(1 - k * k)));
          return off(solveSlots(w, 1, 0, below, [er])[0].value, exact);
        }),
    },
    {
      what: 'microstrip, thin, impedance',
      against: 'the spectral solution',
      over: 'er 1 to 12.9, w/h 0.1 to 8',
      bound: 1e-4,
      errors: () =>
        each([1, 2.2, 2.94, 6.15, 9.8, 12.9], WIDTHS).map(([er, w]) =>
          off(statics('microstrip', unit({ er }), w).z0, thin(w, er).z0),
        ),
    },
    {
      what: 'microstrip, thin, permittivity',
      against: 'the spectral solution',
      over: 'er 2.2 to 12.9, w/h 0.1 to 8',
      bound: 1e-4,
      errors: () =>
        each([2.2, 2.94, 6.15, 9.8, 12.9], WIDTHS).map(([er, w]) =>
          off(statics('microstrip', unit({ er }), w).eeff, thin(w, er).eeff),
        ),
    },
    {
      what: 'microstrip, thick, impedance',
      against: 'boundary elements',
      over: 'er 2.94 and 9.8, w/h 0.3 to 5, t/h 0.02 and 0.05',
      bound: 5e-4,
      errors: () =>
        each(each([2.94, 9.8], [0.3, 1, 5]), [0.02, 0.05]).map(([[er, w], t]) =>
          off(statics('microstrip', unit({ er, thickness: t }), w).z0, thick(w, t, er).z0),
        ),
    },
    {
      what: 'microstrip, thick, permittivity',
      against: 'boundary elements',
      over: 'the same',
      bound: 8e-4,
      errors: () =>
        each(each([2.94, 9.8], [0.3, 1, 5]), [0.02, 0.05]).map(([[er, w], t]) =>
          off(statics('microstrip', unit({ er, thickness: t }), w).eeff, thick(w, t, er).eeff),
        ),
    },
    {
      what: 'microstrip under a lid, impedance',
      against: 'boundary elements',
      over: 'er 2.94 and 9.8, w/h 0.3 to 5, lid at 0.6 to 4 heights, t/h 0.04',
      bound: 5e-4,
      errors: () =>
        each(each([2.94, 9.8], [0.3, 1, 5]), [0.6, 1, 4]).map(([[er, w], cover]) =>
          off(
            statics('microstrip', unit({ er, thickness: 0.04, cover }), w).z0,
            thick(w, 0.04, er, cover).z0,
          ),
        ),
    },
    {
      what: 'microstrip, permittivity over frequency',
      against: 'Yamashita, Atsuki & Ueda 1979, stated to 1 %',
      over: 'three boards, 1 to 40 GHz',
      bound: 0.025,
      errors: () =>
        each(
          [
            [2.94, 2.5, 0.508e-3],
            [9.9, 1, 0.635e-3],
            [3.66, 0.5, 0.422e-3],
          ] as const,
          [1e9, 5e9, 10e9, 20e9, 40e9],
        ).map(([[er, u, h], f]) => {
          const s = unit({ er, height: h });
          const e0 = statics('microstrip', s, u * h).eeff;
          const F = ((4 * h * f * Math.sqrt(er - 1)) / C0) * (0.5 + (1 + 2 * Math.log10(1 + u)) ** 2);
          const other = ((Math.sqrt(er) - Math.sqrt(e0)) / (1 + 4 * F ** -1.5) + Math.sqrt(e0)) ** 2;
          return off(analyseLine('microstrip', s, u * h, f).eeff, other);
        }),
    },
    {
      what: 'conductor loss',
      against: 'the change of impedance when all walls recede (Wheeler 1942), by differences',
      over: 'microstrip open and under a lid, stripline; w 0.2 to 2 mm',
      bound: 2e-3,
      errors: () =>
        each(
          [
            ['microstrip', Infinity],
            ['microstrip', 0.7e-3],
            ['stripline', Infinity],
          ] as const,
          [0.2e-3, 0.5e-3, 2e-3],
        ).map(([[medium, cover], w]) => {
          const s = unit({ height: 0.6e-3, thickness: 30e-6, cover });
          const air = (n: number) =>
            statics(medium, { ...s, height: s.height + 2 * n, thickness: s.thickness - 2 * n }, w - 2 * n).z0;
          const n = 1e-9;
          const slope = (air(n) - air(-n)) / (2 * n);
          const line = analyseLine(medium, s, w, 10e9, 'static');
          const rs = surfaceResistance(
            10e9,
            s.conductivity,
            medium === 'stripline' ? s.thickness / 2 : s.thickness,
            0,
          );
          return off(line.lossConductor, ((rs * slope) / (2 * ETA0 * line.z0)) * (20 / Math.LN10));
        }),
    },
    {
      what: 'dielectric loss of stripline',
      against: 'exactly \u03C0 f \u221Aer tan \u03B4 / c',
      over: '1 to 40 GHz',
      bound: 1e-12,
      errors: () =>
        [1e9, 10e9, 40e9].map((f) =>
          off(
            analyseLine('stripline', board, 0.3e-3, f).lossDielectric,
            ((Math.PI * f * Math.sqrt(board.er) * board.tand) / C0) * (20 / Math.LN10),
          ),
        ),
    },
    {
      what: 'synthesis',
      against: 'the analysis of what it gives',
      over: 'both media, 20 to 130 ohm, 1 and 20 GHz',
      bound: 1e-9,
      errors: () =>
        each(each(['microstrip', 'stripline'] as const, [1e9, 20e9]), [20, 35, 50, 75, 100, 130]).map(
          ([[medium, f], z0]) =>
            off(analyseLine(medium, board, synthesiseWidth(medium, board, z0, f), f).z0, z0),
        ),
    },
  ],
};
