import { C0, DB_PER_NEPER } from '../numeric/constants';
import {
  linePoint,
  type CrossSection,
  type Dimensions,
  type LineModelLevel,
  type LineWarning,
  type MediumId,
  type Shape,
  type Substrate,
} from './contract';
import { crossSections } from './kinds';
import { skinDepth } from './loss';

/** One mode at one frequency; losses in dB/m. */
export interface ModeAnalysis {
  readonly z0: number;
  readonly eeff: number;
  readonly lossConductor: number;
  readonly lossDielectric: number;
}

/** What a cross-section is at one frequency. SI units; losses in dB/m. Of two modes the mean of their angles and losses. */
export interface SectionAnalysis {
  /** One mode, or the even and the odd one. */
  readonly modes: readonly ModeAnalysis[];
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
 * Analyses a cross-section of `dimensions` (m, in the order of its shape's) at `freq` (Hz, above 0).
 * @param level `static` takes impedance and permittivity of zero frequency; the losses stay at `freq`
 */
export function analyseSection<S extends Shape>(
  section: CrossSection<S>,
  substrate: Substrate,
  dimensions: Dimensions[S],
  freq: number,
  level: LineModelLevel = 'dispersive',
): SectionAnalysis {
  const points = Array.from({ length: section.modes }, linePoint);
  section.prepare(substrate, dimensions, level).at(freq, points);
  const modes = points.map((p) => ({
    z0: p.z0,
    eeff: p.eeff,
    lossConductor: p.alphaConductor * DB_PER_NEPER,
    lossDielectric: p.alphaDielectric * DB_PER_NEPER,
  }));
  const mean = (f: (mode: ModeAnalysis) => number) => modes.reduce((sum, m) => sum + f(m), 0) / modes.length;
  const velocityFactor = 1 / mean((m) => Math.sqrt(m.eeff));
  const higher = section.higherOrderMode(substrate, dimensions);
  const warnings = section.warnings(substrate, dimensions, freq);
  if (freq > higher)
    warnings.push({
      code: 'higher-order-mode',
      message: `The first higher-order mode starts at ${(higher / 1e9).toPrecision(4)} GHz, below the operating frequency: the line no longer carries ${modes.length === 1 ? 'one mode' : 'two modes'} only.`,
    });
  return {
    modes,
    velocityFactor,
    wavelength: (C0 * velocityFactor) / freq,
    lossConductor: mean((m) => m.lossConductor),
    lossDielectric: mean((m) => m.lossDielectric),
    skinDepth: skinDepth(freq, substrate.conductivity),
    higherOrderMode: higher,
    warnings,
  };
}

/** A line of one strip. */
export interface LineAnalysis extends Omit<SectionAnalysis, 'modes'> {
  readonly width: number;
  readonly freq: number;
  readonly z0: number;
  readonly eeff: number;
}

/** The same for a strip of `width` (m) in a board's medium. */
export function analyseLine(
  medium: MediumId,
  substrate: Substrate,
  width: number,
  freq: number,
  level?: LineModelLevel,
): LineAnalysis {
  const { modes, ...rest } = analyseSection(crossSections.strip[medium], substrate, [width], freq, level);
  return { width, freq, z0: modes[0].z0, eeff: modes[0].eeff, ...rest };
}

/** What else the impedances of a pair's modes say. Losses, angles and velocities belong to the modes. */
export interface PairReading {
  /** Impedance that matches the pair as a coupler, ohm: the geometric mean. */
  readonly z0: number;
  readonly zDifferential: number;
  readonly zCommon: number;
  /** Coupling of a quarter wave, dB, positive. */
  readonly couplingDb: number;
}
export const readPair = (ze: number, zo: number): PairReading => ({
  z0: Math.sqrt(ze * zo),
  zDifferential: 2 * zo,
  zCommon: ze / 2,
  couplingDb: -20 * Math.log10((ze - zo) / (ze + zo)),
});

/** Impedances of the even and the odd mode of a pair that is matched to z0 and couples by `coupling` dB. */
export function pairImpedances(z0: number, coupling: number): [even: number, odd: number] {
  const c = Math.pow(10, -coupling / 20);
  const root = Math.sqrt((1 + c) / (1 - c));
  return [z0 * root, z0 / root];
}
