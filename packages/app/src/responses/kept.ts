import type { Simulated } from '../bridge/jobs';
import { db } from '../store/db';

/**
 * Numbers kept in all, 12 MB: a few seconds under the hand, and the way back. Far more would have the browser look
 * through all of its memory again and again. What was asked for last stays whatever its size.
 */
const KEPT = 1.5e6;
const LAST = 8;

const sizeOf = ({ swept, exact }: Simulated): number =>
  2 * ((swept?.re.length ?? 0) + (exact?.re.length ?? 0));

/** The latest results by exactly what they depend on, the oldest first; data blocks never change under their id. */
const kept = new Map<string, Simulated>();
let held = 0;

/** A result from the page's memory. */
export const recall = (key: string): Simulated | undefined => kept.get(key);

/** Keeps a result in the page's memory, in place of the oldest ones. */
export function keep(key: string, result: Simulated): void {
  const before = kept.get(key);
  if (before) held -= sizeOf(before);
  kept.delete(key);
  kept.set(key, result);
  held += sizeOf(result);
  for (const [oldest, one] of kept) {
    if (held <= KEPT || kept.size <= LAST) break;
    kept.delete(oldest);
    held -= sizeOf(one);
  }
}

/** Forgets what is in the page's memory, as a page that is loaded anew has. */
export function forget(): void {
  kept.clear();
  held = 0;
}

/** Short names of long keys, given once; what is forgotten is computed again. */
const names = new Map<string, string>();
const NAMES = 20_000;
let named = 0;
export function nameOf(key: string): string {
  let name = names.get(key);
  if (name === undefined) {
    if (names.size >= NAMES) names.clear();
    names.set(key, (name = String(named++)));
  }
  return name;
}

/** Digest of what a result depends on, for the database. */
export async function hashOf(key: string): Promise<string> {
  const digest = await crypto.subtle.digest('SHA-256', new TextEncoder().encode(key));
  return Array.from(new Uint8Array(digest), (b) => b.toString(16).padStart(2, '0')).join('');
}

/** Results of what takes long that the database holds at most. */
const STORED = 60;

/** What took long is kept over a reload: read by what it depends on. Without storage it is computed again. */
export async function recallStored(key: string): Promise<Simulated | undefined> {
  try {
    return (await db.responses.get(await hashOf(key)))?.result;
  } catch {
    return undefined;
  }
}

export async function store(key: string, result: Simulated): Promise<void> {
  try {
    const hash = await hashOf(key);
    await db.transaction('rw', db.responses, async () => {
      await db.responses.put({ hash, at: Date.now(), result });
      const surplus = (await db.responses.count()) - STORED;
      if (surplus > 0) await db.responses.orderBy('at').limit(surplus).delete();
    });
  } catch {
    // What is not stored is computed again.
  }
}
