import { DECIMAL } from '@ditch/core/units';

const PATTERN = new RegExp(
  `^(\\s*)([+-]?${DECIMAL})(\\s*[A-Za-z\u00B5\u03BC\u03A9\u00B0%][\\w/\u00B5\u03A9\u00B0^]*)?\\s*$`,
);

/**
 * The text of a plain quantity moved by one step of its second significant digit: `50 ohm` to `51 ohm`. `size` 0.1 is
 * finer, 10 coarser. The unit and its spacing stay. Undefined when the text is not a plain quantity.
 */
export function stepText(text: string, direction: 1 | -1, size: 1 | 0.1 | 10 = 1): string | undefined {
  const match = PATTERN.exec(text);
  if (!match) return undefined;
  const [, lead, digits, unit = ''] = match;
  const x = Number(digits);
  if (!Number.isFinite(x)) return undefined;
  const magnitude = x === 0 ? 0 : Math.floor(Math.log10(Math.abs(x)) + 1e-9);
  const exponent = magnitude - 1 + Math.round(Math.log10(size));
  const next = x + direction * Math.pow(10, exponent);
  const typed = /[eE]/.test(digits) ? undefined : (digits.split('.')[1] ?? '').length;
  const decimals = Math.min(12, Math.max(0, -exponent, typed ?? 0));
  const shown = typed === undefined ? String(Number(next.toPrecision(12))) : next.toFixed(decimals);
  // Trailing zeros that the step itself brought in go away again.
  const tidy = shown.includes('.') ? shown.replace(/(\.\d*?)0+$/, '$1').replace(/\.$/, '') : shown;
  return `${lead}${tidy}${unit}`;
}

const COMPLEX = new RegExp(`^(\\s*[+-]?${DECIMAL})(\\s*)([+-])(\\s*)(${DECIMAL})(j.*)$`);

/** A text after a step, and where the caret belongs: in the part of the value that was stepped. */
export interface Stepped {
  readonly text: string;
  readonly caret: number;
}

/**
 * The same for the part of a quantity that a caret stands in: of `23-41j ohm` the resistance or the reactance, which may
 * change its sign.
 */
export function stepAt(
  text: string,
  caret: number,
  direction: 1 | -1,
  size: 1 | 0.1 | 10 = 1,
): Stepped | undefined {
  const parts = COMPLEX.exec(text);
  if (!parts) {
    const next = stepText(text, direction, size);
    return next === undefined ? undefined : { text: next, caret: next.length };
  }
  const [, re, gap, sign, space, im, rest] = parts;
  if (caret <= re.length) {
    const next = stepText(re, direction, size);
    return next === undefined
      ? undefined
      : { text: `${next}${gap}${sign}${space}${im}${rest}`, caret: next.length };
  }
  const next = stepText(`${sign === '-' ? '-' : ''}${im}`, direction, size);
  if (next === undefined) return undefined;
  const negative = next.startsWith('-');
  const head = `${re}${gap}${negative ? '-' : '+'}${space}${negative ? next.slice(1) : next}`;
  return { text: `${head}${rest}`, caret: head.length };
}
