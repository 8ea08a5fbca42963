import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { layOut } from '../src/artwork';
import { resolveDesign } from '../src/network';
import { cx } from '../src/numeric';
import { parts as registry, realValues, type ElectricalContext, type ResolveContext } from '../src/parts';
import { initialInputs, RecipeError, recipes, type RecipeInputs } from '../src/recipes';
import { review } from '../src/review';
import { laminates } from '../src/stack';
import { decadeOf, preferred, preferredSeries, sectionAtCentre } from '../src/theory';
import { entry, made, response, size } from './helpers';

const f0 = 10.55e9;
const load = fc.record({
  re: fc.double({ min: 3, max: 400, noNaN: true }),
  im: fc.double({ min: -300, max: 300, noNaN: true }),
});
const ohms = (z: { re: number; im: number }) => `${z.re}${z.im < 0 ? '-' : '+'}${Math.abs(z.im)}j ohm`;
const pad = fc.constantFrom('0 mm', '0.3 mm', '0.5 mm', '1.2 mm');
const pass = fc.constantFrom('low', 'high');

/** |S11| at the design frequency, or the entry at fault. */
function outcome(id: string, inputs: RecipeInputs, level: 'ideal' | 'modelled' = 'ideal'): number | string {
  try {
    return size(entry(response(made(id, inputs).project, level, [f0]), 1, 1));
  } catch (error) {
    if (error instanceof RecipeError) return error.field;
    throw error;
  }
}
/** Values of the mounted parts from the source to the load. */
function parts(id: string, inputs: RecipeInputs) {
  const { project, design } = made(id, inputs);
  return resolveDesign(project, design).pieces.flatMap((p) =>
    p.kind === 'capacitor' || p.kind === 'inductor'
      ? [{ name: p.name, value: (p.values!.c ?? p.values!.l).re }]
      : [],
  );
}

