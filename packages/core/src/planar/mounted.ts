import { widthOf, type CopperPort, type Layers } from './contract';

/** Places across a strip at which its current is taken, as it is without thickness: as 1/sqrt of the distance to its edges. */
const ACROSS = 8;
/** Images of the current between two planes, to either side, and in how many periods of them they are faded out. */
const IMAGES = 24;
const FADE = 6;
/** Cosine up to which a port looks at another one. */
const LOOKS = 0.9;

/** Two ports at both sides of one part that look at one another. */
export interface Facing {
  /** Their indices. */
  readonly ports: readonly [number, number];
  /** Of what each current lacks beyond its end, the share that the other one's makes up for by its inductance: 1 without a gap. */
  readonly share: number;
}

/**
 * The mutual inductance of two currents in line, endless to one side and a gap apart, over that without a gap: the integral of
 * (u - gap) g(u) over u from the gap on, where g is what a current at a distance u along induces with its images in the planes.
 * @param width of both strips, @param gap m
 */
export function sharedAcross({ below, above }: Layers, width: number, gap: number): number {
  const places = Array.from(
    { length: ACROSS },
    (_, i) => (width / 2) * Math.cos((Math.PI * (i + 0.5)) / ACROSS),
  );
  /** The integral twice over 1 / hypot(u, a). */
  const twice = (s: number, a: number) => (s > 0 ? s * Math.log(s + Math.hypot(s, a)) : 0) - Math.hypot(s, a);
  const period = 2 * (below.height + above.height);
  const hasLid = Number.isFinite(period);
  const images = hasLid ? Array.from({ length: 2 * IMAGES + 1 }, (_, i) => (i - IMAGES) * period) : [0];
  /** The series hardly converges by itself: it is faded out, so that what is far cancels. */
  const counts = (z: number) => (hasLid ? Math.exp(-((z / (FADE * period)) ** 2)) : 1);
  const induced = (s: number): number => {
    let sum = 0;
    for (const p of places)
      for (const q of places)
        for (const z of images) {
          const other = z + 2 * below.height;
          sum +=
            counts(z) * twice(s, Math.hypot(p - q, z)) - counts(other) * twice(s, Math.hypot(p - q, other));
        }
    return sum;
  };
  return induced(gap) / induced(0);
}

/** The ports at which parts are mounted whose two pads face one another. @param outward unit vectors out of the copper, by port */
export function facingPorts(
  ports: readonly CopperPort[],
  outward: readonly (readonly [number, number])[],
  layers: Layers,
): Facing[] {
  const middles = ports.map(({ edge: [a, b] }) => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
  return ports.flatMap(({ other }, i) => {
    const j = ports.findIndex((p) => p.number === other);
    if (j <= i) return [];
    const [dx, dy] = [0, 1].map((k) => middles[j][k] - middles[i][k]);
    const apart = Math.hypot(dx, dy);
    const looks = ([x, y]: readonly [number, number]) => (x * dx + y * dy) / apart;
    if (!(looks(outward[i]) > LOOKS && looks(outward[j]) < -LOOKS)) return [];
    const width = (widthOf(ports[i]) + widthOf(ports[j])) / 2;
    return [{ ports: [i, j], share: sharedAcross(layers, width, apart) } as const];
  });
}
