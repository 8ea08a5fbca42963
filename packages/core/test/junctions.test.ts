import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { cascade, type Electrical } from '../src/electrical';
import { provideTables } from '../src/junctions';
import { junctionTables } from '../src/junctions/tables';
import { media, Sections, synthesiseWidth, type MediumId, type Substrate } from '../src/lines';
import { lineCalculator } from '../src/network';
import { C0, ETA0, MU0 } from '../src/numeric';
import {
  parts,
  realValues,
  type ElectricalContext,
  type PartValues,
  type ResolveContext,
} from '../src/parts';
import { bendElements } from '../src/parts/bend/model';
import { gapElements } from '../src/parts/gap/model';
import { lineAt, plateWidth } from '../src/parts/junction';
import { openEndLength } from '../src/parts/open-end/model';
import { stepElements } from '../src/parts/step/model';
import { teeElements } from '../src/parts/tee/model';
import { parseExpression } from '../src/units';
import { viaInductance } from '../src/parts/via/model';

const board = (er = 2.94, height = 0.508e-3): Substrate => ({
  er,
  tand: 0.0012,
  height,
  thickness: 18e-6,
  conductivity: 5.8e7,
  roughness: 0.5e-6,
  cover: Infinity,
});
const sectionsOf = (medium: MediumId, substrate: Substrate): Sections['get'] => {
  const sections = new Sections(medium, substrate);
  return (shape, ...dimensions) => sections.get(shape, ...dimensions);
};
const electrical = (medium: MediumId, substrate: Substrate, f0 = 10e9): ElectricalContext => ({
  medium: media[medium],
  substrate,
  f0,
  section: sectionsOf(medium, substrate),
  data: () => undefined,
});
/** A context in which pin i meets a line of widths[i]. */
const meeting = (
  medium: MediumId,
  substrate: Substrate,
  widths: readonly number[],
  settings = {},
): ResolveContext => ({
  ...electrical(medium, substrate),
  settings,
  neighbour: (pin) => widths[pin],
  beside: (pin) => (widths[pin] === undefined ? undefined : widths[pin] / 4),
  bare: () => false,
  pad: () => undefined,
  open: () => undefined,
  corner: () => undefined,
  turns: () => [],
  ...lineCalculator(medium, substrate, 10e9),
});

interface Made {
  readonly pins: number;
  readonly values: PartValues;
  s(f: number, level?: 'ideal' | 'modelled'): { re: Float64Array; im: Float64Array };
}

/** A part grown as one of its variants between lines of those widths. */
function make(
  variant: string,
  widths: readonly number[],
  medium: MediumId = 'microstrip',
  substrate = board(),
  more: Readonly<Record<string, number>> = {},
): Made {
  const part = [...parts.values()].find((p) => p.variants.some((v) => v.id === variant))!;
  const chosen = part.variants.find((v) => v.id === variant)!;
  const settings = chosen.settings ?? {};
  const usual: Record<string, number> = { z0: 50, theta: 1, gap: 0.2e-3, reach: 3e-3, angle: 1, turn: 1 };
  const held = Object.fromEntries(Object.keys(chosen.held).map((face) => [face, usual[face]]));
  const read = realValues({ ...held, ...more });
  const around = meeting(medium, substrate, widths, settings);
  const values = part.resolve(read, around);
  const facts = part.facts?.(read, around) ?? {};
  const pins = part.pins(settings, () => undefined);
  const context = electrical(medium, substrate);
  return {
    pins,
    values,
    s(f, level = 'modelled') {
      const re = new Float64Array(pins * pins);
      const im = new Float64Array(pins * pins);
      part.models![level].electrical({ values, settings, facts }, context).scatter(f, 50, re, im);
      return { re, im };
    },
  };
}
const size = (s: { re: Float64Array; im: Float64Array }, at: number) => Math.hypot(s.re[at], s.im[at]);
const phase = (s: { re: Float64Array; im: Float64Array }, at: number) => Math.atan2(s.im[at], s.re[at]);

/** Every variant of what stands at a joint, as the registry has it. */
const JUNCTIONS = [...parts.values()]
  .filter((p) => p.models && !p.impedance && ['junction', 'stub', 'end'].includes(p.group))
  .flatMap((p) => p.variants.map((v) => v.id));

