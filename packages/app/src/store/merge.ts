type Json = unknown;
type Keyed = { readonly id?: unknown; readonly name?: unknown };

const isObject = (x: Json): x is Record<string, Json> =>
  typeof x === 'object' && x !== null && !Array.isArray(x);
const keyOf = (x: Json): string | undefined => {
  if (!isObject(x)) return undefined;
  const { id, name } = x as Keyed;
  return typeof id === 'string' ? id : typeof name === 'string' ? name : undefined;
};

/** Deep equality of JSON values; identical references end the search early, which immutable edits make common. */
export function equal(a: Json, b: Json): boolean {
  if (a === b) return true;
  if (Array.isArray(a) && Array.isArray(b)) return a.length === b.length && a.every((x, i) => equal(x, b[i]));
  if (isObject(a) && isObject(b)) {
    const keys = Object.keys(a);
    return keys.length === Object.keys(b).length && keys.every((k) => k in b && equal(a[k], b[k]));
  }
  return false;
}

/** Raised while merging: called for every place where both sides changed the same thing. */
type OnConflict = () => void;

function mergeValue(base: Json, mine: Json, theirs: Json, onConflict: OnConflict): Json {
  if (equal(mine, theirs) || equal(base, theirs)) return mine;
  if (equal(base, mine)) return theirs;
  if (isObject(mine) && isObject(theirs) && isObject(base)) {
    const out: Record<string, Json> = {};
    for (const key of new Set([...Object.keys(mine), ...Object.keys(theirs)])) {
      const [b, m, t] = [base[key], mine[key], theirs[key]];
      const merged = mergeMember(key in base, key in mine, key in theirs, b, m, t, onConflict);
      if (merged.present) out[key] = merged.value;
    }
    return out;
  }
  if (Array.isArray(mine) && Array.isArray(theirs) && Array.isArray(base)) {
    const index = (list: Json[]) => {
      const map = new Map<string, Json>();
      for (const x of list) {
        const key = keyOf(x);
        if (key === undefined || map.has(key)) return undefined;
        map.set(key, x);
      }
      return map;
    };
    const [b, m, t] = [index(base), index(mine), index(theirs)];
    if (b && m && t) {
      const out: Json[] = [];
      for (const key of new Set([...m.keys(), ...t.keys()])) {
        const merged = mergeMember(
          b.has(key),
          m.has(key),
          t.has(key),
          b.get(key),
          m.get(key),
          t.get(key),
          onConflict,
        );
        if (merged.present) out.push(merged.value);
      }
      return out;
    }
  }
  onConflict();
  return mine;
}

function mergeMember(
  inBase: boolean,
  inMine: boolean,
  inTheirs: boolean,
  base: Json,
  mine: Json,
  theirs: Json,
  onConflict: OnConflict,
): { present: boolean; value?: Json } {
  if (inMine && inTheirs)
    return { present: true, value: mergeValue(inBase ? base : undefined, mine, theirs, onConflict) };
  if (!inBase) return { present: true, value: inMine ? mine : theirs };
  // One side removed it: it stays gone unless the other side changed it.
  const survivor = inMine ? mine : theirs;
  if (equal(base, survivor)) return { present: false };
  onConflict();
  return { present: true, value: survivor };
}

/**
 * Joins two descendants of one document: what only one side changed is taken from it, lists are matched by `id` or
 * `name`. Where both changed the same value mine stays and `conflict` is true.
 */
export function mergeDocuments<T>(base: T, mine: T, theirs: T): { merged: T; conflict: boolean } {
  let conflict = false;
  const merged = mergeValue(base, mine, theirs, () => (conflict = true)) as T;
  return { merged, conflict };
}
