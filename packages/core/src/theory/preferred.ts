/** Series of preferred numbers. */
export const preferredSeries = [3, 6, 12, 24, 48, 96, 192] as const;
export type PreferredSeries = (typeof preferredSeries)[number];

/** E24, which is older than its rule; E12, E6 and E3 take every second, fourth and eighth of it. */
const E24 = [
  1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8,
  7.5, 8.2, 9.1,
];

/** Numbers of a decade, ascending from 1 to below 10. Source: IEC 60063. */
export function decadeOf(series: PreferredSeries): readonly number[] {
  if (series <= 24) return E24.filter((_, i) => i % (24 / series) === 0);
  // The one number that the standard rounds otherwise.
  return Array.from({ length: series }, (_, i) => {
    const exact = Math.round(100 * 10 ** (i / series)) / 100;
    return exact === 9.19 ? 9.2 : exact;
  });
}

/**
 * The preferred number nearest in ratio to a positive value; zero and infinity stay.
 * @throws RangeError for a series that does not exist or a negative value
 */
export function preferred(value: number, series: number): number {
  const known = preferredSeries.find((s) => s === series);
  if (!known)
    throw new RangeError(
      `there is no series E${series}; there are ${preferredSeries.map((s) => `E${s}`).join(', ')}`,
    );
  if (value < 0) throw new RangeError('a preferred number is not negative');
  if (!(value > 0) || value === Infinity) return value;
  const exponent = Math.floor(Math.log10(value));
  let best = value;
  let least = Infinity;
  for (const power of [exponent - 1, exponent, exponent + 1])
    for (const digit of decadeOf(known)) {
      // Divided by a whole power of ten, so that 0.3 pF is as exact as its text.
      const number = power < 0 ? digit / 10 ** -power : digit * 10 ** power;
      const distance = Math.abs(Math.log(number / value));
      if (distance < least) [best, least] = [number, distance];
    }
  return best;
}
