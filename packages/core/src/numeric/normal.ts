/** Coefficients of the three ranges, numerator and denominator, the constant first (Wichura 1988, PPND16). */
const RANGES = {
  central: [
    [
      3.3871328727963665, 133.14166789178438, 1971.5909503065513, 13731.69376550946, 45921.95393154987,
      67265.7709270087, 33430.57558358813, 2509.0809287301227,
    ],
    [
      1, 42.31333070160091, 687.1870074920579, 5394.196021424751, 21213.794301586597, 39307.89580009271,
      28729.085735721943, 5226.495278852854,
    ],
  ],
  near: [
    [
      1.4234371107496835, 4.630337846156546, 5.769497221460691, 3.6478483247632045, 1.2704582524523684,
      0.2417807251774506, 0.022723844989269184, 0.0007745450142783414,
    ],
    [
      1, 2.053191626637759, 1.6763848301838038, 0.6897673349851, 0.14810397642748008, 0.015198666563616457,
      0.0005475938084995345, 1.0507500716444169e-9,
    ],
  ],
  far: [
    [
      6.657904643501103, 5.463784911164114, 1.7848265399172913, 0.29656057182850487, 0.026532189526576124,
      0.0012426609473880784, 0.000027115555687434876, 2.0103343992922881e-7,
    ],
    [
      1, 0.599832206555888, 0.1369298809227358, 0.014875361290850615, 0.0007868691311456133,
      0.000018463183175100548, 1.421511758316446e-7, 2.0442631033899397e-15,
    ],
  ],
} as const;

const polynomial = (coefficients: readonly number[], x: number): number =>
  coefficients.reduceRight((sum, c) => sum * x + c, 0);

const ratio = ([above, below]: readonly (readonly number[])[], x: number): number =>
  polynomial(above, x) / polynomial(below, x);

/**
 * The number of standard deviations below which a share `p` (0 to 1) of a normal distribution lies, to about 1e-16. Source:
 * Wichura 1988, algorithm AS 241.
 */
export function normalQuantile(p: number): number {
  const q = p - 0.5;
  if (Math.abs(q) <= 0.425) return q * ratio(RANGES.central, 0.180625 - q * q);
  const tail = Math.min(p, 1 - p);
  if (!(tail > 0)) return q < 0 ? -Infinity : Infinity;
  const r = Math.sqrt(-Math.log(tail));
  return Math.sign(q) * (r <= 5 ? ratio(RANGES.near, r - 1.6) : ratio(RANGES.far, r - 5));
}

/** Standard deviations that hold 95 % of a normal distribution between them. */
const Z95 = 1.959963984540054;

/**
 * Between which shares the true one lies with 95 % confidence when `hits` of `count` trials hit. Source: Wilson 1927, whose
 * interval stays within 0 to 1 and is right for few trials, too.
 */
export function shareInterval(hits: number, count: number): [low: number, high: number] {
  if (count === 0) return [0, 1];
  const [p, z2] = [hits / count, (Z95 * Z95) / count];
  const middle = (p + z2 / 2) / (1 + z2);
  const half = (Z95 * Math.sqrt((p * (1 - p)) / count + z2 / (4 * count))) / (1 + z2);
  // Of none and of all the near end is exact.
  return [hits === 0 ? 0 : middle - half, hits === count ? 1 : middle + half];
}
