import { useCallback, useLayoutEffect, useRef } from 'react';

/** The same reference as long as the value says the same as JSON, so that what depends on it is not drawn again. */
export function useStable<T>(value: T): T {
  const kept = useRef(value);
  const same = kept.current === value || JSON.stringify(kept.current) === JSON.stringify(value);
  const next = same ? kept.current : value;
  useLayoutEffect(() => {
    kept.current = next;
  });
  return next;
}

/** The same list as long as it holds the same things, told by the references inside its entries. */
export function useStableList<T extends object>(list: readonly T[]): readonly T[] {
  const kept = useRef(list);
  const old = kept.current;
  const same =
    old.length === list.length &&
    list.every((entry, i) => (Object.keys(entry) as (keyof T)[]).every((key) => old[i][key] === entry[key]));
  const next = same ? old : list;
  useLayoutEffect(() => {
    kept.current = next;
  });
  return next;
}

/** A function whose identity never changes and that always runs the latest version given. */
export function useHandler<A extends unknown[], R>(handler: (...args: A) => R): (...args: A) => R {
  const latest = useRef(handler);
  useLayoutEffect(() => {
    latest.current = handler;
  });
  return useCallback((...args: A) => latest.current(...args), []);
}
