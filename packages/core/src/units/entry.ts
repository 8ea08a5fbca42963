import type { QuantityKind } from './dimension';
import { DECIMAL, namesIn } from './expression';
import { unitsLike } from './table';

/** The unit that a bare number means in a field of a kind, where only one is sensible. */
const OWN: Readonly<Partial<Record<QuantityKind, string>>> = { impedance: 'ohm', angle: 'deg', level: 'dB' };

const NUMBER = `[+-]?\\s*${DECIMAL}`;
const BARE = new RegExp(
  `^\\s*(?:${NUMBER}|${NUMBER}\\s*[+-]\\s*(?:j\\s*)?(?:\\d+\\.?\\d*|\\.\\d+)j?|${NUMBER}j)\\s*$`,
);

/**
 * What somebody means who types this into a field of the page: a bare number gets the unit of the field where only one
 * is sensible, and units in other capitals, or an R for ohm, become the unit where that is unambiguous. Everything else
 * stays as it is; the command line takes nothing but what is written.
 * @param known names that have a value here and are no misspelt units
 */
export function meantEntry(
  text: string,
  kind: QuantityKind | undefined,
  known: ReadonlySet<string> = NONE,
): string {
  const own = kind && OWN[kind];
  if (own !== undefined && BARE.test(text.replace(/\u2212/g, '-'))) return `${text.trim()} ${own}`;
  let out = text;
  // A resistor's decimal R, as 4R7.
  const printed = kind === 'impedance' ? /^\s*(\d+)[rR](\d+)\s*$/.exec(text) : null;
  if (printed) return `${printed[1]}.${printed[2]} ohm`;
  for (const name of namesIn(text)) {
    if (known.has(name) || name.endsWith('()')) continue;
    // An R is ohm where ohm is asked for, and a name that is not known elsewhere.
    if (name.toLowerCase() === 'r' && kind !== undefined && kind !== 'impedance') continue;
    const units = unitsLike(name);
    if (units.length !== 1) continue;
    // Behind a number only: elsewhere it is a name that is not known, and is said to be.
    out = out.replace(new RegExp(`([\\d.]\\s*j?\\s*)${name}(?![\\w(])`, 'g'), `$1${units[0]}`);
  }
  return out;
}
const NONE: ReadonlySet<string> = new Set();
