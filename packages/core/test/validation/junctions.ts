import { media, Sections, type MediumId, type Substrate } from '../../src/lines';
import { C0, EPS0, ETA0, MU0 } from '../../src/numeric';
import { bendElements } from '../../src/parts/bend/model';
import { gapElements } from '../../src/parts/gap/model';
import { lineAt, plateWidth } from '../../src/parts/junction';
import { openEndLength } from '../../src/parts/open-end/model';
import { stepElements } from '../../src/parts/step/model';
import { viaInductance } from '../../src/parts/via/model';
import type { ElectricalContext } from '../../src/parts';
import { each, type Group } from './contract';

const board = (er: number, height = 1e-3): Substrate => ({
  er,
  tand: 0,
  height,
  thickness: 18e-6,
  conductivity: 5.8e7,
  roughness: 0,
  cover: Infinity,
});
const context = (medium: MediumId, substrate: Substrate, f0 = 1e9): ElectricalContext => {
  const sections = new Sections(medium, substrate);
  return {
    medium: media[medium],
    substrate,
    f0,
    data: () => undefined,
    section: (shape, ...dimensions) => sections.get(shape, ...dimensions),
  };
};
const off = (is: number, shall: number): number => Math.abs(is / shall - 1);
const { microstrip, stripline } = media;

export const junctions: Group = {
  name: 'Junctions',
  cases: [
    {
      what: 'open end, stripline',
      against: 'the exact fringing field of a half plane between plates, b ln 2/\u03C0',
      over: 'w/b 100 to 1000',
      bound: 5e-3,
      errors: () =>
        [100, 300, 1000].map((u) =>
          off(
            openEndLength(stripline, { ...board(2.2), thickness: 0 }, { width: u * 1e-3, z0: 1, eeff: 2.2 }),
            (1e-3 * Math.LN2) / Math.PI,
          ),
        ),
    },
    {
      what: 'open end, microstrip',
      against: 'Hammerstad & Bekkadal 1975',
      over: 'er 2.3 to 9.8, w/h 0.5 to 2',
      bound: 0.05,
      errors: () =>
        each([2.3, 4, 9.8], [0.5, 1, 2]).map(([er, u]) => {
          const s = { ...board(er), thickness: 0 };
          const line = lineAt(context('microstrip', s, 1e8), u * s.height);
          const other = (0.412 * (line.eeff + 0.3) * (u + 0.264)) / ((line.eeff - 0.258) * (u + 0.8));
          return off(openEndLength(microstrip, s, line) / s.height, other);
        }),
    },
    {
      what: 'step to almost nothing',
      against: 'the open end of the wide line',
      over: 'er 2.3 to 9.8, w 2 mm to 1 \u00B5m',
      bound: 0.01,
      errors: () =>
        [2.3, 4, 9.8].map((er) => {
          const s = board(er);
          const c = context('microstrip', s);
          const wide = lineAt(c, 2e-3);
          const { c: edge } = stepElements(microstrip, s, wide, lineAt(c, 1e-6));
          return off(edge, (openEndLength(microstrip, s, wide) * Math.sqrt(wide.eeff)) / (C0 * wide.z0));
        }),
    },
    {
      what: 'step, stripline, of a small difference',
      against: 'plates: inductance by the square of the difference (Marcuvitz 1951)',
      over: '4 and 7 % of the width',
      bound: 0.05,
      errors: () => {
        const s = board(2.2);
        const c = context('stripline', s);
        const wide = lineAt(c, 1.4e-3);
        const d = plateWidth(stripline, s, wide);
        return [1.35e-3, 1.3e-3].map((width) => {
          const narrow = lineAt(c, width);
          const x = 1 - plateWidth(stripline, s, narrow) / d;
          const plate = (MU0 * s.height) / 4;
          return off(
            stepElements(stripline, s, wide, narrow).l,
            (2 / (2 * Math.PI)) * plate * (((Math.PI * x) / 2) ** 2 / 2),
          );
        });
      },
    },
    {
      what: 'bend, stripline, right angle',
      against: 'the plate capacitor of its area',
      over: 'w/b 0.3 to 2',
      bound: 1e-6,
      errors: () =>
        [0.3e-3, 0.7e-3, 1.2e-3, 2e-3].map((w) => {
          const s = board(2.2);
          const line = lineAt(context('stripline', s), w);
          const d = plateWidth(stripline, s, line);
          const { c } = bendElements(stripline, s, line, Math.PI / 2, false);
          return off(c, (2 * 2.2 * EPS0 * d * d) / (s.height / 2));
        }),
    },
    {
      what: 'bend, microstrip, square, capacitance',
      against: 'Garg & Bahl 1978',
      over: 'er 2.5 to 9.8, w/h 1 to 3',
      bound: 0.2,
      errors: () =>
        each([2.5, 4, 9.8], [1, 1.5, 3]).map(([er, u]) => {
          const s = board(er);
          const line = lineAt(context('microstrip', s), u * 1e-3);
          const { c } = bendElements(microstrip, s, line, Math.PI / 2, false);
          return off(c, ((9.5 * er + 1.25) * u + 5.2 * er + 7) * u * 1e-15);
        }),
    },
    {
      what: 'gap, microstrip, far apart',
      against: 'two open ends',
      over: 'er 2.3 to 9.8, gap 6 heights',
      bound: 0.02,
      errors: () =>
        [2.3, 4, 9.8].map((er) => {
          const s = board(er);
          const line = lineAt(context('microstrip', s), 1e-3);
          const { first } = gapElements(microstrip, s, line, line, 6e-3);
          return off(first, (openEndLength(microstrip, s, line) * Math.sqrt(line.eeff)) / (C0 * line.z0));
        }),
    },
    {
      what: 'via',
      against: 'a wire over ground, \u03BC0 h/2\u03C0 (ln 2h/r \u2212 3/2)',
      over: 'h/r 300 to 3000',
      bound: 5e-3,
      errors: () =>
        [300, 1000, 3000].map((x) =>
          off(
            viaInductance(microstrip, board(4), (2 * 1e-3) / x),
            ((MU0 * 1e-3) / (2 * Math.PI)) * (Math.log(2 * x) - 1.5),
          ),
        ),
    },
    {
      what: 'plate width of microstrip',
      against: 'the parallel-plate line of the same impedance',
      over: 'w 0.3 to 3 mm',
      bound: 1e-12,
      errors: () =>
        [0.3e-3, 1e-3, 3e-3].map((w) => {
          const s = board(3);
          const line = lineAt(context('microstrip', s), w);
          return off(plateWidth(microstrip, s, line), (ETA0 * s.height) / (Math.sqrt(line.eeff) * line.z0));
        }),
    },
  ],
};
