import { useMemo } from 'react';
import {
  entryOf,
  flooredDecibels,
  readMatch,
  type Entry,
  type MatchReading,
  type SData,
} from '@ditch/core/results';

/** One level's response, ready to draw and to read. */
export interface LevelResponse {
  readonly data: SData;
  /** Reflection of port 1. */
  readonly reflection: Entry;
  readonly match: MatchReading | undefined;
}

export function useLevelResponse(
  data: SData | undefined,
  f0: number | undefined,
  goal: number,
): LevelResponse | undefined {
  return useMemo(() => {
    if (!data || f0 === undefined) return undefined;
    const reflection = entryOf(data, 0, 0);
    return { data, reflection, match: readMatch(reflection, f0, -goal) };
  }, [data, f0, goal]);
}

/** |Sij| in dB, with a floor that stands for nothing at all. */
export function levelOf(entry: Entry): Float64Array {
  return entry.re.map((re, k) => flooredDecibels(re, entry.im[k]));
}
