/** Speed of light in vacuum in m/s (exact, SI). */
export const C0 = 299_792_458;
/** Permeability of vacuum in H/m (4 pi 1e-7; the 2019 SI value differs by 5e-10 relative). */
export const MU0 = 4e-7 * Math.PI;
/** Permittivity of vacuum in F/m. */
export const EPS0 = 1 / (MU0 * C0 * C0);
/** Wave impedance of vacuum in ohm. */
export const ETA0 = MU0 * C0;
/** Decibels in one neper. */
export const DB_PER_NEPER = 20 / Math.LN10;