describe.each([
  ['by closed forms', []],
  ['by tables', junctionTables],
])('every part that stands at a joint, %s', (_how, tables) => {
  beforeAll(() => provideTables(tables));
  afterAll(() => provideTables([]));
  const medium = fc.constantFrom<MediumId>('microstrip', 'stripline');
  const width = fc.double({ min: 0.1, max: 3, noNaN: true });
  it.each(JUNCTIONS)('%s is reciprocal and passive at any width, board and frequency', (variant) => {
    fc.assert(
      fc.property(
        medium,
        fc.double({ min: 1.05, max: 12, noNaN: true }),
        fc.array(width, { minLength: 4, maxLength: 4 }),
        fc.oneof(fc.constant(0), fc.double({ min: 1, max: 40e9, noNaN: true })),
        fc.array(fc.double({ min: -1, max: 1, noNaN: true }), { minLength: 8, maxLength: 8 }),
        (kind, er, widths, f, wave) => {
          const part = make(
            variant,
            widths.map((w) => w * 0.508e-3),
            kind,
            board(er),
          );
          const { re, im } = part.s(f);
          const n = part.pins;
          let inwards = 0;
          let outwards = 0;
          for (let i = 0; i < n; i++) {
            inwards += wave[2 * i] ** 2 + wave[2 * i + 1] ** 2;
            let [x, y] = [0, 0];
            for (let j = 0; j < n; j++) {
              const at = i * n + j;
              if (Math.hypot(re[at] - re[j * n + i], im[at] - im[j * n + i]) > 1e-10) return false;
              x += re[at] * wave[2 * j] - im[at] * wave[2 * j + 1];
              y += re[at] * wave[2 * j + 1] + im[at] * wave[2 * j];
            }
            outwards += x * x + y * y;
          }
          return Number.isFinite(outwards) && outwards <= inwards * (1 + 1e-9) + 1e-12;
        },
      ),
      { numRuns: 150 },
    );
  });

  it.each(JUNCTIONS)('%s becomes ideal towards zero frequency', (variant) => {
    for (const kind of ['microstrip', 'stripline'] as const) {
      const part = make(variant, [1.2e-3, 0.7e-3, 0.5e-3, 1e-3], kind);
      const f = 1e4;
      const [real, ideal] = [part.s(f), part.s(f, 'ideal')];
      // A stub and a via keep their direct-current resistance.
      real.re.forEach((x, i) => {
        expect(x).toBeCloseTo(ideal.re[i], 2);
        expect(real.im[i]).toBeCloseTo(ideal.im[i], 3);
      });
    }
  });
});

