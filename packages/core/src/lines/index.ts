import { C0, DB_PER_NEPER } from '../numeric/constants';
import { brent } from '../numeric/root';
import {
  linePoint,
  type CrossSection,
  type Dimensions,
  type LineModelLevel,
  type LineWarning,
  type Medium,
  type MediumId,
  type PreparedSection,
  type Shape,
  type Substrate,
} from './contract';
import { skinDepth } from './loss';
import { microstrip, stripInMicrostrip } from './microstrip';
import { stripInStripline, stripline } from './stripline';
import { taped } from './tape';

export * from './contract';
export { skinDepth, thicknessFactor, roughnessFactor, surfaceResistance } from './loss';
export { thinStripImpedance } from './stripline';

/** What may surround the copper, by id. */
export const media: Readonly<Record<MediumId, Medium>> = { microstrip, stripline };
/** Every shape in every medium. A further one is a file and a row here. */
export const crossSections: { readonly [S in Shape]: Readonly<Record<MediumId, CrossSection<S>>> } = {
  strip: { microstrip: stripInMicrostrip, stripline: stripInStripline },
};

/** Cross-sections that a board remembers, those asked for last. */
const REMEMBERED = 256;

/** Cross-sections on one board, each prepared once and remembering its sweeps. */
export class Sections {
  private readonly prepared = new Map<string, PreparedSection>();

  constructor(
    readonly medium: MediumId,
    readonly substrate: Substrate,
  ) {}

  /** @param dimensions m, in the order of the shape's */
  get<S extends Shape>(shape: S, ...dimensions: Dimensions[S]): PreparedSection {
    const key = `${shape} ${dimensions.join(' ')}`;
    const known = this.prepared.get(key);
    const section = known ?? taped(crossSections[shape][this.medium].prepare(this.substrate, dimensions));
    // The newest stand last.
    if (known) this.prepared.delete(key);
    this.prepared.set(key, section);
    for (const oldest of this.prepared.keys()) {
      if (this.prepared.size <= REMEMBERED) break;
      this.prepared.delete(oldest);
    }
    return section;
  }
}

const boards = new Map<string, Sections>();
const BOARDS = 4;

/** The cross-sections of a board, shared by all that is computed on it. */
export function sectionsOn(medium: MediumId, substrate: Substrate): Sections {
  const { er, tand, height, thickness, conductivity, roughness, cover } = substrate;
  const key = `${medium} ${er} ${tand} ${height} ${thickness} ${conductivity} ${roughness} ${cover}`;
  const known = boards.get(key);
  const sections = known ?? new Sections(medium, substrate);
  if (known) boards.delete(key);
  boards.set(key, sections);
  for (const oldest of boards.keys()) {
    if (boards.size <= BOARDS) break;
    boards.delete(oldest);
  }
  return sections;
}

/** What a line of given width is at one frequency. SI units; losses in dB/m. */
export interface LineAnalysis {
  readonly width: number;
  readonly freq: number;
  readonly z0: number;
  readonly eeff: number;
  readonly velocityFactor: number;
  /** Guided wavelength, m. */
  readonly wavelength: number;
  readonly lossConductor: number;
  readonly lossDielectric: number;
  /** m */
  readonly skinDepth: number;
  /** Hz */
  readonly higherOrderMode: number;
  readonly warnings: LineWarning[];
}

/**
 * Analyses a line of `width` (m) at `freq` (Hz, above 0).
 * @param level `static` takes impedance and permittivity of zero frequency; the losses stay at `freq`
 */
