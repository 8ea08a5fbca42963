/** A complex number as plain data. Hot loops use split arrays instead; this is for edges and single values. */
export interface Complex {
  readonly re: number;
  readonly im: number;
}

export const complex = (re: number, im = 0): Complex => ({ re, im });
export const add = (a: Complex, b: Complex): Complex => ({ re: a.re + b.re, im: a.im + b.im });
export const sub = (a: Complex, b: Complex): Complex => ({ re: a.re - b.re, im: a.im - b.im });
export const mul = (a: Complex, b: Complex): Complex => ({
  re: a.re * b.re - a.im * b.im,
  im: a.re * b.im + a.im * b.re,
});
export const conj = (a: Complex): Complex => ({ re: a.re, im: -a.im });
export const abs = (a: Complex): number => Math.hypot(a.re, a.im);
/** Argument in radians, -pi to pi. */
export const arg = (a: Complex): number => Math.atan2(a.im, a.re);

/** Quotient by Smith's method (1962), which does not overflow for large denominators. */
export function div(a: Complex, b: Complex): Complex {
  if (Math.abs(b.re) >= Math.abs(b.im)) {
    const r = b.im / b.re;
    const d = b.re + b.im * r;
    return { re: (a.re + a.im * r) / d, im: (a.im - a.re * r) / d };
  }
  const r = b.re / b.im;
  const d = b.re * r + b.im;
  return { re: (a.re * r + a.im) / d, im: (a.im * r - a.re) / d };
}

/** Principal square root (real part not negative). */
export function sqrt(a: Complex): Complex {
  const m = abs(a);
  if (m === 0) return { re: 0, im: 0 };
  const re = Math.sqrt(0.5 * (m + Math.abs(a.re)));
  const im = Math.abs(a.im) / (2 * re);
  const sign = a.im < 0 ? -1 : 1;
  return a.re >= 0 ? { re, im: sign * im } : { re: im, im: sign * re };
}

export function exp(a: Complex): Complex {
  const m = Math.exp(a.re);
  return { re: m * Math.cos(a.im), im: m * Math.sin(a.im) };
}

export const log = (a: Complex): Complex => ({ re: Math.log(abs(a)), im: arg(a) });