describe('sections of mounted parts', () => {
  it('L: match every load exactly, pads included, in at least two ways', () => {
    fc.assert(
      fc.property(load, pad, (zl, p) => {
        const got = ['shunt', 'series'].flatMap((form) =>
          ['low', 'high'].map((way) => outcome('l-section', { load: ohms(zl), pad: p, form, pass: way })),
        );
        const exact = got.filter((g) => typeof g === 'number');
        for (const g of exact) expect(g).toBeLessThan(1e-9);
        for (const g of got) if (typeof g === 'string') expect(g).toBe('form');
        if (p === '0 mm') expect(exact.length).toBeGreaterThanOrEqual(2);
      }),
      { numRuns: 60 },
    );
  });

  it('Pi and T: match exactly at any Q that the resistances allow, and name the least one that they do', () => {
    fc.assert(
      fc.property(
        load,
        fc.constantFrom('pi-section', 't-section'),
        fc.double({ min: 0.2, max: 8, noNaN: true }),
        pad,
        pass,
        (zl, id, q, p, way) => {
          const inputs = { load: ohms(zl), q: String(q), pad: p, pass: way };
          const got = outcome(id, inputs);
          if (typeof got === 'number') expect(got).toBeLessThan(1e-9);
          else {
            expect(got).toBe('q');
            let words = '';
            try {
              made(id, inputs);
            } catch (error) {
              words = (error as Error).message;
            }
            const least = /at least ([\d.]+)/.exec(words)![1];
            expect(outcome(id, { ...inputs, q: least })).toBeLessThan(1e-9);
          }
        },
      ),
      { numRuns: 120 },
    );
  });

  it('a line and one part: match every load both ways, on any line that passes the source', () => {
    fc.assert(
      fc.property(
        load,
        fc.constantFrom('shunt', 'series'),
        fc.constantFrom('1', '2'),
        fc.constantFrom('', '35 ohm', '80 ohm'),
        (zl, part, solution, zLine) => {
          const got = outcome('line-and-part', { load: ohms(zl), part, solution, zLine });
          if (zLine === '' || typeof got === 'number') expect(got).toBeLessThan(1e-9);
          else expect(got).toBe('zLine');
        },
      ),
      { numRuns: 80 },
    );
  });

  it('agree with the textbook: 200 - j100 ohm on 100 ohm at 500 MHz (Pozar, example 5.1)', () => {
    const inputs = { freq: '500 MHz', z0: '100 ohm', load: '200-100j ohm', pad: '0 mm' };
    const [l1, c1] = parts('l-section', inputs);
    expect([c1.name, l1.name]).toEqual(['shunt capacitor', 'series coil']);
    expect(c1.value * 1e12).toBeCloseTo(0.92, 2);
    expect(l1.value * 1e9).toBeCloseTo(38.8, 0);
    const [c2, l2] = parts('l-section', { ...inputs, pass: 'high' });
    expect([l2.name, c2.name]).toEqual(['shunt coil', 'series capacitor']);
    expect(l2.value * 1e9).toBeCloseTo(46.1, 1);
    expect(c2.value * 1e12).toBeCloseTo(2.6, 1);
  });

  it('say in words which way round a load cannot be matched', () => {
    expect(() => made('l-section', { load: '10 ohm', pad: '0 mm' })).toThrow(
      /conductance of the load is 5 times.*in series/,
    );
    expect(() => made('l-section', { load: '200 ohm', form: 'series', pad: '0 mm' })).toThrow(
      /resistance of the load is 4 times.*across/,
    );
    expect(() => made('l-section', { load: '50 ohm' })).toThrow(/matched as it is/);
    expect(() => made('l-section', { values: 'e7' })).toThrow(/exact, e12, e24, e48, e96/);
    expect(() => made('pi-section', { pad: '-1 mm' })).toThrow(RecipeError);
    expect(() => made('l-section', { pass: 'both' })).toThrow(/low or high/);
  });

  it('take their parts from an E series, the later ones making up for the earlier', () => {
    fc.assert(
      fc.property(
        load,
        fc.constantFrom('l-section', 'pi-section', 't-section', 'line-and-part'),
        fc.constantFrom(12, 24, 96),
        (zl, id, n) => {
          const inputs = { load: ohms(zl), q: '3', values: `e${n}` };
          const got = outcome(id, inputs);
          if (typeof got === 'string') return;
          const rounded = parts(id, inputs);
          for (const { name, value } of rounded) {
            const unit = /capacitor/.test(name) ? 1e12 : 1e9;
            expect(preferred(value * unit, n)).toBeCloseTo(value * unit, 9);
          }
          // Half of the widest step, from 1.3 to 1.5 in E24, is seven per cent. The part at the load is the first.
          const exact = parts(id, { ...inputs, values: 'exact' }).at(-1)!;
          expect(Math.abs(Math.log(rounded.at(-1)!.value / exact.value))).toBeLessThan(1.8 / n);
          // What the recipe says of the match is what the network solution finds.
          const said = recipes
            .get(id)!
            .explain(
              { ...initialInputs(recipes.get(id)!), ...inputs },
              {
                stack: laminates[0],
                medium: 'microstrip',
                newId: () => '',
                data: [],
              },
            )
            .join(' ');
          const [, above, loss] = /return loss at the design frequency is (above )?([\d.]+)\s*dB/.exec(said)!;
          if (above) expect(got).toBeLessThan(2e-6);
          else expect(Number(loss)).toBeCloseTo(-20 * Math.log10(got), got < 0.01 ? 0 : 1);
        },
      ),
      { numRuns: 60 },
    );
  });

  it('lose what their qualities say: the walk through the section and the network agree', () => {
    fc.assert(
      fc.property(
        fc.constantFrom('shunt', 'series'),
        fc.double({ min: 5, max: 300, noNaN: true }),
        fc.double({ min: 5, max: 100, noNaN: true }),
        (way, x, resistance) => {
          const zl = { re: 30, im: 20 };
          const z = { re: resistance / 20, im: x };
          const { reflection, efficiency } = sectionAtCentre(
            zl,
            [
              { way: way, x, resistance: z.re },
              { way: 'link', link: { z0: 70, theta: 0.4 } },
            ],
            50,
          );
          // By voltage division, the line left out: it takes nothing.
          const power =
            way === 'series'
              ? zl.re / (zl.re + z.re)
              : zl.re / (zl.re + (z.re * (zl.re ** 2 + zl.im ** 2)) / (z.re ** 2 + z.im ** 2));
          expect(efficiency).toBeCloseTo(power, 12);
          expect(reflection).toBeLessThan(1);
        },
      ),
      { numRuns: 50 },
    );
    // Modelled, a lossy section returns less to the source of a mismatch than it would without loss.
    const inputs = { load: '10 ohm', form: 'series', pad: '0 mm' };
    const lossy = parts('l-section', inputs);
    expect(lossy).toHaveLength(2);
    const d = made('l-section', inputs);
    const piece = resolveDesign(d.project, d.design).pieces.find((p) => p.kind === 'inductor')!;
    expect(piece.values!.esr.re).toBeCloseTo((2 * Math.PI * f0 * piece.values!.l.re) / 40, 9);
  });

  it.each(['l-section', 'pi-section', 't-section', 'line-and-part'])(
    '%s lies on the board without a question',
    (id) => {
      for (const medium of ['microstrip', 'stripline'] as const)
        for (const inputs of [
          {},
          { pass: 'high' },
          { part: 'series' },
          { values: 'e24' },
        ] as RecipeInputs[]) {
          const { project, design } = made(
            id,
            { load: '10-15j ohm', form: 'series', q: '3', ...inputs },
            laminates[0],
            medium,
          );
          const resolved = resolveDesign(project, design);
          expect(resolved.problems).toEqual([]);
          const layout = layOut(resolved);
          expect(layout.closures).toEqual([]);
          expect(review(project, design, resolved, layout)).toEqual([]);
        }
    },
  );
});

