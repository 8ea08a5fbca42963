import { brent, C0, type Complex } from '../numeric';
import { argumentsOf, metres, ohms } from './arguments';
import { filterFunctions, filterHelp } from './filter-functions';
import type { ResolveContext } from '../parts';
import {
  angleToRealPlane,
  COUPLER_SECTIONS,
  designCoupler,
  designTransformer,
  designWilkinson,
  doubleStubPlanes,
  eveningCapacitance,
  madeBySeries,
  madeByShunt,
  partValue,
  preferred,
  reachOf,
  resonated,
  seenThrough,
  seriesPlanes,
  shuntSusceptance,
  stubAngle,
  stubPlanes,
  TransformerError,
  type Coupler,
  type CouplerSections,
  type Link,
  type Pass,
  type WilkinsonSections,
} from '../theory';
import {
  quantityKinds,
  QuantityError,
  real,
  sameDimension,
  type Quantity,
  type ScopeFunction,
} from '../units';

const radians = (x: number): Quantity => real(x, quantityKinds.angle.dimension);

/** Helper functions of theory, available in every expression of a design. */
export const theoryFunctions: Readonly<Record<string, ScopeFunction>> = {
  ...filterFunctions,
  /** Impedance of section i of n: binomial(source, load, n, i). */
  binomial(args) {
    const [a, b, n, i] = argumentsOf('binomial', args, ['impedance', 'impedance', 'number', 'number']);
    return transformerSection({ source: a.re, load: b.re, sections: n.re, profile: 'binomial' }, i.re);
  },
  /** Impedance of section i of n: chebyshev(source, load, n, largest reflection, i). */
  chebyshev(args) {
    const [a, b, n, m, i] = argumentsOf('chebyshev', args, [
      'impedance',
      'impedance',
      'number',
      'number',
      'number',
    ]);
    return transformerSection(
      { source: a.re, load: b.re, sections: n.re, profile: 'chebyshev', maxReflection: m.re },
      i.re,
    );
  },
  /** Impedance of section i of each arm of an n-section Wilkinson divider: wilkinson(system, n, band, i). */
  wilkinson: (args) => wilkinsonValue('wilkinson', 'impedances', args),
  /** Its resistor at the end of section i: isolation(system, n, band, i). */
  isolation: (args) => wilkinsonValue('isolation', 'resistances', args),
  /** Even-mode impedance of section i of an n-section coupler: couplereven(system, coupling, n, ripple, i). */
  couplereven(args) {
    const [z0, coupling, n, ripple, i] = argumentsOf('couplereven', args, [
      'impedance',
      'level',
      'number',
      'level',
      'number',
    ]);
    const sections = COUPLER_SECTIONS.find((s) => s === n.re);
    if (!sections) throw new QuantityError('couplereven() knows 1, 3 or 5 sections');
    const z = couplerOf(coupling.re, sections, ripple.re).even[i.re - 1];
    if (z === undefined) throw new QuantityError(`has no section ${i.re}`);
    return ohms({ re: z * z0.re, im: 0 });
  },
  /** Impedance seen through a lossless line: seen(load, line impedance, angle). */
  seen(args) {
    const [zl, z0, theta] = argumentsOf('seen', args, ['complex', 'impedance', 'angle']);
    return ohms(seenThrough(zl, z0.re, theta.re));
  },
  /** Angle from a load to the first plane with a real impedance: realplane(load, line impedance). */
  realplane(args) {
    const [zl, z0] = argumentsOf('realplane', args, ['complex', 'impedance']);
    return radians(angleToRealPlane(zl, z0.re));
  },
  /** Angle from a load to the n-th plane with the source's conductance: stubplane(load, line, source, n). */
  stubplane(args) {
    const [zl, line, source, n] = argumentsOf('stubplane', args, [
      'complex',
      'impedance',
      'impedance',
      'number',
    ]);
    return radians(nth('stubplane', stubPlanes(zl, line.re, source.re), n.re));
  },
  /** Angle from a load to the n-th plane with the source's resistance: seriesplane(load, line, source, n). */
  seriesplane(args) {
    const [zl, line, source, n] = argumentsOf('seriesplane', args, [
      'complex',
      'impedance',
      'impedance',
      'number',
    ]);
    return radians(nth('seriesplane', seriesPlanes(zl, line.re, source.re), n.re));
  },
  /** What a part across makes of z so that its resistance is r behind a length of line: toresistance(z, r, n, line, angle). */
  toresistance: (args) => padValue('toresistance', madeByShunt, args),
  /** What a part in series makes of z so that its parallel resistance is r behind a length of line: toparallel(z, r, n, line, angle). */
  toparallel: (args) => padValue('toparallel', madeBySeries, args),
  /** The number of an E series nearest to a value: preferred(value, 24). */
  preferred(args) {
    if (args.length !== 2)
      throw new QuantityError('preferred() takes two values: any quantity and 24 for E24');
    const [n] = argumentsOf('preferred', args.slice(1), ['number']);
    const [x] = args;
    if (x.im !== 0) throw new QuantityError('preferred(): value 1 must be real');
    // Rounded in the unit in which such parts are sold, so that the decades are those of its digits.
    const unit = sameDimension(x.dimension, quantityKinds.capacitance.dimension)
      ? 1e12
      : sameDimension(x.dimension, quantityKinds.inductance.dimension)
        ? 1e9
        : 1;
    return real(preferred(x.re * unit, n.re) / unit, x.dimension);
  },
  /** Angle of an open stub of impedance zs that turns one impedance into another in parallel. */
  openstub: (args) => stubValue('openstub', 'open', args),
  /** The same of a shorted stub. */
  shortstub: (args) => stubValue('shortstub', 'short', args),
  /** Impedance of the same conductance without susceptance. */
  resonated(args) {
    const [z] = argumentsOf('resonated', args, ['complex']);
    return ohms(resonated(z));
  },
  /** Impedance that the first of two stubs shall leave: doublestub(seen, line, source, spacing, n). */
  doublestub(args) {
    const [z, line, source, spacing, n] = argumentsOf('doublestub', args, [
      'complex',
      'impedance',
      'impedance',
      'angle',
      'number',
    ]);
    return ohms(nth('doublestub', doubleStubPlanes(z, line.re, source.re, spacing.re), n.re).wanted);
  },
};