export function analyseLine(
  medium: MediumId,
  substrate: Substrate,
  width: number,
  freq: number,
  level: LineModelLevel = 'dispersive',
): LineAnalysis {
  const kind = crossSections.strip[medium];
  const p = linePoint();
  kind.prepare(substrate, [width], level).at(freq, [p]);
  const velocityFactor = 1 / Math.sqrt(p.eeff);
  const mode = kind.higherOrderMode(substrate, [width]);
  const warnings = kind.warnings(substrate, [width], freq);
  if (freq > mode)
    warnings.push({
      code: 'higher-order-mode',
      message: `The first higher-order mode starts at ${(mode / 1e9).toPrecision(4)} GHz, below the operating frequency: the line no longer carries one mode only.`,
    });
  return {
    width,
    freq,
    z0: p.z0,
    eeff: p.eeff,
    velocityFactor,
    wavelength: (C0 * velocityFactor) / freq,
    lossConductor: p.alphaConductor * DB_PER_NEPER,
    lossDielectric: p.alphaDielectric * DB_PER_NEPER,
    skinDepth: skinDepth(freq, substrate.conductivity),
    higherOrderMode: mode,
    warnings,
  };
}

/** Thrown when no width in the computable range has the impedance asked for; carries what can be reached. */
export class UnreachableImpedance extends RangeError {
  constructor(
    readonly z0: number,
    readonly lowest: number,
    readonly highest: number,
  ) {
    super(
      Number.isFinite(lowest) && Number.isFinite(highest)
        ? `no width has ${trim(z0)} ohm on this substrate; it reaches from ${trim(lowest)} to ${trim(highest)} ohm`
        : `no width has ${trim(z0)} ohm on this substrate`,
    );
  }
}

const trim = (x: number): string => String(Number(x.toPrecision(4)));

/** Widths over height between which synthesis searches. */
const NARROWEST = 1e-4;
const WIDEST = 1e3;

/**
 * Width in m whose impedance at `freq` is `z0`: the bracketed root of the analysis itself (Brent), so that analysis of
 * the result returns `z0` to about 1e-12.
 * @throws UnreachableImpedance when the substrate cannot reach `z0`
 */
export function synthesiseWidth(
  medium: MediumId,
  substrate: Substrate,
  z0: number,
  freq: number,
  level: LineModelLevel = 'dispersive',
): number {
  if (!(z0 > 0 && z0 < Infinity)) throw new RangeError('an impedance must be greater than zero and finite');
  const kind = crossSections.strip[medium];
  const p = linePoint();
  const points = [p];
  const h = substrate.height;
  const error = (x: number): number => {
    kind.prepare(substrate, [h * Math.exp(x)], level).impedanceAt(freq, points);
    return Math.log(p.z0 / z0);
  };
  const least = Math.log(NARROWEST);
  const most = Math.log(WIDEST);
  // Start where a wide strip's parallel-plate estimate points to, then walk outwards until the sign changes.
  const estimate = 377 / (z0 * Math.sqrt(substrate.er));
  let a = Math.min(most, Math.max(least, Math.log(Math.max(estimate - 1.2, 0.4 * Math.exp(-2 / estimate)))));
  let fa = error(a);
  if (fa === 0) return h * Math.exp(a);
  // The impedance falls with width: too high an impedance asks for a wider strip.
  const direction = fa > 0 ? 1 : -1;
  for (let step = 0.25; ; step *= 2) {
    const b = Math.min(most, Math.max(least, a + direction * step));
    const fb = error(b);
    if (fa * fb <= 0) return h * Math.exp(brent(error, a, b));
    // What is no number ends the search as what is out of reach does.
    if (b === least || b === most || Number.isNaN(fb)) {
      const highest = z0 * Math.exp(error(least));
      const lowest = z0 * Math.exp(error(most));
      throw new UnreachableImpedance(z0, lowest, highest);
    }
    a = b;
    fa = fb;
  }
}

/** Length in m of `theta` radians at guided wavelength `wavelength`. */
export const lengthOf = (theta: number, wavelength: number): number => (theta / (2 * Math.PI)) * wavelength;
/** Electrical length in radians of `length` at guided wavelength `wavelength`. */
export const angleOf = (length: number, wavelength: number): number => (length / wavelength) * 2 * Math.PI;
