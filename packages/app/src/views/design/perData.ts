import type { SData } from '@ditch/core/results';

/** Readings of one response that are kept: a value that moves would leave one behind at each of its steps. */
const KEPT = 16;

/**
 * What is read off responses, once for each of them: most steps of a hand change one level and leave the others as they are.
 * @param keyOf what the reading hangs on beside the response
 */
export function perData<A extends readonly unknown[], R>(
  read: (data: SData, ...how: A) => R,
  keyOf: (...how: A) => string,
): (data: SData, ...how: A) => R {
  const known = new WeakMap<SData, Map<string, { readonly value: R }>>();
  return (data, ...how) => {
    let own = known.get(data);
    if (!own) known.set(data, (own = new Map<string, { readonly value: R }>()));
    const key = keyOf(...how);
    let kept = own.get(key);
    if (!kept) {
      if (own.size >= KEPT) own.clear();
      own.set(key, (kept = { value: read(data, ...how) }));
    }
    return kept.value;
  };
}