function nth<T>(name: string, solutions: readonly T[], n: number): T {
  const found = solutions[n - 1];
  if (found === undefined) throw new QuantityError(`${name}() has solutions 1 and 2`);
  return found;
}

function padValue(
  name: string,
  made: (z: Complex, wanted: number, pass: Pass, link: Link) => Complex | undefined,
  args: readonly Quantity[],
): Quantity {
  const [z, wanted, n, z0, theta] = argumentsOf(name, args, [
    'complex',
    'impedance',
    'number',
    'impedance',
    'angle',
  ]);
  if (n.re !== 1 && n.re !== 2)
    throw new QuantityError(`${name}() has solutions 1 (low-pass) and 2 (high-pass)`);
  const found = made(z, wanted.re, n.re === 1 ? 'low' : 'high', { z0: z0.re, theta: theta.re });
  if (!found)
    throw new QuantityError(
      `${name}(): no such part reaches that resistance; take the other form or a higher Q`,
    );
  return ohms(found);
}

function stubValue(name: string, ending: 'open' | 'short', args: readonly Quantity[]): Quantity {
  const [from, to, zs] = argumentsOf(name, args, ['complex', 'complex', 'impedance']);
  return radians(stubAngle(ending, from, to, zs.re));
}

/** What the functions of a design's own board and frequency work with; each throws where it has an error. */
export interface BoardScope {
  readonly frequency: () => number;
  readonly lines: () => Pick<ResolveContext, 'width' | 'line' | 'pair'>;
  /** Impedance of the design's load at the design frequency. */
  readonly load: () => Quantity;
}

