import { useCallback, useLayoutEffect, useRef, useState } from 'react';

/** The same reference as long as the value says the same as JSON, so that what depends on it is not drawn again. */
export function useStable<T>(value: T): T {
  const [kept, setKept] = useState(value);
  const same = kept === value || JSON.stringify(kept) === JSON.stringify(value);
  if (!same) setKept(value);
  return same ? kept : value;
}

/** A function whose identity never changes and that always runs the latest version given. */
export function useHandler<A extends unknown[], R>(handler: (...args: A) => R): (...args: A) => R {
  const latest = useRef(handler);
  useLayoutEffect(() => {
    latest.current = handler;
  });
  return useCallback((...args: A) => latest.current(...args), []);
}
