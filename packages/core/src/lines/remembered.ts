/**
 * A function of up to three numbers that remembers what it was asked for last. Numbers are compared, not made keys of:
 * that would cost more than what is remembered.
 */
export function remembered<T>(
  make: (a: number, b: number, c: number) => T,
  most: number,
): (a: number, b?: number, c?: number) => T {
  const known: { readonly a: number; readonly b: number; readonly c: number; readonly value: T }[] = [];
  return (a, b = 0, c = 0) => {
    for (let i = 0; i < known.length; i++) {
      const entry = known[i];
      if (entry.a !== a || entry.b !== b || entry.c !== c) continue;
      // The newest stands first.
      if (i > 0) known.unshift(...known.splice(i, 1));
      return entry.value;
    }
    const value = make(a, b, c);
    known.unshift({ a, b, c, value });
    known.length = Math.min(known.length, most);
    return value;
  };
}
