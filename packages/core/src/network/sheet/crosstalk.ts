import { symmetricPair, uniformLine, type Electrical } from '../../electrical';
import type { ModeAnalysis } from '../../lines';
import { C0, DB_PER_NEPER } from '../../numeric';

/** What one line of a pair hands on to the other, over what goes in; dB, as a positive number. */
export interface Crosstalk {
  /** At the end where the wave comes in. */
  readonly near: number;
  readonly far: number;
  /** At any frequency up to the one looked at: the worst at the near end. */
  readonly worst: number;
}

/** Steps in which the worst is looked for. */
const STEPS = 60;

/**
 * Crosstalk over a length (m) of a pair whose four ends are closed by the root of its impedances, at `freq` (Hz) and, at
 * the near end, at the worst frequency below it.
 */
export function crosstalk([even, odd]: readonly ModeAnalysis[], length: number, freq: number): Crosstalk {
  const line = (mode: ModeAnalysis): Electrical =>
    uniformLine((f, out) => {
      out.z0 = mode.z0;
      out.alpha = ((mode.lossConductor + mode.lossDielectric) / DB_PER_NEPER) * length;
      out.beta = (2 * Math.PI * f * Math.sqrt(mode.eeff) * length) / C0;
    });
  const pair = symmetricPair(line(even), line(odd));
  const re = new Float64Array(16);
  const im = new Float64Array(16);
  const at = (f: number, pin: number) => {
    pair.scatter(f, Math.sqrt(even.z0 * odd.z0), re, im);
    return -20 * Math.log10(Math.max(Math.hypot(re[4 * pin], im[4 * pin]), 1e-10));
  };
  let worst = Infinity;
  for (let i = 1; i <= STEPS; i++) worst = Math.min(worst, at((freq * i) / STEPS, 1));
  return { near: at(freq, 1), far: at(freq, 3), worst };
}
