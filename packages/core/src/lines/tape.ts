import type { LinePoint, PreparedSection } from './contract';

/** Points of one mode over ascending frequencies. */
interface Tape {
  /** Hz. */
  freq: Float64Array;
  /** z0, eeff, alphaConductor, alphaDielectric of each mode, frequency by frequency. */
  values: Float64Array;
  length: number;
  /** Where it was read last. */
  at: number;
}

const FIRST = 64;
/** Points of a tape beyond which nothing is kept, and tapes of a section: its sweep, its markers, something between. */
const LONGEST = 2048;
const TAPES = 3;

/**
 * A section that remembers what it was at the frequencies of the sweeps it was asked for: a network asks for the same
 * ones line after line and, while a length is tuned, sweep after sweep.
 */
export function taped(section: PreparedSection): PreparedSection {
  const modes = section.statics.length;
  const tapes: Tape[] = [];
  let last: Tape | undefined;
  const read = ({ values }: Tape, k: number, out: readonly LinePoint[]) => {
    for (let m = 0, v = 4 * modes * k; m < modes; m++, v += 4) {
      const p = out[m];
      p.z0 = values[v];
      p.eeff = values[v + 1];
      p.alphaConductor = values[v + 2];
      p.alphaDielectric = values[v + 3];
    }
  };
  const write = (tape: Tape, f: number, out: readonly LinePoint[]) => {
    if (tape.length === tape.freq.length) {
      const freq = new Float64Array(2 * tape.length);
      const values = new Float64Array(8 * modes * tape.length);
      freq.set(tape.freq);
      values.set(tape.values);
      tape.freq = freq;
      tape.values = values;
    }
    const k = tape.length++;
    tape.freq[k] = f;
    tape.at = k;
    for (let m = 0, v = 4 * modes * k; m < modes; m++, v += 4) {
      const p = out[m];
      tape.values[v] = p.z0;
      tape.values[v + 1] = p.eeff;
      tape.values[v + 2] = p.alphaConductor;
      tape.values[v + 3] = p.alphaDielectric;
    }
  };
  /** Where `f` stands on a tape: where it was read last, the point after it, or its first. */
  const find = (tape: Tape, f: number): boolean => {
    const { freq, at, length } = tape;
    if (freq[at] === f) return true;
    if (at + 1 < length && freq[at + 1] === f) {
      tape.at = at + 1;
      return true;
    }
    if (freq[0] !== f) return false;
    tape.at = 0;
    return true;
  };
  return {
    statics: section.statics,
    impedanceAt: (f, out) => section.impedanceAt(f, out),
    at(f, out) {
      if (last && find(last, f)) return read(last, last.at, out);
      for (const tape of tapes)
        if (tape !== last && find(tape, f)) {
          last = tape;
          return read(tape, tape.at, out);
        }
      section.at(f, out);
      const end = last?.at === (last?.length ?? 0) - 1 ? last : undefined;
      if (end && f > end.freq[end.at]) {
        if (end.length < LONGEST) write(end, f, out);
        return;
      }
      // A sweep that begins elsewhere takes the place of the shortest: what is looked for between samples is short.
      if (tapes.length >= TAPES)
        tapes.splice(tapes.indexOf(tapes.reduce((a, b) => (b.length < a.length ? b : a))), 1);
      last = { freq: new Float64Array(FIRST), values: new Float64Array(4 * modes * FIRST), length: 0, at: 0 };
      tapes.push(last);
      write(last, f, out);
    },
  };
}
