import { C0 } from '../../numeric';
import { parts } from '../../parts';
import type { SData } from '../../results';
import type { ResolvedStack } from '../../stack';
import {
  checkQuantity,
  namesIn,
  parseExpression,
  QuantityError,
  type Quantity,
  type Scope,
} from '../../units';
import { lineCalculator, type LineCalculator } from '../calculator';
import type { Design } from '../document';
import { message, metres, ohms } from '../arguments';
import { boardFunctions, theoryFunctions } from '../functions';
import { nameProblem } from '../names';
import { FollowingError, type Overrides, type Problems } from './contract';

/** In words: the values that lead from `name` back to itself; of a long way its ends. */
function circle(open: readonly string[], name: string): string {
  const way = [...open.slice(open.indexOf(name)), name];
  const shown = way.length > 8 ? [...way.slice(0, 4), '\u2026', ...way.slice(-3)] : way;
  return `depends on itself (${shown.join(' \u2192 ')})`;
}

/** A design's named values, worked out, and what expressions find there. */
export interface Values {
  /** SI units. */
  readonly values: ReadonlyMap<string, Quantity>;
  readonly f0: number | undefined;
  readonly scope: Scope;
  /** Whether a value of the design has that name. */
  readonly has: (name: string) => boolean;
  /** @throws QuantityError without a stack or a frequency */
  readonly calculator: () => LineCalculator;
}

/** Works out the named values, each when it is first asked for. */
export function readValues(
  design: Design,
  stack: ResolvedStack | undefined,
  data: (id: string) => SData | undefined,
  overrides: Overrides,
  problems: Problems,
): Values {
  const texts = new Map<string, string>();
  for (const v of design.values) {
    const refused = texts.has(v.name) ? `"${v.name}" is named twice` : nameProblem(v.name);
    if (refused !== undefined) problems.say({ kind: 'value', name: v.name }, refused);
    else texts.set(v.name, overrides[v.name] ?? v.value);
  }
  const values = new Map<string, Quantity>();
  const failed = new Set<string>();
  /** Values being worked out, the first asked for first. */
  const open = new Set<string>();
  let lines: LineCalculator | undefined;
  const calculator = () => {
    if (!stack) throw new QuantityError('needs a stack without errors');
    return (lines ??= lineCalculator(design.medium, stack.substrate, frequency()));
  };
  const frequency = (): number => {
    const f = value('f0');
    if (!f) throw new QuantityError('needs the design frequency f0');
    return checkQuantity(f, { kind: 'frequency', min: 0, exclusive: true }).re;
  };
  const value = (name: string): Quantity | undefined => {
    const known = values.get(name);
    if (known) return known;
    if (name === 'lambda0' && !texts.has(name)) return metres(C0 / frequency());
    if (name === 'lambda' && !texts.has(name))
      throw new QuantityError(
        'lambda, the guided wavelength, is known only in the fields of a line; use lambda0 or guided(50 ohm)',
      );
    const text = texts.get(name);
    if (text === undefined) return undefined;
    if (open.has(name)) throw new QuantityError(circle([...open], name));
    if (!failed.has(name)) workOut(name, text);
    const result = values.get(name);
    if (!result) throw new FollowingError(`needs "${name}", which has an error`);
    return result;
  };
  /**
   * Works out a value after those it is made of, one by one: a chain of thousands must not become a chain of calls.
   * What a function such as `load()` needs is not among an expression's names and is asked for when it is called.
   */
  function workOut(first: string, text: string): void {
    const path = [{ name: first, text, needs: namesIn(text), next: 0 }];
    open.add(first);
    while (path.length > 0) {
      const here = path[path.length - 1];
      const need = here.needs[here.next++];
      const needed = need === undefined ? undefined : texts.get(need);
      if (need !== undefined && needed !== undefined && !values.has(need) && !failed.has(need)) {
        if (open.has(need)) {
          failed.add(here.name);
          problems.say({ kind: 'value', name: here.name }, circle([...open], need));
        } else {
          path.push({ name: need, text: needed, needs: namesIn(needed), next: 0 });
          open.add(need);
          continue;
        }
      }
      if (here.next < here.needs.length && !failed.has(here.name)) continue;
      path.pop();
      open.delete(here.name);
      if (failed.has(here.name)) continue;
      try {
        values.set(here.name, parseExpression(here.text).evaluate(scope));
      } catch (error) {
        failed.add(here.name);
        problems.take({ kind: 'value', name: here.name }, error);
      }
    }
  }
  const designFunctions = boardFunctions({
    frequency,
    lines: calculator,
    load() {
      for (const piece of design.pieces) {
        const definition = parts.get(piece.kind);
        if (!definition?.impedance) continue;
        const read = (face: string) =>
          piece.held[face] === undefined ? undefined : parseExpression(piece.held[face]).evaluate(scope);
        return ohms(definition.impedance(read, { settings: piece.settings ?? {}, f0: frequency(), data }));
      }
      throw new QuantityError('the design has no load');
    },
  });
  const scope: Scope = {
    value,
    names: () => texts.keys(),
    fn: (name) =>
      Object.hasOwn(designFunctions, name)
        ? designFunctions[name]
        : Object.hasOwn(theoryFunctions, name)
          ? theoryFunctions[name]
          : undefined,
  };
  for (const name of Object.keys(overrides))
    if (!texts.has(name)) problems.say({ kind: 'value', name }, `the design has no value named "${name}"`);
  for (const name of texts.keys()) {
    try {
      value(name);
    } catch (error) {
      message(error);
    }
  }

  let f0: number | undefined;
  if (!texts.has('f0')) problems.say({ kind: 'design' }, 'it needs a named value f0, the design frequency');
  else {
    try {
      f0 = frequency();
    } catch (error) {
      if (!failed.has('f0')) problems.take({ kind: 'value', name: 'f0' }, error);
    }
  }
  return { values, f0, scope, has: (name) => texts.has(name), calculator };
}