/** Helper functions that depend on the board or the design frequency, available in every expression of a design. */
export function boardFunctions({
  frequency,
  lines,
  load,
}: BoardScope): Readonly<Record<string, ScopeFunction>> {
  /** A part's value from what it adds to an impedance on the way to another; it has to come out positive. */
  const element =
    (name: string, way: 'series' | 'shunt', part: 'capacitor' | 'inductor'): ScopeFunction =>
    (args) => {
      const [from, to] = argumentsOf(name, args, ['complex', 'complex']);
      const x = partValue(way, part, from, to, 2 * Math.PI * frequency());
      const capacitor = part === 'capacitor';
      // Nothing to do is an open capacitor and a coil without turns.
      const small = Math.abs(x) < (capacitor ? 1e-24 : 1e-20);
      if (!small && !(x > 0 && Number.isFinite(x)))
        throw new QuantityError(
          `${name}() comes out negative: from here to there it takes ${capacitor ? 'a coil' : 'a capacitor'}`,
        );
      return real(small ? 0 : x, quantityKinds[capacitor ? 'capacitance' : 'inductance'].dimension);
    };
  return {
    width(args) {
      const [z] = argumentsOf('width', args, ['positive impedance']);
      return metres(lines().width(z.re));
    },
    impedance(args) {
      const [w] = argumentsOf('impedance', args, ['positive length']);
      return ohms({ re: lines().line(w.re).z0, im: 0 });
    },
    guided(args) {
      const [z] = argumentsOf('guided', args, ['positive impedance']);
      return metres(C0 / (frequency() * Math.sqrt(lines().line(lines().width(z.re)).eeff)));
    },
    /** Capacitance across the gap at both ends of a coupled quarter wave that slows its odd mode to the even one: evened(ze, zo). */
    evened(args) {
      const [ze, zo] = argumentsOf('evened', args, ['positive impedance', 'positive impedance']);
      const { pair } = lines();
      const { eeffEven, eeffOdd } = pair.at(...pair.strips(ze.re, zo.re));
      return real(
        eveningCapacitance(zo.re, Math.sqrt(eeffOdd / eeffEven), frequency()),
        quantityKinds.capacitance.dimension,
      );
    },
    /** Even impedance of a pair so far apart whose modes are 2 z apart, as open coupled sections need: blockeven(z, gap). */
    blockeven(args) {
      const [z, gap] = argumentsOf('blockeven', args, ['positive impedance', 'positive length']);
      const { pair, width } = lines();
      // Narrower strips couple more of a higher impedance; wider than the line of that impedance they are not.
      const miss = (x: number) => {
        const { ze, zo } = pair.at(Math.exp(x), gap.re);
        return Math.log((ze - zo) / (2 * z.re));
      };
      const most = Math.log(2 * width(z.re));
      const least = most - Math.log(1e4);
      if (!(miss(most) < 0 && miss(least) > 0))
        throw new QuantityError('blockeven(): no width of strips so far apart does this; a smaller gap may');
      const found = Math.exp(brent(miss, least, most, { tolerance: 1e-10 }));
      return ohms({ re: pair.at(found, gap.re).ze, im: 0 });
    },
    load,
    /** Capacitance across that turns one impedance into another: shuntc(z, to). */
    shuntc: element('shuntc', 'shunt', 'capacitor'),
    /** The same of a coil across. */
    shuntl: element('shuntl', 'shunt', 'inductor'),
    /** Capacitance in series that does. */
    seriesc: element('seriesc', 'series', 'capacitor'),
    /** Inductance in series that does. */
    seriesl: element('seriesl', 'series', 'inductor'),
    /** Radial length of a stub across that turns one impedance into another: radialreach(z, to, angle, entry width). */
    radialreach(args) {
      const [from, to, angle, entry] = argumentsOf('radialreach', args, [
        'complex',
        'complex',
        'angle',
        'positive length',
      ]);
      const b = to.re === 0 && to.im === 0 ? Infinity : shuntSusceptance(from, to);
      const reach = reachOf(b, entry.re, angle.re, frequency(), (w) => lines().line(w));
      if (reach === undefined)
        throw new QuantityError(
          'radialreach(): a radial stub of this angle and entry has no length that does this',
        );
      return metres(reach);
    },
  };
}

let lastCoupler: { spec: string; design: Coupler } | undefined;

/** The couplers of one design ask for the same sections one after the other. */
function couplerOf(coupling: number, sections: CouplerSections, ripple: number): Coupler {
  const spec = `${coupling}/${sections}/${ripple}`;
  if (lastCoupler?.spec !== spec)
    lastCoupler = { spec, design: designCoupler({ coupling, sections, ripple }) };
  return lastCoupler.design;
}

let lastWilkinson: { n: number; band: number; design: WilkinsonSections } | undefined;

function wilkinsonValue(
  name: string,
  what: 'impedances' | 'resistances',
  args: readonly Quantity[],
): Quantity {
  const [z0, n, band, i] = argumentsOf(name, args, ['impedance', 'number', 'number', 'number']);
  if (n.re !== 1 && n.re !== 2 && n.re !== 3) throw new QuantityError(`${name}() knows 1, 2 or 3 sections`);
  if (!(band.re > 0 && band.re < 1.9))
    throw new QuantityError(`${name}() needs a band between 0 and 1.9 of the centre`);
  if (lastWilkinson?.n !== n.re || lastWilkinson.band !== band.re)
    lastWilkinson = { n: n.re, band: band.re, design: designWilkinson(n.re, band.re) };
  const value = lastWilkinson.design[what][i.re - 1];
  if (value === undefined) throw new QuantityError(`has no section ${i.re}`);
  return ohms({ re: value * z0.re, im: 0 });
}

