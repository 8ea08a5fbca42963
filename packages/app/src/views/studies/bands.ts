import { useEffect, useState } from 'react';
import type { Sampled } from './useSpread';

/** Shares of the samples that lie below the edges of the bands. */
export const SHARES = [0.05, 0.25, 0.5, 0.75, 0.95] as const;

/** Bands of one curve: by share, point by point. */
export interface Bands {
  readonly curve: string;
  readonly edges: readonly Float64Array[];
}

/** Milliseconds of work after which others have a turn. */
const TURN = 12;

/** Bands of the curves of a plot; worked out in turns, for they sort every sample at every point. */
export function useBands(
  sampled: Sampled | undefined,
  plot: string | undefined,
): readonly Bands[] | undefined {
  const [bands, setBands] = useState<readonly Bands[]>();
  useEffect(() => {
    let gone = false;
    const own = sampled?.plots.find((p) => p.plot === plot);
    if (!sampled || !own) {
      setBands(undefined);
      return;
    }
    const points = sampled.freq.length;
    const work = async () => {
      const out: Bands[] = [];
      let since = performance.now();
      for (const [c, { id }] of own.curves.entries()) {
        const edges = SHARES.map(() => new Float64Array(points));
        for (let k = 0; k < points; k++) {
          const column = new Float32Array(sampled.count);
          let n = 0;
          for (const part of own.parts)
            for (let at = c * points + k; at < part.length; at += own.curves.length * points)
              if (!Number.isNaN(part[at])) column[n++] = part[at];
          const sorted = column.subarray(0, n).sort();
          SHARES.forEach((share, i) => {
            const place = share * (n - 1);
            const below = Math.floor(place);
            const above = Math.min(n - 1, below + 1);
            edges[i][k] = n === 0 ? NaN : sorted[below] + (place - below) * (sorted[above] - sorted[below]);
          });
          if (performance.now() - since > TURN) {
            await new Promise((resolve) => setTimeout(resolve));
            if (gone) return;
            since = performance.now();
          }
        }
        out.push({ curve: id, edges });
      }
      setBands(out);
    };
    void work();
    return () => {
      gone = true;
    };
  }, [sampled, plot]);
  return bands;
}
