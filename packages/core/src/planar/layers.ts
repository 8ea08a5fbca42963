import type { Layers } from './contract';

/** What is around the copper of a microstrip or a stripline. */
export function layersOf(
  medium: 'microstrip' | 'stripline',
  { er, tand, height, cover }: { er: number; tand: number; height: number; cover: number },
): Layers {
  if (medium === 'microstrip')
    return { below: { er, tand, height }, above: { er: 1, tand: 0, height: cover } };
  const half = { er, tand, height: height / 2 };
  return { below: half, above: half };
}
