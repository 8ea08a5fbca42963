import { computed, effect, signal, type ReadonlySignal } from '@preact/signals-core';
import { useCallback, useEffect, useLayoutEffect, useMemo, useSyncExternalStore } from 'react';

/**
 * What changes with every step of a hand. React makes the shape of a picture; numbers that move are written into it by
 * {@link useDrawn}, without a rendering. An attribute or a text belongs to one of the two, never to both.
 */
export type Live<T> = ReadonlySignal<T>;

/**
 * Something worked out of other live things; it stays the same object as long as it says the same.
 * @param same whether two say the same; default: as JSON
 */
export function derived<T>(compute: () => T, same?: (a: T, b: T) => boolean): Live<T> {
  let kept: { readonly value: T; readonly text?: string } | undefined;
  return computed(() => {
    const value = compute();
    const text = same ? undefined : JSON.stringify(value);
    const is = kept && (same ? same(kept.value, value) : kept.text === text);
    if (!is) kept = { value, text };
    return kept!.value;
  });
}

/** Whether two lists hold the same things, told by the references inside their entries. */
export const sameEntries = <T extends object>(a: readonly T[], b: readonly T[]): boolean =>
  a.length === b.length &&
  a.every((entry, i) => (Object.keys(entry) as (keyof T)[]).every((key) => b[i][key] === entry[key]));

/** A live thing of a component, worked out anew when what it depends on is another. */
export function useDerived<T>(
  compute: () => T,
  depends: readonly unknown[],
  same?: (a: T, b: T) => boolean,
): Live<T> {
  // eslint-disable-next-line react-hooks/exhaustive-deps
  return useMemo(() => derived(compute, same), depends);
}

/** What a live thing is now, for what React renders. */
export function useLive<T>(live: Live<T>): T {
  const subscribe = useCallback((changed: () => void) => live.subscribe(changed), [live]);
  return useSyncExternalStore(subscribe, () => live.peek());
}

/** A live thing as it was when it last stood still for so many milliseconds, or when somebody asked for it. */
export function useRested<T>(live: Live<T>, rest: number): readonly [rested: Live<T>, ask: () => void] {
  const rested = useMemo(() => signal(live.peek()), [live]);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let due = 0;
    // A timer that runs already looks again when it is through: one at each step of the hand would be dear.
    const wait = (time: number) => {
      timer = setTimeout(() => {
        timer = undefined;
        const left = due - performance.now();
        if (left > 0) wait(left);
        else rested.value = live.peek();
      }, time);
    };
    const stop = live.subscribe(() => {
      due = performance.now() + rest;
      if (timer === undefined) wait(rest);
    });
    return () => {
      clearTimeout(timer);
      stop();
    };
  }, [live, rest, rested]);
  const ask = useCallback(() => {
    rested.value = live.peek();
  }, [live, rested]);
  return [rested, ask];
}

/** Something that a view gives at each of its renderings, as a live thing. */
export const useConstant = <T>(value: T): Live<T> => useMemo(() => signal(value), [value]);

/** Draws after each rendering, and whenever a live thing that `draw` reads has changed. */
export function useDrawn(draw: () => void): void {
  useLayoutEffect(() => effect(draw));
}