describe('limits', () => {
  it('no step is nothing, and a mirrored step is the same seen from the other side', () => {
    for (const kind of ['microstrip', 'stripline'] as const) {
      const none = make('step', [1e-3, 1e-3], kind).s(20e9);
      expect(size(none, 0)).toBeLessThan(1e-12);
      expect(none.re[1]).toBeCloseTo(1, 12);
      const there = make('step', [1.5e-3, 0.4e-3], kind).s(15e9);
      const back = make('step', [0.4e-3, 1.5e-3], kind).s(15e9);
      expect(there.re[0]).toBeCloseTo(back.re[3], 12);
      expect(there.im[3]).toBeCloseTo(back.im[0], 12);
    }
  });

  it('a step down to almost nothing is the open end of the wide line', () => {
    const context = electrical('microstrip', board());
    const wide = lineAt(context, 2e-3);
    const { c } = stepElements(media.microstrip, board(), wide, lineAt(context, 1e-6));
    const open = (openEndLength(media.microstrip, board(), wide) * Math.sqrt(wide.eeff)) / (C0 * wide.z0);
    expect(c / open).toBeCloseTo(1, 2);
  });

  it('a bend of no angle is nothing, and a curve is as long as its arc', () => {
    for (const kind of ['microstrip', 'stripline'] as const) {
      const straight = make('bend-square-left', [1e-3, 1e-3], kind, board(), { angle: 1e-6 }).s(15e9);
      expect(size(straight, 0)).toBeLessThan(1e-4);
      expect(phase(straight, 1)).toBeCloseTo(0, 4);
      const angle = 1.1;
      const radius = 4e-3;
      const w = synthesiseWidth(kind, board(), 50, 10e9);
      const curve = make('bend-curved-left', [w, w], kind, board(), { angle, radius });
      const line = lineAt(electrical(kind, board()), w);
      const beta = (2 * Math.PI * 5e9 * Math.sqrt(line.eeff)) / C0;
      // Two tangents to the corner, less what the arc saves.
      const saved = 2 * radius * Math.tan(angle / 2) - radius * angle;
      const s = curve.s(5e9);
      expect(phase(s, 1)).toBeCloseTo(beta * saved, 2);
    }
  });

  it('a mitre reflects less than a square corner where the line is as wide as the board is high', () => {
    const at = (variant: string) => size(make(variant, [1.28e-3, 1.28e-3]).s(10e9), 0);
    expect(at('bend-mitred-left')).toBeLessThan(0.5 * at('bend-square-left'));
  });

  it('far apart, a gap is two open ends', () => {
    for (const kind of ['microstrip', 'stripline'] as const) {
      const substrate = board();
      const gap = make('gap', [1e-3, 1e-3], kind, substrate, { gap: 6 * substrate.height }).s(5e9);
      const end = make('open-end', [1e-3], kind, substrate).s(5e9);
      expect(size(gap, 1)).toBeLessThan(1e-3);
      expect(phase(gap, 0)).toBeCloseTo(phase(end, 0), 1);
    }
  });

  it('a gap follows from its capacitance and back', () => {
    const first = make('gap', [1e-3, 0.6e-3]);
    const c = first.values.c.re;
    const part = parts.get('gap')!;
    const back = part.resolve(realValues({ c }), meeting('microstrip', board(), [1e-3, 0.6e-3]));
    expect(back.gap.re / 0.2e-3).toBeCloseTo(1, 9);
    expect(() => part.resolve(realValues({ c: 1e-9 }), meeting('microstrip', board(), [1e-3, 1e-3]))).toThrow(
      /cannot be reached/,
    );
  });

  it('a narrow radial stub is a uniform one', () => {
    const entry = 0.5e-3;
    const length = 3e-3;
    const radial = make('radial-stub', [entry], 'microstrip', board(), {
      reach: length,
      angle: 0.018,
      entry,
    });
    const stub = parts.get('open-stub')!;
    const mean = entry + (0.018 * length) / 2;
    const values = stub.resolve(realValues({ width: mean, length }), meeting('microstrip', board(), []));
    const re = new Float64Array(1);
    const im = new Float64Array(1);
    stub
      .models!.modelled.electrical({ values, settings: {}, facts: {} }, electrical('microstrip', board()))
      .scatter(10e9, 50, re, im);
    expect(phase(radial.s(10e9), 0)).toBeCloseTo(Math.atan2(im[0], re[0]), 1);
  });

  /** Entry (i, j) of S with the last pin left open. */
  const opened = ({ re, im }: { re: Float64Array; im: Float64Array }, n: number, i: number, j: number) => {
    const last = n - 1;
    const d = { re: 1 - re[last * n + last], im: -im[last * n + last] };
    const [ar, ai] = [re[i * n + last], im[i * n + last]];
    const [br, bi] = [re[last * n + j], im[last * n + j]];
    const [pr, pi] = [ar * br - ai * bi, ar * bi + ai * br];
    const q = d.re * d.re + d.im * d.im;
    return Math.hypot(
      re[i * n + j] + (pr * d.re + pi * d.im) / q,
      im[i * n + j] + (pi * d.re - pr * d.im) / q,
    );
  };

  it('a tee with a hair for an open side arm is the line itself, and its halves are alike', () => {
    for (const kind of ['microstrip', 'stripline'] as const) {
      const s = make('tee-left', [1.2e-3, 1.2e-3, 2e-6], kind).s(8e9);
      expect(opened(s, 3, 0, 1)).toBeGreaterThan(0.97);
      const even = make('tee-left', [1e-3, 1e-3, 0.6e-3], kind).s(8e9);
      expect(even.re[0]).toBeCloseTo(even.re[4], 12);
      expect(even.im[6]).toBeCloseTo(even.im[7], 12);
    }
  });

  it('a cross whose one side arm is an open hair is a tee', () => {
    const tee = make('tee-left', [1.2e-3, 1.2e-3, 0.8e-3]).s(8e9);
    const cross = make('cross', [1.2e-3, 1.2e-3, 0.8e-3, 1e-6]).s(8e9);
    for (let i = 0; i < 3; i++)
      for (let j = 0; j < 3; j++)
        expect(Math.abs(opened(cross, 4, i, j) - size(tee, 3 * i + j))).toBeLessThan(0.1);
  });

  it('a part mounted at the side of a line leaves the line alone', () => {
    const part = parts.get('tee')!;
    const context = { ...meeting('microstrip', board(), [1e-3, 1e-3]), bare: (pin: number) => pin === 2 };
    const values = part.resolve({}, context);
    const re = new Float64Array(9);
    const im = new Float64Array(9);
    const facts = part.facts!({}, context);
    part
      .models!.modelled.electrical({ values, settings: {}, facts }, electrical('microstrip', board()))
      .scatter(10e9, 50, re, im);
    re.forEach((x, i) => expect(x).toBeCloseTo(2 / 3 - (i % 4 === 0 ? 1 : 0), 12));
  });
});

