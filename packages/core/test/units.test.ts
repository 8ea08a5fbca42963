import fc from 'fast-check';
import { all, create, divide, equal, unit, type Complex } from 'mathjs';
import { describe, expect, it } from 'vitest';
import {
  checkQuantity,
  formatComplex,
  formatQuantity,
  parseExpression,
  quantityKinds,
  QuantityError,
  readQuantity,
  real,
  type QuantityKind,
} from '../src/units';

describe('quantities', () => {
  it.each<[string, QuantityKind, number, number?]>([
    ['0.508mm', 'length', 0.508e-3],
    ['36 mil', 'length', 36 * 25.4e-6],
    ['1in', 'length', 0.0254],
    ['18\u00B5m', 'length', 18e-6],
    ['0.5oz', 'length', 0.5 * 1.37 * 25.4e-6],
    ['10.55GHz', 'frequency', 10.55e9],
    ['5.8e7S/m', 'conductivity', 5.8e7],
    ['50 \u03A9', 'impedance', 50],
    ['23-41j ohm', 'impedance', 23, -41],
    ['23 \u2212 j41 \u03A9', 'impedance', 23, -41],
    ['(23-41j)*1ohm', 'impedance', 23, -41],
    ['-41j ohm', 'impedance', 0, -41],
    ['90deg', 'angle', Math.PI / 2],
    ['90\u00B0', 'angle', Math.PI / 2],
    ['15dB', 'level', 15],
    ['18%', 'number', 0.18],
    ['2 * (3 mm + 1 mil) / 2', 'length', 3e-3 + 25.4e-6],
    ['sqrt(4 mm^2)', 'length', 2e-3],
    ['18% + 2', 'number', 2.18],
    ['2 mm + 5%', 'length', 2.1e-3],
    ['3 in/2 in', 'number', 1.5],
    ['0ohm', 'impedance', 0],
    ['2\u03C0*1 rad', 'angle', 2 * Math.PI],
    ['1/(2*pi*1GHz*50ohm)', 'capacitance', 1 / (2 * Math.PI * 1e9 * 50)],
  ])('%s is a %s', (text, kind, re, im = 0) => {
    const value = readQuantity(text, { kind, complex: true });
    expect(value.re).toBeCloseTo(re, 15);
    expect(value.re / (re || 1)).toBeCloseTo(re ? 1 : 0, 12);
    expect(value.im).toBeCloseTo(im, 12);
  });

  // The table is small so that the first view is; the library knows every unit, and says the same.
  const lengths = 'm cm mm um nm in inch mil';
  const electrical = 'ohm mohm kohm Mohm S mS uS kS MS F mF uF nF pF fF H mH uH nH pH';
  it.each(`${lengths} ${electrical} Hz kHz MHz GHz THz s ms us ns ps deg rad`.split(' '))(
    '1 %s is what an independent table of units says',
    (name) => {
      const { value, dimensions } = unit(1, name) as unknown as { value: number; dimensions: number[] };
      const [mass, length, time, current, , , , angle] = dimensions;
      const own = parseExpression(`1 ${name}`).evaluate();
      expect(own.re / value).toBeCloseTo(1, 14);
      expect(own.dimension).toEqual([mass, length, time, current, angle, 0]);
    },
  );

  // What is left out between factors, and what binds how closely, is as engineers know it from elsewhere.
  it('reads any expression as an independent algebra system does', () => {
    const { text } = fc.letrec<{ text: string; term: string; factor: string }>((tie) => ({
      text: fc.oneof(
        { depthSize: 'small' },
        tie('term'),
        fc
          .tuple(tie('text'), fc.constantFrom('+', '-', ' - ', '*', ' / ', '/'), tie('term'))
          .map((x) => x.join('')),
      ),
      term: fc.oneof(
        { depthSize: 'small' },
        tie('factor'),
        fc.tuple(tie('factor'), fc.constantFrom(' ', '')).chain(([x, space]) =>
          fc.oneof(
            fc
              .constantFrom('a', 'bc', 'a^2', '(3 - a)')
              .map((y) => `${x}${/[a-z]$/.test(x) ? ' ' : space}${y}`),
            fc.constantFrom('*3', '/ 7').map((y) => `${x}%${y}`),
          ),
        ),
      ),
      factor: fc.oneof(
        { depthSize: 'small' },
        fc.constantFrom('2', '.5', '1.25e1', 'a', '1/2', '-1/4'),
        fc.tuple(fc.constantFrom('-', '+', '- '), tie('factor')).map((x) => x.join('')),
        fc.tuple(fc.constantFrom('sqrt(', 'abs (', '(', '( '), tie('text')).map((x) => `${x.join('')})`),
        fc
          .tuple(
            fc.constantFrom('2', 'a', '(1 + a)'),
            fc.constantFrom('^', ' ^ -'),
            fc.constantFrom('2', '3^.5', 'bc'),
          )
          .map((x) => x.join('')),
      ),
    }));
    // The library goes on with infinity where a part divides by zero, which is refused here.
    const library = create(all);
    library.import(
      {
        divide(x: number, y: number) {
          if (equal(y, 0)) throw new RangeError('divides by zero');
          return divide(x, y);
        },
      },
      { override: true },
    );
    const known = { a: 1.7, bc: -0.6 };
    fc.assert(
      fc.property(text, (expression) => {
        let expected: number | Complex;
        try {
          expected = library.evaluate(expression, known) as number | Complex;
        } catch {
          return;
        }
        const [re, im] = typeof expected === 'number' ? [expected, 0] : [expected.re, expected.im];
        if (!(Math.hypot(re, im) < 1e9)) return;
        const own = parseExpression(expression).evaluate({
          value: (name) => (Object.hasOwn(known, name) ? real(known[name as 'a']) : undefined),
        });
        expect(Math.hypot(own.re - re, own.im - im)).toBeLessThan(1e-9 * (1 + Math.hypot(re, im)));
      }),
      { numRuns: 2000 },
    );
  });

  it.each<[string, QuantityKind, RegExp]>([
    ['50', 'impedance', /needs a unit: a resistance or impedance such as 50 ohm/],
    ['50mm', 'impedance', /not a length/],
    ['2*50ohm', 'length', /not a resistance/],
    ['3 mm + 2 ohm', 'length', /adds a resistance or impedance to a length/],
    ['1/0 mm', 'length', /divides by zero/],
    ['acos(1.2)', 'angle', /acos\(\) takes a number from .1 to 1, and this is 1\.2/],
    ['0,5 mm', 'length', /decimal point/],
    ['1e400 mm', 'length', /not a finite/],
    ['NaN', 'number', /"NaN" is not a unit/],
    ['18% 2', 'number', /cannot be read/],
    [`${'a('.repeat(99)}1`, 'number', /cannot be read/],
    ['', 'length', /empty/],
    ['foo', 'length', /"foo" is not a unit/],
    ['1 2', 'length', /cannot be read/],
    ['3 mm;', 'length', /cannot be read/],
    ['constructor', 'length', /^"constructor" is not a unit; needs/],
    ['5 m mm', 'length', /not an area/],
    ['1+2j ohm', 'level', /not a resistance/],
  ])('%j is refused as a %s', (text, kind, message) => {
    expect(() => readQuantity(text, { kind, complex: true })).toThrow(QuantityError);
    expect(() => readQuantity(text, { kind, complex: true })).toThrow(message);
  });

  it('checks limits in words', () => {
    const length = (x: number) => real(x, quantityKinds.length.dimension);
    expect(() => checkQuantity(length(0), { kind: 'length', min: 0, exclusive: true })).toThrow(
      'greater than zero',
    );
    expect(() => checkQuantity(length(-1), { kind: 'length', min: 0 })).toThrow('not be negative');
    expect(checkQuantity(length(0), { kind: 'length', min: 0 }).re).toBe(0);
  });

  it('finds names and functions in their scope only', () => {
    const e = parseExpression('lambda/4 - 2*gap(w)');
    expect([...e.names].sort()).toEqual(['gap()', 'lambda', 'w']);
    const metre = (x: number) => real(x, quantityKinds.length.dimension);
    const scope = {
      value: (name: string) => ({ lambda: metre(0.02), w: metre(1e-3) })[name],
      fn: (name: string) =>
        name === 'gap' ? ([w]: readonly { re: number }[]) => metre(w.re / 2) : undefined,
    };
    expect(e.evaluate(scope).re).toBeCloseTo(0.004, 15);
    expect(() => e.evaluate()).toThrow('"lambda" is not a unit or a named value here');
    // Nothing is offered that only looks like a spelling of something.
    for (const name of ['constructor', 'toString', '__proto__'])
      expect(() => parseExpression(name).evaluate()).toThrow(/named value here$/);
  });

  it('survives any text with an error of its own kind', () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.stringMatching(/^[0-9a-z().+*/^ ,jm%-]{0,24}$/)), (text) => {
        try {
          parseExpression(text).evaluate();
        } catch (error) {
          if (!(error instanceof QuantityError)) throw error;
        }
      }),
      { numRuns: 1500 },
    );
  });
});

