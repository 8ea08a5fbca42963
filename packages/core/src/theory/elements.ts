import type { Complex } from '../numeric';

/** How elements are joined. */
export type LoadCircuit = 'series' | 'parallel';

/** Impedance (ohm) of the elements that are there, ohm, H and F, at a frequency in Hz; may be infinite. */
export function elements(
  circuit: LoadCircuit,
  { r, l, c }: { readonly r?: Complex; readonly l?: Complex; readonly c?: Complex },
): (f: number, out: { re: number; im: number }) => void {
  const turn = 2 * Math.PI;
  if (circuit === 'series')
    return (f, out) => {
      out.re = r?.re ?? 0;
      out.im = (l ? turn * f * l.re : 0) - (c ? 1 / (turn * f * c.re) : 0);
    };
  return (f, out) => {
    const g = r ? 1 / r.re : 0;
    const b = (c ? turn * f * c.re : 0) - (l ? 1 / (turn * f * l.re) : 0);
    const d = g * g + b * b;
    out.re = d === Infinity ? 0 : d === 0 ? 0 : g / d;
    out.im = d === Infinity ? 0 : d === 0 ? -Infinity : -b / d;
  };
}