describe('a line that curves, by its table', () => {
  beforeAll(() => provideTables(junctionTables));
  afterAll(() => provideTables([]));
  const MM = 1e-3;
  const scattered = (part: Electrical, f: number) => {
    const s = { re: new Float64Array(4), im: new Float64Array(4) };
    part.scatter(f, 50, s.re, s.im);
    return s;
  };
  const drawn = (
    kind: string,
    values: Readonly<Record<string, number>>,
    medium: MediumId,
    substrate = board(),
    settings = {},
  ) =>
    parts
      .get(kind)!
      .models!.modelled.electrical(
        { values: realValues(values), settings, facts: {} },
        electrical(medium, substrate),
      );
  const apart = (a: ReturnType<typeof scattered>, b: ReturnType<typeof scattered>) =>
    Math.max(...a.re.map((x, i) => Math.hypot(x - b.re[i], a.im[i] - b.im[i])));
  const arc = (width: number, radius: number, turn: number, more = {}) => ({
    width,
    radius,
    turn,
    lead: 0,
    length: Math.abs(radius * turn),
    ...more,
  });

  it.each(['microstrip', 'stripline'] as const)('is straight where it hardly curves, in %s', (medium) => {
    const straight = scattered(drawn('line', { width: MM, length: 10 * MM }, medium), 8e9);
    const slack = scattered(drawn('line', arc(MM, 1000 * MM, 0.01), medium), 8e9);
    expect(apart(straight, slack)).toBeLessThan(1e-5);
    const tight = scattered(drawn('line', arc(MM, 2 * MM, 5), medium), 8e9);
    expect(apart(straight, tight)).toBeGreaterThan(0.03);
  });

  it('is as long as its centre line where no table holds the board', () => {
    const [straight, bent] = [{ width: MM, length: 10 * MM }, arc(MM, 2 * MM, 5)].map((values) =>
      scattered(drawn('line', values, 'microstrip', board(20)), 8e9),
    );
    expect(apart(straight, bent)).toBe(0);
  });

  it('is its straight pieces and its arc one after the other, whichever way it turns', () => {
    for (const medium of ['microstrip', 'stripline'] as const) {
      const [width, radius] = [0.9 * MM, 1.6 * MM];
      const bent = arc(width, radius, 1.4);
      const piece = (length: number) => drawn('line', { width, length }, medium);
      const whole = drawn('line', { ...bent, lead: 2 * MM, length: bent.length + 5 * MM }, medium);
      const pieces = cascade([piece(2 * MM), drawn('line', bent, medium), piece(3 * MM)]);
      const right = drawn(
        'line',
        { ...bent, radius: -radius, turn: -1.4, lead: 2 * MM, length: bent.length + 5 * MM },
        medium,
      );
      for (const f of [3e9, 14e9]) {
        expect(apart(scattered(whole, f), scattered(pieces, f))).toBeLessThan(2e-4);
        expect(apart(scattered(whole, f), scattered(right, f))).toBe(0);
      }
      // A curved bend is the same between arms that reach to its corner.
      const reach = radius * Math.tan(0.7);
      const bend = drawn('bend', { width, angle: 1.4, radius }, medium, board(), { shape: 'curved' });
      const cornered = cascade([piece(reach), bend, piece(reach)]);
      expect(apart(scattered(cornered, 9e9), scattered(drawn('line', bent, medium), 9e9))).toBeLessThan(2e-3);
    }
  });
});

