import {
  crossSections,
  linePoint,
  pairDimension,
  readPair,
  UnreachablePair,
  type MediumId,
  type Substrate,
} from '../lines';
import { ofFourFingers } from '../theory';

/** What one way of coupling lines can be made for on a board, dB of coupling. */
export interface Reach {
  readonly id: 'side' | 'tandem' | 'fingers';
  readonly label: string;
  /** What ends it on either side, in words. */
  readonly about: string;
  readonly tightest: number;
  readonly loosest: number;
}

/** Gaps over the height past which strips are coupled by what surrounds them as much as by one another. */
const LOOSE = 3;

type Modes = readonly [even: number, odd: number];
const amplitude = (dB: number): number => Math.pow(10, -dB / 20);
/** Two couplers in tandem turn by twice the angle of each. */
const twice = (dB: number): number => -20 * Math.log10(Math.sin(2 * Math.asin(amplitude(dB))));

/**
 * How tightly and how loosely quarter waves of `z0` (ohm) can be coupled on a board at `freq` (Hz): from the least gap
 * that is etched (m) to one of three heights. What a board cannot do at all is left out.
 */
export function couplingReach(
  medium: MediumId,
  substrate: Substrate,
  z0: number,
  leastGap: number,
  freq: number,
): Reach[] {
  const points = [linePoint(), linePoint()];
  /** Coupling of strips a gap apart that are as wide as their modes' mean impedance asks, dB. */
  const at = (gap: number, of: (even: number, odd: number) => Modes): number | undefined => {
    const mean = (even: number, odd: number) => Math.sqrt(of(even, odd)[0] * of(even, odd)[1]);
    const asked = { gap, asked: `${z0} ohm`, miss: (e: number, o: number) => mean(e, o) / z0 };
    try {
      const width = pairDimension(medium, substrate, asked, freq);
      crossSections.pair[medium].prepare(substrate, [width, gap]).impedanceAt(freq, points);
      return readPair(...of(points[0].z0, points[1].z0)).couplingDb;
    } catch (error) {
      if (error instanceof UnreachablePair) return undefined;
      throw error;
    }
  };
  const far = Math.max(LOOSE * substrate.height, 2 * leastGap);
  const [side, loose] = [leastGap, far].map((gap) => at(gap, (even, odd) => [even, odd]));
  const [fingers, apart] = [leastGap, far / 3].map((gap) => at(gap, ofFourFingers));
  const gap = `${Number((leastGap * 1e3).toPrecision(3))} mm`;
  const out: Reach[] = [];
  if (side !== undefined && loose !== undefined) {
    out.push({
      id: 'side',
      label: 'side by side',
      about: `two strips, from the least gap of ${gap} to three heights`,
      tightest: side,
      loosest: loose,
    });
    // Past half the power the angle would only come back.
    if (side > 3.02)
      out.push({
        id: 'tandem',
        label: 'two in tandem',
        about: 'two such couplers one after the other: twice the angle',
        tightest: twice(side),
        loosest: twice(loose),
      });
  }
  if (fingers !== undefined && apart !== undefined)
    out.push({
      id: 'fingers',
      label: 'four fingers',
      about: `interdigitated, every other joined, from the least gap of ${gap}`,
      tightest: fingers,
      loosest: apart,
    });
  return out;
}
