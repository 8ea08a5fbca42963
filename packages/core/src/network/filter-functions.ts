import {
  designComb,
  designCoupledResonators,
  designGapResonators,
  designHairpin,
  designPassStubs,
  designStepped,
  designStubFilter,
  FilterError,
  type Hairpin,
} from '../theory';
import {
  quantityKinds,
  QuantityError,
  real,
  type Quantity,
  type QuantityKind,
  type ScopeFunction,
} from '../units';
import { argumentsOf, ohms, type ArgumentKind } from './arguments';

type Designer<T> = (values: readonly number[]) => T;
const KEPT = 8;

/** A design that remembers what it made last: the elements of one filter ask for the same one after the other. */
function kept<T>(design: Designer<T>): Designer<T> {
  const made = new Map<string, T>();
  return (values) => {
    const key = values.join(' ');
    const known = made.get(key);
    if (known !== undefined) return known;
    const value = design(values);
    made.set(key, value);
    for (const oldest of made.keys()) {
      if (made.size <= KEPT) break;
      made.delete(oldest);
    }
    return value;
  };
}

/** What the fields of a filter are called where its functions stand. */
const WORDS: Readonly<Record<FilterError['field'], string>> = {
  order: 'the order',
  ripple: 'the ripple',
  bandwidth: 'the band',
  zLow: 'the low impedance',
  zHigh: 'the high impedance',
  fold: 'the fold',
};

/** A function that reads element i, its last value, of what the others design. */
function element<T>(
  name: string,
  kinds: readonly ArgumentKind[],
  design: Designer<T>,
  read: (design: T, index: number, values: readonly number[]) => Quantity | undefined,
): ScopeFunction {
  return (args) => {
    const values = argumentsOf(name, args, [...kinds, 'number']).map((v) => v.re);
    const [given, index] = [values.slice(0, -1), values[values.length - 1]];
    try {
      const found = read(design(given), index - 1, given);
      if (!found) throw new QuantityError(`has no element ${index}`);
      return found;
    } catch (error) {
      if (error instanceof FilterError) throw new QuantityError(`${WORDS[error.field]} ${error.message}`);
      throw error;
    }
  };
}

const scaled = (z: number | undefined, z0: number): Quantity | undefined =>
  z === undefined ? undefined : ohms({ re: z * z0, im: 0 });
const told = (x: number | undefined, kind: QuantityKind): Quantity | undefined =>
  x === undefined ? undefined : real(x, quantityKinds[kind].dimension);
const turned = (angle: number | undefined) => told(angle, 'angle');
const susceptance = (b: number | undefined, z0: number) =>
  told(b === undefined ? undefined : b / z0, 'admittance');

const SHAPED = ['positive impedance', 'number', 'level'] as const;
const commensurate = kept((v) => designStubFilter({ order: v[1], ripple: v[2] }, v[3]));
const shorted = kept((v) => designPassStubs({ order: v[1], ripple: v[2] }, v[3]));
const coupled = kept((v) => designCoupledResonators({ order: v[1], ripple: v[2] }, v[3]));
const folded = (
  [z0, zr, order, ripple, bandwidth, fold]: readonly number[],
  tail: number,
  feed: number,
): Hairpin =>
  designHairpin({
    order,
    ripple,
    bandwidth,
    fold,
    tail,
    resonator: zr / z0,
    feed: feed === 1 ? 'tapped' : 'coupled',
  });
const hairpin = kept((v) => folded(v, 0, v[6]));
const loop = kept((v) => folded(v, v[6], v[7]));
/** The angle of coupled arms i; 0 is the outer arm from its open end to the tap, -1 from there to the fold. */
const armOf = (d: Hairpin, i: number) => turned(i === -1 ? d.open : i === -2 ? d.inner : d.arms[i]?.theta);
const gapped = kept(([z0, zr, order, ripple, bandwidth]) =>
  designGapResonators({ order, ripple, bandwidth, resonator: zr / z0 }),
);
const GAPPED = ['positive impedance', 'positive impedance', 'number', 'level', 'number'] as const;
const HAIRPIN = [
  'positive impedance',
  'positive impedance',
  'number',
  'level',
  'number',
  'angle',
  'number',
] as const;

const comb = kept(([z0, zr, order, ripple, bandwidth, theta]) =>
  designComb({ order, ripple, bandwidth, resonator: zr / z0, kind: 'combline', theta }),
);
const inter = kept(([z0, zr, order, ripple, bandwidth]) =>
  designComb({
    order,
    ripple,
    bandwidth,
    resonator: zr / z0,
    kind: 'interdigital',
    theta: Math.PI / 2,
  }),
);
const COMB = [...GAPPED, 'angle'] as const;
const LOOP = [...HAIRPIN.slice(0, 6), 'angle', 'number'] as const;