describe('against other sources', () => {
  it('the open end agrees with Hammerstad & Bekkadal 1975 within 5 %', () => {
    for (const er of [2.3, 4, 9.8])
      for (const u of [0.5, 1, 2]) {
        const substrate = { ...board(er), thickness: 0 };
        const line = lineAt(electrical('microstrip', substrate, 1e8), u * substrate.height);
        const other = (0.412 * (line.eeff + 0.3) * (u + 0.264)) / ((line.eeff - 0.258) * (u + 0.8));
        const ratio = openEndLength(media.microstrip, substrate, line) / substrate.height / other;
        expect(ratio).toBeGreaterThan(0.95);
        expect(ratio).toBeLessThan(1.05);
      }
  });

  it('the stripline\u2019s open end is exact for a wide strip, thick or not', () => {
    // The fringing field of a half plane between two plates: b ln 2 / pi; of a thick one 2 / pi (Cohn 1954), less what is near plates.
    const [b, t] = [1e-3, 100e-6];
    const line = { width: 1, z0: 1, eeff: 2.2 };
    const of = (thickness: number) => openEndLength(media.stripline, { ...board(2.2, b), thickness }, line);
    expect(of(0) / ((b * Math.LN2) / Math.PI)).toBeCloseTo(1, 3);
    const r = b / (b - t);
    const fringing = (2 * r * Math.log(r + 1) - (r - 1) * Math.log(r * r - 1)) / Math.PI;
    const thin = (2 * Math.LN2) / Math.PI;
    expect((of(t) - of(0)) / (((fringing - thin) * (b - t)) / 2)).toBeCloseTo(1, 9);
  });

  it('the square bend\u2019s capacitance agrees with Garg & Bahl 1978 within 20 %', () => {
    for (const er of [2.5, 4, 9.8])
      for (const u of [1, 1.5, 3]) {
        const substrate = board(er, 1e-3);
        const line = lineAt(electrical('microstrip', substrate), u * 1e-3);
        const { c } = bendElements(media.microstrip, substrate, line, Math.PI / 2, false);
        const other = ((9.5 * er + 1.25) * u + 5.2 * er + 7) * u * 1e-15;
        expect(Math.abs(c / other - 1)).toBeLessThan(0.2);
      }
  });

  it('the stripline bend\u2019s plate is its area', () => {
    // At a right angle X_b = -lambda / (2 pi D): the capacitance of a plate D by D.
    const substrate = board(2.2, 1e-3);
    const line = lineAt(electrical('stripline', substrate), 1.2e-3);
    const d = plateWidth(media.stripline, substrate, line);
    const { c } = bendElements(media.stripline, substrate, line, Math.PI / 2, false);
    const plates = (2 * 2.2 * 8.8541878128e-12 * d * d) / (substrate.height / 2);
    expect(c / plates).toBeCloseTo(1, 6);
  });

  it('the stripline step grows with the square of a small difference in width, as between plates (Marcuvitz 1951)', () => {
    const substrate = board(2.2, 1e-3);
    const context = electrical('stripline', substrate);
    const wide = lineAt(context, 1.4e-3);
    const d = plateWidth(media.stripline, substrate, wide);
    for (const width of [1.35e-3, 1.3e-3]) {
      const narrow = lineAt(context, width);
      const { l } = stepElements(media.stripline, substrate, wide, narrow);
      // ln cosec(pi/2 (1 - x)) tends to (pi x / 2)^2 / 2; a plate D long has the inductance mu0 b / 4 on both sides.
      const x = 1 - plateWidth(media.stripline, substrate, narrow) / d;
      const plate = (MU0 * substrate.height) / 4;
      expect(l / ((2 / (2 * Math.PI)) * plate * (((Math.PI * x) / 2) ** 2 / 2))).toBeCloseTo(1, 1);
    }
  });

  it('the gap couples less the wider it is, without a jump in its ranges', () => {
    const substrate = board(9.8, 0.635e-3);
    const line = lineAt(electrical('microstrip', substrate), 0.6e-3);
    let last = Infinity;
    for (let s = 0.05; s < 3; s *= 1.05) {
      const { across, first, second } = gapElements(
        media.microstrip,
        substrate,
        line,
        line,
        s * substrate.height,
      );
      expect(across).toBeLessThan(last);
      expect(last === Infinity || across > 0.7 * last).toBe(true);
      expect(first).toBeCloseTo(second, 25);
      last = across;
    }
  });

  it('the hole\u2019s inductance tends to that of a wire over ground', () => {
    // Goldfarb & Pucel 1991 for h much larger than r: mu0 h / 2 pi (ln(2h/r) - 3/2).
    const [h, r] = [1e-3, 1e-6];
    const l = viaInductance(media.microstrip, board(4, h), 2 * r);
    expect(l / ((MU0 * h) / (2 * Math.PI))).toBeCloseTo(Math.log((2 * h) / r) - 1.5, 2);
    expect(viaInductance(media.stripline, board(4, 2 * h), 2 * r) / l).toBeCloseTo(0.5, 9);
  });

  it('the tee\u2019s side plane lies about half the main line\u2019s plate away from the middle for a thin side arm', () => {
    const substrate = board();
    const context = electrical('microstrip', substrate);
    const main = lineAt(context, 1.3e-3);
    const e = teeElements(media.microstrip, substrate, main, main, lineAt(context, 0.05e-3))(1e9);
    const plate = plateWidth(media.microstrip, substrate, main);
    expect(plate / ((ETA0 * substrate.height) / (Math.sqrt(main.eeff) * main.z0))).toBeCloseTo(1, 12);
    expect(e.d2 / plate).toBeGreaterThan(0.25);
    expect(e.d2 / plate).toBeLessThan(0.5);
    expect(e.da / plate).toBeLessThan(0.03);
  });
});

