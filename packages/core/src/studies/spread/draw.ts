import { normalQuantile, seeded } from '../../numeric';
import { SIGMAS } from './tolerance';
import type { Varied } from './varied';

/** A number of 32 bits from a text and a seed (FNV-1a). */
function hashed(text: string, seed: number): number {
  let hash = (0x811c9dc5 ^ seed) >>> 0;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193) >>> 0;
  return hash;
}

/** What a share of a distribution is away from its nominal value. */
const away = ({ half, shape }: Varied, share: number): number =>
  shape === 'uniform' ? (2 * share - 1) * half : (normalQuantile(share) * half) / SIGMAS;

/**
 * Draws by what each of `varied` is off, sample after sample. Each has numbers of its own, so that one more leaves those of the
 * others as they are; the same seed gives the same on every machine.
 * @param from samples to leave out at the beginning
 */
export function drawing(varied: readonly Varied[], seed: number, from = 0): () => number[] {
  const streams = varied.map(({ key }) => seeded(hashed(key, seed)));
  // In the middle of the 2^32 steps, so that neither end is met.
  const draw = (i: number) => streams[i]() + 2 ** -33;
  for (let k = 0; k < from; k++) streams.forEach((stream) => stream());
  return () => varied.map((v, i) => away(v, draw(i)));
}
