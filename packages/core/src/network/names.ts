import { isReservedName, namesIn } from '../units';
import type { Design } from './document';
import { scopeNames } from './functions';

/** Words that the grammar of expressions takes for operators. */
const OPERATORS: ReadonlySet<string> = new Set(['mod', 'to', 'in', 'and', 'or', 'xor', 'not', 'end']);

/** Results that formulas on plots know, so that a value of that name could not be told from them. */
const RESULT = /^[SYZ](\d\d|\d+_\d+)$/;

/**
 * Why a text cannot name a value, as a sentence without its end; undefined where it can. A name must stand for nothing
 * else in any expression: no unit, function, constant or result, and it must read back as itself.
 */
export function nameProblem(name: string): string | undefined {
  if (name.trim() === '') return 'a value needs a name';
  if (/^[\d.]/.test(name)) return 'a name begins with a letter';
  const odd = /[^A-Za-z0-9_]/u.exec(name)?.[0];
  if (odd !== undefined)
    return `a name is made of the letters a to z, digits and _; ${/\s/.test(odd) ? 'a space' : `"${odd}"`} cannot be in it`;
  if (name.length > 40) return 'a name has at most 40 characters';
  const about = scopeNames.get(name);
  if (about !== undefined) return `"${name}" has a meaning of its own here: ${about}`;
  if (OPERATORS.has(name)) return `"${name}" is an operator of expressions`;
  if (isReservedName(name)) return `"${name}" is a unit or a function and cannot be a name`;
  if (RESULT.test(name) || name === 'freq')
    return `"${name}" is a result that formulas on plots know; another name keeps them apart`;
  const names = namesIn(`2*${name} + ${name}/3`);
  return names.length === 1 && names[0] === name
    ? undefined
    : `"${name}" means something else in an expression`;
}

/** Why a value of a design cannot be called `name`, its own present name aside. */
export function renameProblem(design: Design, from: string, name: string): string | undefined {
  if (name !== from && design.values.some((v) => v.name === name))
    return `another value is called "${name}" already`;
  if (from === 'f0') return name === 'f0' ? undefined : 'f0 is the design frequency and keeps its name';
  return nameProblem(name);
}