/** Elements of filters, in every expression of a design. A ripple of 0 dB is maximally flat. */
export const filterFunctions: Readonly<Record<string, ScopeFunction>> = {
  /** Impedance of open stub i of a filter of n, its lines `edge` long at the edge of the pass band: stubz(z0, n, ripple, edge, i). */
  stubz: element('stubz', [...SHAPED, 'angle'], commensurate, (d, i, [z0]) => scaled(d.stubs[i], z0)),
  /** The same of the line between stub i and the next. */
  stublink: element('stublink', [...SHAPED, 'angle'], commensurate, (d, i, [z0]) => scaled(d.lines[i], z0)),
  /** Impedance of shorted stub i of a band-pass of n over a band: shortz(z0, n, ripple, band, i). */
  shortz: element('shortz', [...SHAPED, 'number'], shorted, (d, i, [z0]) => scaled(d.stubs[i], z0)),
  /** The same of the line between stub i and the next. */
  shortlink: element('shortlink', [...SHAPED, 'number'], shorted, (d, i, [z0]) => scaled(d.lines[i], z0)),
  /** Even impedance of coupled section i of a band-pass of n half-wave resonators: edgeeven(z0, n, ripple, band, i). */
  edgeeven: element('edgeeven', [...SHAPED, 'number'], coupled, (d, i, [z0]) => scaled(d.even[i], z0)),
  /** Its odd impedance. */
  edgeodd: element('edgeodd', [...SHAPED, 'number'], coupled, (d, i, [z0]) => scaled(d.odd[i], z0)),
  /** Angle of section i of a stepped-impedance low-pass at its cutoff: steppedline(z0, low, high, n, ripple, first, i), first 1 wide or 2 narrow. */
  steppedline: element(
    'steppedline',
    ['positive impedance', 'positive impedance', 'positive impedance', 'number', 'level', 'number'],
    kept(([z0, low, high, order, ripple, first]) =>
      designStepped({ order, ripple, low: low / z0, high: high / z0, first: first === 2 ? 'high' : 'low' }),
    ),
    (angles, i) => turned(angles[i]),
  ),
  /** Susceptance at the centre of gap i of a band-pass of n end-coupled lines of zr: endgap(z0, zr, n, ripple, band, i). */
  endgap: element('endgap', GAPPED, gapped, (d, i, [z0]) => susceptance(d.gaps[i], z0)),
  /** Angle of line i of it. */
  endline: element('endline', GAPPED, gapped, (d, i) => turned(d.lines[i])),
  /** Coupling i of an interdigital band-pass of n lines of zr between two feeds: interk(z0, zr, n, ripple, band, i). */
  interk: element('interk', GAPPED, inter, (d, i) => told(d.couplings[i], 'number')),
  /** The same of a comb of lines of an angle: combk(z0, zr, n, ripple, band, theta, i). */
  combk: element('combk', COMB, comb, (d, i) => told(d.couplings[i], 'number')),
  /** Susceptance at the centre of the capacitor of line i of it. */
  combload: element('combload', COMB, comb, (d, i, [z0]) => susceptance(d.loads[i], z0)),
  /** Even impedance of coupled arms i of a hairpin: hairpineven(z0, zr, n, ripple, band, fold, feed, i), feed 1 tapped or 2 coupled. */
  hairpineven: element('hairpineven', HAIRPIN, hairpin, (d, i, [z0]) => scaled(d.arms[i]?.even, z0)),
  /** Their odd impedance. */
  hairpinodd: element('hairpinodd', HAIRPIN, hairpin, (d, i, [z0]) => scaled(d.arms[i]?.odd, z0)),
  /** Their angle; 0 is the outer arm from its open end to the tap, -1 from there to the fold. */
  hairpinarm: element('hairpinarm', HAIRPIN, hairpin, armOf),
  /** The same of square loops: loopeven(z0, zr, n, ripple, band, side, tail, feed, i), tail the line from an arm to the slit. */
  loopeven: element('loopeven', LOOP, loop, (d, i, [z0]) => scaled(d.arms[i]?.even, z0)),
  /** Their odd impedance. */
  loopodd: element('loopodd', LOOP, loop, (d, i, [z0]) => scaled(d.arms[i]?.odd, z0)),
  /** Their angle. */
  looparm: element('looparm', LOOP, loop, armOf),
};

export const filterHelp: readonly { name: string; about: string }[] = [
  {
    name: 'stubz(z0, n, r, edge, i), stublink(\u2026)',
    about:
      'open stub i of a filter of n, and the line to the next, lines of the angle edge at the edge of the pass band; r is the ripple in dB, 0 dB maximally flat',
  },
  {
    name: 'shortz(z0, n, r, band, i), shortlink(\u2026)',
    about: 'shorted stub i of a band-pass, and the line to the next',
  },
  {
    name: 'edgeeven(z0, n, r, band, i), edgeodd(\u2026)',
    about: 'impedances of coupled section i of a band-pass of n half-wave resonators',
  },
  {
    name: 'steppedline(z0, low, high, n, r, first, i)',
    about: 'angle of section i of a stepped low-pass; first is 1 for wide, 2 for narrow',
  },
  {
    name: 'endgap(z0, zr, n, r, band, i), endline(\u2026)',
    about: 'susceptance of gap i of a band-pass of n end-coupled lines of zr, and the angle of line i',
  },
  {
    name: 'interk(z0, zr, n, r, band, i)',
    about: 'coupling i of an interdigital band-pass of n lines of zr between two feeds',
  },
  {
    name: 'combk(z0, zr, n, r, band, theta, i), combload(\u2026)',
    about: 'the same of a comb of lines of the angle theta, and the susceptance of the capacitor of line i',
  },
  {
    name: 'hairpineven(z0, zr, n, r, band, fold, feed, i), hairpinodd(\u2026), hairpinarm(\u2026)',
    about:
      'coupled arms i of a hairpin band-pass, feed 1 tapped or 2 coupled; hairpinarm of 0 and -1 is the outer arm to its tap and on to the fold',
  },
  {
    name: 'loopeven(z0, zr, n, r, band, side, tail, feed, i), loopodd(\u2026), looparm(\u2026)',
    about: 'the same of square loops with a slit; tail is the angle from an arm to its open end',
  },
];