describe('real capacitors and coils', () => {
  const at = f0;
  /** Impedance in series that a part shows at `f`, from the S-parameters of its two pins. */
  function impedance(kind: string, held: Record<string, number>, level: 'ideal' | 'modelled', f: number) {
    const definition = registry.get(kind)!;
    const values = definition.resolve(realValues(held), { f0: at } as ResolveContext);
    const [re, im] = [new Float64Array(4), new Float64Array(4)];
    definition
      .models![level].electrical({ values, settings: {}, facts: {} }, { f0: at } as ElectricalContext)
      .scatter(f, 50, re, im);
    const q = cx.div({ re: 100, im: 0 }, { re: re[1], im: im[1] });
    return { values, z: { re: q.re - 100, im: q.im } };
  }
  const w = 2 * Math.PI * at;

  it('have the loss that their quality or their resistance says, each the other\u2019s inverse, at the modelled level', () => {
    for (const [kind, held, x] of [
      ['capacitor', { c: 0.3e-12 }, 1 / (w * 0.3e-12)],
      ['inductor', { l: 0.8e-9 }, w * 0.8e-9],
    ] as const) {
      const byQ = impedance(kind, { ...held, q: 40 }, 'modelled', at);
      expect(byQ.z.re).toBeCloseTo(x / 40, 9);
      expect(Math.abs(byQ.z.im)).toBeCloseTo(x, 9);
      const byResistance = impedance(kind, { ...held, esr: byQ.values.esr.re }, 'modelled', at);
      expect(byResistance.values.q.re).toBeCloseTo(40, 9);
      expect(byResistance.z.re).toBeCloseTo(byQ.z.re, 12);
      expect(impedance(kind, { ...held, q: 40, srf: 2 * at }, 'ideal', at).z.re).toBeCloseTo(0, 9);
      // A coil's resistance follows the skin effect, a capacitor's stays.
      const ratio = impedance(kind, { ...held, q: 40 }, 'modelled', 4 * at).z.re / byQ.z.re;
      expect(ratio).toBeCloseTo(kind === 'inductor' ? 2 : 1, 9);
    }
    expect(impedance('capacitor', { c: 0, q: 40 }, 'modelled', at).values.esr).toBeUndefined();
  });

  it('resonate where they say: a capacitor as its resistance alone, a coil as almost an open', () => {
    const srf = 17e9;
    const c = impedance('capacitor', { c: 0.3e-12, esr: 0.4, srf }, 'modelled', srf).z;
    expect(c.re).toBeCloseTo(0.4, 9);
    expect(c.im).toBeCloseTo(0, 9);
    // Beyond it a capacitor is a coil, and far below it neither notices.
    expect(impedance('capacitor', { c: 0.3e-12, srf }, 'modelled', 2 * srf).z.im).toBeGreaterThan(0);
    const l = 0.8e-9;
    const coil = impedance('inductor', { l, q: 40, srf }, 'modelled', srf).z;
    const x = 2 * Math.PI * srf * l;
    const r = ((w * l) / 40) * Math.sqrt(srf / at);
    // Of a parallel circuit at its resonance: X^2/R - jX.
    expect(coil.re / (x ** 2 / r)).toBeCloseTo(1, 6);
    expect(coil.im / -x).toBeCloseTo(1, 5);
    for (const kind of ['capacitor', 'inductor'] as const) {
      const held: Record<string, number> = kind === 'capacitor' ? { c: 0.3e-12 } : { l };
      const [plain, real] = ([{}, { srf }] as Record<string, number>[]).map(
        (more) => impedance(kind, { ...held, ...more }, 'modelled', 1e8).z.im,
      );
      expect(real / plain).toBeCloseTo(1, 3);
    }
  });
});

describe('preferred numbers', () => {
  it('are those of the standard', () => {
    expect(decadeOf(3)).toEqual([1, 2.2, 4.7]);
    expect(decadeOf(6)).toEqual([1, 1.5, 2.2, 3.3, 4.7, 6.8]);
    expect(decadeOf(12)).toEqual([1, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2]);
    expect(decadeOf(48).slice(0, 6)).toEqual([1, 1.05, 1.1, 1.15, 1.21, 1.27]);
    expect(decadeOf(96)).toContain(9.76);
    expect(decadeOf(192)).toContain(9.2);
    for (const n of preferredSeries) {
      const d = decadeOf(n);
      expect(d).toHaveLength(n);
      for (let i = 1; i < n; i++) expect(d[i]).toBeGreaterThan(d[i - 1]);
    }
  });

  it('lie within half a step of every value, in any decade, and stay what they are', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -12, max: 12, noNaN: true }),
        fc.constantFrom(...preferredSeries),
        (e, n) => {
          const x = 10 ** e;
          const near = preferred(x, n);
          const steps = decadeOf(n);
          const widest = Math.max(...steps.map((s, i) => (i + 1 < n ? steps[i + 1] : 10) / s));
          expect(Math.abs(Math.log(near / x))).toBeLessThanOrEqual(Math.log(widest) / 2 + 1e-12);
          expect(preferred(near, n)).toBe(near);
        },
      ),
      { numRuns: 300 },
    );
    expect(preferred(9.9, 12)).toBe(10);
    expect(preferred(0, 24)).toBe(0);
    expect(() => preferred(1, 13)).toThrow(/E12, E24/);
    expect(() => preferred(-1, 12)).toThrow(/negative/);
  });
});
