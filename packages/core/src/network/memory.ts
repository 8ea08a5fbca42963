import type { Electrical } from '../electrical';
import { drive } from '../numeric';
import type { SData } from '../results';
import type { Circuit } from './circuit';
import { networkOf } from './simulate';
import { sweptOver } from './smooth';
import { createSolver, samplingSteps } from './solve';
import type { Network } from './joined';

/** States of a piece that are remembered: where a search stands, and the step that it tries. */
const STATES = 3;

/** What a part scatters at the frequencies of a search, filled as it is asked for. */
interface Sampled {
  readonly key: string;
  /** Its room went to another state. */
  gone?: boolean;
  readonly zn: Float64Array;
  readonly re: Float64Array;
  readonly im: Float64Array;
}

/**
 * Solves one state of a design after the other at the same frequencies (Hz), as a search does: what a piece scatters is
 * worked out once for each of its states, so that a step that moves one piece costs no more than that. What it answers
 * solves a state at any of those frequencies.
 */
export function solverAt(
  freq: Float64Array,
  data: (id: string) => SData | undefined,
): (circuit: Circuit) => (at: Float64Array) => SData {
  const places = new Map(Array.from(freq, (f, k) => [f, k]));
  const memory = new Map<number, Sampled[]>();
  let around = '';
  const now = { f: NaN, k: 0 };
  const remembered = (electrical: Electrical, index: number, key: string): Electrical => {
    const size = electrical.pins ** 2;
    const states = memory.get(index) ?? [];
    memory.set(index, states);
    let found = states.find((s) => s.key === key);
    if (!found) {
      // What is forgotten leaves its room.
      const old = states.length >= STATES ? states.pop() : undefined;
      const room = old?.re.length === size * freq.length ? old : undefined;
      if (room) room.gone = true;
      found = {
        key,
        zn: room?.zn.fill(0) ?? new Float64Array(freq.length),
        re: room?.re ?? new Float64Array(size * freq.length),
        im: room?.im ?? new Float64Array(size * freq.length),
      };
      states.unshift(found);
    }
    const own = found;
    const { zn: filled, re: sr, im: si } = own;
    return {
      pins: electrical.pins,
      scatter(f, zn, re, im) {
        if (own.gone) return electrical.scatter(f, zn, re, im);
        if (f !== now.f) {
          now.f = f;
          now.k = places.get(f)!;
        }
        const at = now.k * size;
        if (filled[now.k] !== zn) {
          filled[now.k] = zn;
          electrical.scatter(f, zn, re, im);
          for (let i = 0; i < size; i++) {
            sr[at + i] = re[i];
            si[at + i] = im[i];
          }
          return;
        }
        for (let i = 0; i < size; i++) {
          re[i] = sr[at + i];
          im[i] = si[at + i];
        }
      },
    };
  };
  return (circuit) => {
    // Another board or frequency makes everything else.
    const where = JSON.stringify({ ...circuit, pieces: undefined });
    if (where !== around) memory.clear();
    around = where;
    const network = sweptOver(networkOf(circuit, data), freq);
    // Pieces that are alike scatter alike: one of them is worked out.
    const firsts = new Map<string, number>();
    const whole: Network = {
      ...network,
      parts: network.parts.map((part, i) => {
        const key = JSON.stringify(part.from);
        const first = firsts.get(key) ?? i;
        firsts.set(key, first);
        return { ...part, electrical: remembered(part.electrical, first, key) };
      }),
    };
    const solver = createSolver(whole);
    return (at) => drive(samplingSteps(whole, at, solver));
  };
}