describe('formatting', () => {
  it('picks engineering units, a real minus and a thin space', () => {
    expect(formatQuantity(1.2750887e-3, 'length')).toBe('1.275\u2009mm');
    expect(formatQuantity(18e-6, 'length')).toBe('18\u2009\u00B5m');
    expect(formatQuantity(0.1e-3, 'length')).toBe('0.1\u2009mm');
    expect(formatQuantity(10.55e9, 'frequency')).toBe('10.55\u2009GHz');
    expect(formatQuantity(-3, 'level')).toBe('\u22123\u2009dB');
    expect(formatComplex(23, -41)).toBe('23 \u2212 j41\u2009\u03A9');
    expect(formatComplex(50, 1e-14)).toBe('50\u2009\u03A9');
    expect(formatQuantity(Infinity, 'impedance')).toContain('\u221E');
  });

  it('typed text reads back as the value', () => {
    fc.assert(
      fc.property(
        fc.constantFrom<QuantityKind>('length', 'frequency', 'impedance', 'angle', 'capacitance'),
        fc.double({ min: 1e-12, max: 1e12, noNaN: true }),
        (kind, x) => {
          const back = readQuantity(formatQuantity(x, kind, { typed: true, digits: 17 }), { kind }).re;
          return Math.abs(back / x - 1) < 1e-14;
        },
      ),
    );
  });
});