describe('the registry of parts', () => {
  it.each([...parts.values()].map((p) => [p.kind, p] as const))(
    '%s explains itself, grows and draws its pins',
    (_kind, part) => {
      expect(part.about.length).toBeGreaterThan(20);
      for (const property of part.properties)
        for (const face of property.faces) expect(face.help.length).toBeGreaterThan(15);
      expect(part.variants.length).toBeGreaterThan(0);
      for (const variant of part.variants) {
        const settings = variant.settings ?? {};
        const pins = part.pins(settings, () => undefined);
        const usual: Record<string, number> = {
          z0: 50,
          z: 50,
          theta: 1,
          length: 4e-3,
          gap: 1e-4,
          reach: 3e-3,
          ze: 60,
          zo: 40,
          outer: 2.3,
        };
        const held = Object.fromEntries(
          Object.entries(variant.held).map(([face, text]) => [
            face,
            /^[xy]\d/.test(face)
              ? parseExpression(text).evaluate({}).re
              : (usual[face] ?? (/^k\d/.test(face) ? 0.1 : 1)),
          ]),
        );
        const around = meeting('microstrip', board(), [1e-3, 1e-3, 1e-3, 1e-3], settings);
        const values = part.resolve(realValues(held), around);
        const artwork = part.artwork(values, {
          pins,
          settings,
          facts: part.facts?.(realValues(held), around) ?? {},
          width: () => 1e-3,
          met: () => undefined,
          setback: () => 0,
        });
        expect(artwork.pins).toHaveLength(pins);
        expect(artwork.pins[0]).toEqual({ x: 0, y: 0, angle: Math.PI });
        for (const polygon of artwork.copper) expect(polygon.length).toBeGreaterThan(2);
      }
    },
  );
});

it('cuts a mitred corner no wider than the lines beside it, which would leave tips', () => {
  const drawn = (...met: number[]) =>
    parts.get('bend')!.artwork(realValues({ width: 1e-3, angle: Math.PI / 2, radius: 2e-3 }), {
      pins: 2,
      settings: { shape: 'mitred', side: 'left' },
      facts: {},
      width: (pin) => met[pin],
      met: (pin) => met[pin],
      setback: () => 0,
    }).copper[0];
  expect(drawn(1e-3, 1e-3)).toHaveLength(3);
  const narrow = drawn(0.8e-3, 0.6e-3);
  expect(narrow).toHaveLength(5);
  // Its ends, half a width before the corner and behind it, are as wide as the lines there; the inner sides meet where theirs do.
  const across = (of: 'x' | 'y', at: (p: { x: number; y: number }) => boolean) =>
    narrow.filter(at).map((p) => p[of]);
  expect(across('y', (p) => p.x < -0.499e-3).sort()).toEqual([-0.4e-3, 0.4e-3]);
  const behind = across('x', (p) => p.y > 0.499e-3).sort((a, b) => a - b);
  expect(behind[0]).toBeCloseTo(-0.3e-3, 12);
  expect(behind[1]).toBeCloseTo(0.3e-3, 12);
  expect(narrow.some((p) => Math.hypot(p.x + 0.3e-3, p.y - 0.4e-3) < 1e-12)).toBe(true);
});