function transformerSection(spec: Parameters<typeof designTransformer>[0], index: number): Quantity {
  try {
    const { impedances } = designTransformer(spec);
    const z = impedances[index - 1];
    if (z === undefined) throw new QuantityError(`has no section ${index}`);
    return ohms({ re: z, im: 0 });
  } catch (error) {
    if (!(error instanceof TransformerError)) throw error;
    const field = {
      source: 'the source',
      load: 'the load',
      sections: 'the number of sections',
      maxReflection: 'the largest reflection',
    };
    throw new QuantityError(`${field[error.field]} ${error.message}`);
  }
}

/** Names that mean something of their own in the fields of a design, with what they mean. */
export const scopeNames: ReadonlyMap<string, string> = new Map([
  ['lambda', 'the guided wavelength of the line whose field it stands in'],
  ['lambda0', 'the wavelength in vacuum at f0'],
  ['length', 'the length of the line whose field it stands in'],
  ...[
    ...Object.keys(theoryFunctions),
    ...[
      'width',
      'impedance',
      'guided',
      'evened',
      'load',
      'shuntc',
      'shuntl',
      'seriesc',
      'seriesl',
      'evened',
      'blockeven',
      'radialreach',
    ],
    'delay',
  ].map((name): [string, string] => [name, 'it is a function']),
]);

/** Names and functions that a design's expressions know besides its named values. */
export const scopeHelp: readonly { name: string; about: string }[] = [
  { name: 'f0', about: 'the design frequency' },
  { name: 'lambda0', about: 'wavelength in vacuum at f0' },
  { name: 'lambda', about: 'guided wavelength of the line whose field it stands in' },
  { name: 'length', about: 'length of the line whose field it stands in, for its turn, radius and lead' },
  { name: 'width(z)', about: 'width of a line of impedance z on this stack' },
  { name: 'impedance(w)', about: 'impedance of a line of width w' },
  { name: 'guided(z)', about: 'guided wavelength of a line of impedance z' },
  {
    name: 'evened(ze, zo)',
    about: 'capacitance across the gap at both ends of a coupled quarter wave that evens the velocities',
  },
  {
    name: 'blockeven(z, gap)',
    about: 'even impedance of coupled lines a gap apart whose modes lie 2 z apart, for DC blocks',
  },
  { name: 'load()', about: 'impedance of the design\u2019s load at f0' },
  { name: 'binomial(zs, zl, n, i)', about: 'section i of an n-section maximally flat transformer' },
  { name: 'chebyshev(zs, zl, n, r, i)', about: 'the same with equal ripple of reflection r' },
  { name: 'wilkinson(z0, n, band, i)', about: 'section i of an n-section Wilkinson divider over a band' },
  { name: 'isolation(z0, n, band, i)', about: 'its resistor at the end of section i' },
  {
    name: 'couplereven(z0, c, n, r, i)',
    about: 'even impedance of section i of a coupler of n sections, coupling c and ripple r in dB',
  },
  ...filterHelp,
  { name: 'realplane(zl, z0)', about: 'angle from a load to the first real impedance' },
  { name: 'seen(zl, z0, angle)', about: 'impedance seen through a line' },
  {
    name: 'stubplane(zl, zline, zs, n)',
    about: 'angle from a load to the n-th plane with the conductance of a source',
  },
  { name: 'seriesplane(zl, zline, zs, n)', about: 'the same with the resistance of a source' },
  { name: 'shuntc(z, to), shuntl(z, to)', about: 'part across that turns one impedance into another at f0' },
  { name: 'seriesc(z, to), seriesl(z, to)', about: 'part in series that does' },
  {
    name: 'toresistance(z, r, n, zpad, angle)',
    about:
      'what a part across shall make of z for the resistance r behind a length of line; n is 1 low-pass, 2 high-pass',
  },
  {
    name: 'toparallel(z, r, n, zpad, angle)',
    about: 'what a part in series shall make of z for the parallel resistance r behind a length of line',
  },
  { name: 'preferred(x, 24)', about: 'the number of series E24 nearest to a value' },
  {
    name: 'radialreach(z, to, angle, w)',
    about: 'radial length of a stub of entry width w that turns z into another',
  },
  { name: 'openstub(z, to, zs)', about: 'angle of an open stub of impedance zs that turns z into another' },
  { name: 'shortstub(z, to, zs)', about: 'angle of a shorted stub that does' },
  { name: 'resonated(z)', about: 'impedance of the same conductance without susceptance' },
  {
    name: 'doublestub(z, zline, zs, spacing, n)',
    about: 'what the first of two stubs shall make of the impedance it meets',
  },
  { name: 'asinc(x)', about: 'turn of an arc whose end has risen by x of its length' },
  {
    name: 'sqrt, abs, re, im, conj, min, max, exp, ln, log10, sin, cos, tan, asin, acos, atan, pi, j',
    about: 'mathematics',
  },
];
