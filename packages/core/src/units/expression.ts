import { brent, cx } from '../numeric';
import {
  addDimensions,
  describeDimension,
  dimensionless,
  quantityKinds,
  sameDimension,
  scaleDimension,
  type Dimension,
} from './dimension';
import { formatNumber } from './format';
import { readNode, type Node } from './grammar';
import { findUnit, unitsLike } from './table';

/** A decimal number without a sign, as a part of patterns. */
export const DECIMAL = '(?:\\d+\\.?\\d*|\\.\\d+)(?:[eE][+-]?\\d+)?';

/** A value in SI units with its dimension. */
export interface Quantity {
  readonly re: number;
  readonly im: number;
  readonly dimension: Dimension;
}

/** An error in a value somebody typed; the message is a sentence for the engineer. */
export class QuantityError extends Error {}

/** A function that expressions can call, such as `width(50 ohm)`. */
export type ScopeFunction = (args: readonly Quantity[]) => Quantity;

/** Where an expression finds names. Either lookup may return undefined (unknown name). */
export interface Scope {
  value?(name: string): Quantity | undefined;
  fn?(name: string): ScopeFunction | undefined;
  /** Names that there are, to be offered where one is misspelt. */
  readonly names?: () => Iterable<string>;
}

/** An expression ready to be evaluated again and again (well under a microsecond a node). */
export interface Expression {
  readonly text: string;
  /** Names that are neither units nor built-in constants, in order of appearance. */
  readonly names: readonly string[];
  /** True when the text is a plain quantity without names or functions. */
  readonly literal: boolean;
  /** @throws QuantityError naming what does not fit */
  evaluate(scope?: Scope): Quantity;
}

type Evaluator = (scope: Scope) => Quantity;

export const real = (re: number, dimension: Dimension = dimensionless): Quantity => ({
  re,
  im: 0,
  dimension,
});

const constants: Readonly<Record<string, Quantity>> = {
  pi: real(Math.PI),
  j: { re: 0, im: 1, dimension: dimensionless },
  c0: real(299_792_458, [0, 1, -1, 0, 0, 0]),
};

/** Names that a named value may not take. */
export const isReservedName = (name: string): boolean =>
  name in constants || name in functions || findUnit(name) !== undefined;

const expectPure = (x: Quantity, what: string): void => {
  if (!sameDimension(x.dimension, dimensionless))
    throw new QuantityError(`${what} needs a pure number, not ${describeDimension(x.dimension)}`);
};
const expectReal = (x: Quantity, what: string): void => {
  if (x.im !== 0) throw new QuantityError(`${what} needs a real value`);
};

const pure =
  (name: string, f: (x: cx.Complex) => cx.Complex): ScopeFunction =>
  ([x]) => {
    expectPure(x, `${name}()`);
    return { ...f(x), dimension: dimensionless };
  };
const trigonometric =
  (name: string, f: (x: number) => number): ScopeFunction =>
  ([x]) => {
    if (!sameDimension(x.dimension, quantityKinds.angle.dimension)) expectPure(x, `${name}()`);
    expectReal(x, `${name}()`);
    return real(f(x.re));
  };
const inverse =
  (name: string, f: (x: number) => number): ScopeFunction =>
  ([x]) => {
    expectPure(x, `${name}()`);
    expectReal(x, `${name}()`);
    const angle = f(x.re);
    if (Number.isNaN(angle))
      throw new QuantityError(
        `${name}() takes a number from ${name === 'asinc' ? '0' : '\u22121'} to 1, and this is ${formatNumber(x.re, 4)}`,
      );
    return real(angle, quantityKinds.angle.dimension);
  };
const extreme =
  (name: string, f: (...x: number[]) => number): ScopeFunction =>
  (args) => {
    for (const x of args) {
      expectReal(x, `${name}()`);
      if (!sameDimension(x.dimension, args[0].dimension))
        throw new QuantityError(
          `${name}() compares ${describeDimension(args[0].dimension)} with ${describeDimension(x.dimension)}`,
        );
    }
    return real(f(...args.map((x) => x.re)), args[0].dimension);
  };

/** Angle from 0 to pi whose sine over itself is `x`: the turn of an arc whose end has risen by `x` of its length. */
function asinc(x: number): number {
  if (!(x >= 0 && x <= 1)) return NaN;
  if (x === 0) return Math.PI;
  return x === 1 ? 0 : brent((a) => Math.sin(a) / a - x, 1e-9, Math.PI);
}

/** Functions of every expression: [number of arguments, Infinity for any; implementation]. */
const functions: Readonly<Record<string, readonly [number, ScopeFunction]>> = {
  sqrt: [1, ([x]) => ({ ...cx.sqrt(x), dimension: scaleDimension(x.dimension, 0.5) })],
  abs: [1, ([x]) => real(cx.abs(x), x.dimension)],
  re: [1, ([x]) => real(x.re, x.dimension)],
  im: [1, ([x]) => real(x.im, x.dimension)],
  conj: [1, ([x]) => ({ re: x.re, im: -x.im, dimension: x.dimension })],
  exp: [1, pure('exp', cx.exp)],
  ln: [1, pure('ln', cx.log)],
  log10: [1, pure('log10', (x) => cx.div(cx.log(x), { re: Math.LN10, im: 0 }))],
  sin: [1, trigonometric('sin', Math.sin)],
  cos: [1, trigonometric('cos', Math.cos)],
  tan: [1, trigonometric('tan', Math.tan)],
  asin: [1, inverse('asin', Math.asin)],
  acos: [1, inverse('acos', Math.acos)],
  atan: [1, inverse('atan', Math.atan)],
  asinc: [1, inverse('asinc', asinc)],
  min: [Infinity, extreme('min', Math.min)],
  max: [Infinity, extreme('max', Math.max)],
};

/** What a name that is not known may have been meant to be. */
function hint(name: string, scope: Scope): string {
  if (Object.hasOwn(functions, name) || scope.fn?.(name))
    return `; ${name} is a function: write ${name}(\u2026)`;
  const lower = name.toLowerCase();
  const near = [...(scope.names?.() ?? [])].filter((n) => n.toLowerCase() === lower);
  const meant = [...near, ...unitsLike(name)];
  return meant.length > 0 ? `; did you mean ${meant.join(' or ')}?` : '';
}

function binary(op: '+' | '-' | '*' | '/' | '^', a: Evaluator, b: Evaluator): Evaluator {
  switch (op) {
    case '+':
    case '-': {
      const sign = op === '+' ? 1 : -1;
      return (scope) => {
        const x = a(scope);
        const y = b(scope);
        if (x.dimension !== y.dimension && !sameDimension(x.dimension, y.dimension))
          throw new QuantityError(
            `${op === '+' ? 'adds' : 'subtracts'} ${describeDimension(y.dimension)} ${op === '+' ? 'to' : 'from'} ${describeDimension(x.dimension)}`,
          );
        return { re: x.re + sign * y.re, im: x.im + sign * y.im, dimension: x.dimension };
      };
    }
    case '*':
      return (scope) => {
        const x = a(scope);
        const y = b(scope);
        return { ...cx.mul(x, y), dimension: addDimensions(x.dimension, y.dimension, 1) };
      };
    case '/':
      return (scope) => {
        const x = a(scope);
        const y = b(scope);
        if (y.re === 0 && y.im === 0) throw new QuantityError('divides by zero');
        return { ...cx.div(x, y), dimension: addDimensions(x.dimension, y.dimension, -1) };
      };
    case '^':
      return (scope) => {
        const x = a(scope);
        const y = b(scope);
        expectPure(y, 'an exponent');
        expectReal(y, 'an exponent');
        const dimension = scaleDimension(x.dimension, y.re);
        if (x.im === 0 && (x.re >= 0 || Number.isInteger(y.re))) return real(Math.pow(x.re, y.re), dimension);
        return { ...cx.exp(cx.mul(cx.log(x), { re: y.re, im: 0 })), dimension };
      };
  }
}

function compile(node: Node, names: Set<string>, depth: number): Evaluator {
  if (depth > 60) throw new QuantityError('is nested too deeply');
  switch (node.kind) {
    case 'number': {
      const constant = real(node.value);
      return () => constant;
    }
    case 'group':
      return compile(node.of, names, depth + 1);
    case 'name': {
      const { name } = node;
      const fixed = constants[name];
      if (fixed && Object.hasOwn(constants, name)) return () => fixed;
      const unit = findUnit(name);
      if (unit) {
        const quantity = real(unit.factor, unit.dimension);
        return () => quantity;
      }
      names.add(name);
      return (scope) => {
        const value = scope.value?.(name);
        if (!value)
          throw new QuantityError(`"${name}" is not a unit or a named value here${hint(name, scope)}`);
        return value;
      };
    }
    case 'operation': {
      const left = compile(node.left, names, depth + 1);
      return binary(node.op, left, compile(node.right, names, depth + 1));
    }
    case 'sign': {
      const x = compile(node.of, names, depth + 1);
      if (node.op === '+') return x;
      return (scope) => {
        const v = x(scope);
        return { re: -v.re, im: v.im === 0 ? 0 : -v.im, dimension: v.dimension };
      };
    }
    case 'percentage': {
      const x = compile(node.of, names, depth + 1);
      return (scope) => {
        const v = x(scope);
        return { re: v.re / 100, im: v.im / 100, dimension: v.dimension };
      };
    }
    case 'call': {
      const { name } = node;
      const args = node.args.map((a) => compile(a, names, depth + 1));
      const builtIn = Object.hasOwn(functions, name) ? functions[name] : undefined;
      if (builtIn) {
        const [count, f] = builtIn;
        if (count === Infinity ? args.length === 0 : args.length !== count)
          throw new QuantityError(
            `${name}() takes ${count === Infinity ? 'at least one value' : count === 1 ? 'one value' : `${count} values`}`,
          );
        return (scope) => f(args.map((a) => a(scope)));
      }
      names.add(`${name}()`);
      return (scope) => {
        const f = scope.fn?.(name);
        if (!f) throw new QuantityError(`"${name}" is not a function here`);
        return f(args.map((a) => a(scope)));
      };
    }
  }
}

const COMPLEX = new RegExp(
  `^\\s*([+-]?\\s*${DECIMAL})\\s*([+-]\\s*(?:${DECIMAL})?\\s*j(?:\\s*${DECIMAL})?)\\s+?([a-zA-Z].*)$`,
);
const IMAGINARY_PREFIX = new RegExp(`\\bj\\s*(${DECIMAL})`, 'g');

/** Typographic forms that people paste, as plain text; `23-41j ohm` as `(23-41j) ohm`. */
function normalise(text: string): string {
  const plain = text
    .replace(/[\u2126\u03A9]/g, 'ohm')
    .replace(/[\u00B5\u03BC]/g, 'u')
    .replace(/\u03BB/g, 'lambda')
    .replace(/\u03C0/g, 'pi')
    .replace(/\u00B0/g, 'deg')
    .replace(/[\u2212\u2013]/g, '-')
    .replace(/[\u00D7\u00B7]/g, '*')
    .replace(/[\u2009\u202F\u00A0]/g, ' ')
    .replace(/\bpercent\b/g, '%')
    .replace(IMAGINARY_PREFIX, '$1j')
    .trim();
  const parts = COMPLEX.exec(plain) ?? COMPLEX.exec(plain.replace(/j(?=[a-zA-Z])/, 'j '));
  return parts ? `(${parts[1]}${parts[2]})*(${parts[3]})` : plain;
}

/** Whatever keeps an expression from having a value, as an error in words: no reading of a value ends otherwise. */
function worded(error: unknown): QuantityError {
  if (error instanceof QuantityError) return error;
  // The engines' own errors are no sentences for an engineer; a RangeError of ours is.
  if (error instanceof RangeError && !/call stack|array (buffer )?length|allocation/i.test(error.message))
    return new QuantityError(error.message);
  return new QuantityError(
    error instanceof RangeError ? 'leads through too many other values' : 'cannot be worked out',
  );
}

/** A number with a unit: what a search writes thousands of times a second. */
const PLAIN = new RegExp(`^(-?${DECIMAL}) ([a-zA-Z]+)$`);

const NO_NAMES: readonly string[] = [];

/** Such a text without the grammar, and without being kept: hardly one comes again. Undefined where it is anything else. */
function plainQuantity(text: string): Expression | undefined {
  const [, number, symbol] = PLAIN.exec(text) ?? [];
  const unit = symbol && findUnit(symbol);
  if (!unit) return undefined;
  const quantity = real(Number(number) * unit.factor, unit.dimension);
  return {
    text,
    names: NO_NAMES,
    literal: true,
    evaluate: () => finite(quantity),
  };
}

/** @throws QuantityError where there is no value that a page could show */
function finite(value: Quantity): Quantity {
  if (!Number.isFinite(value.re) || !Number.isFinite(value.im))
    throw new QuantityError('is not a finite value');
  return value;
}

/** What is long is recognised by its beginning. */
const shortened = (text: string): string => (text.length > 60 ? `${text.slice(0, 59)}\u2026` : text);

const cache = new Map<string, Expression>();

/**
 * Reads an expression with units: `36mil`, `2*z0`, `lambda/4 - 0.1 mm`, `23-41j ohm`.
 * @throws QuantityError when the text cannot be read
 */
export function parseExpression(text: string): Expression {
  const known = plainQuantity(text) ?? cache.get(text);
  if (known) return known;
  if (text.trim() === '') throw new QuantityError('is empty');
  if (text.length > 300) throw new QuantityError('is too long for an expression');
  const plain = normalise(text);
  if (/\d,\d/.test(plain) && !/[a-z]\(/.test(plain))
    throw new QuantityError('needs a decimal point, not a comma');
  const names = new Set<string>();
  let node: Node;
  try {
    node = readNode(plain);
  } catch {
    throw new QuantityError(`"${shortened(text.trim())}" cannot be read as a quantity`);
  }
  const evaluator = compile(node, names, 0);
  const expression: Expression = {
    text,
    names: [...names],
    literal: names.size === 0,
    evaluate(scope = {}) {
      let value: Quantity;
      try {
        value = evaluator(scope);
      } catch (error) {
        throw worded(error);
      }
      return finite(value);
    },
  };
  if (cache.size > 4000) cache.clear();
  cache.set(text, expression);
  return expression;
}

/** What a text says of itself, or `otherwise` where it cannot be read: what is wrong with it stands at its field. */
function orElse<T>(text: string, read: (expression: Expression) => T, otherwise: T): T {
  try {
    return read(parseExpression(text));
  } catch (error) {
    if (error instanceof QuantityError) return otherwise;
    throw error;
  }
}

/** Names that an expression uses, or none while it cannot be read. */
export const namesIn = (text: string): readonly string[] => orElse(text, (e) => e.names, []);

/** Real part, SI, of an expression that needs no names; undefined while it has no value. */
export const valueOf = (text: string): number | undefined =>
  orElse<number | undefined>(text, (e) => e.evaluate().re, undefined);

/** What a field accepts beyond its dimension. */
export interface QuantityRule {
  readonly kind: QuantityKindName;
  readonly complex?: boolean;
  readonly min?: number;
  readonly max?: number;
  /** The limits themselves are not allowed. */
  readonly exclusive?: boolean;
}
type QuantityKindName = keyof typeof quantityKinds;

/**
 * Checks a quantity against what a field needs.
 * @throws QuantityError in words, with an example of what is accepted
 */
export function checkQuantity(value: Quantity, rule: QuantityRule): Quantity {
  const kind = quantityKinds[rule.kind];
  if (!sameDimension(value.dimension, kind.dimension)) {
    const isBare = sameDimension(value.dimension, dimensionless);
    throw new QuantityError(
      isBare && rule.kind !== 'number'
        ? `needs a unit: ${kind.noun} such as ${kind.example}`
        : `needs ${kind.noun} such as ${kind.example}, not ${describeDimension(value.dimension)}`,
    );
  }
  if (!Number.isFinite(value.re) || !Number.isFinite(value.im))
    throw new QuantityError('is not a finite value');
  if (!rule.complex && value.im !== 0) throw new QuantityError('must be real');
  const { min, max, exclusive } = rule;
  // Nobody thinks in radians.
  const told = (x: number): string =>
    rule.kind === 'angle' ? `${Number(((x * 180) / Math.PI).toPrecision(4))} deg` : String(x);
  if (min !== undefined && (exclusive ? !(value.re > min) : !(value.re >= min)))
    throw new QuantityError(
      min === 0
        ? exclusive
          ? 'must be greater than zero'
          : 'must not be negative'
        : `must be ${exclusive ? 'greater than' : 'at least'} ${told(min)}`,
    );
  if (max !== undefined && (exclusive ? !(value.re < max) : !(value.re <= max)))
    throw new QuantityError(`must be ${exclusive ? 'less than' : 'at most'} ${told(max)}`);
  return value;
}

/** Reads a quantity without names, as an option or a file gives it. @throws QuantityError */
export function readQuantity(text: string, rule: QuantityRule): Quantity {
  const expression = parseExpression(text);
  if (!expression.literal) {
    const name = expression.names[0];
    throw new QuantityError(
      `"${name}" is not a unit; needs ${quantityKinds[rule.kind].noun} such as ${quantityKinds[rule.kind].example}`,
    );
  }
  return checkQuantity(expression.evaluate(), rule);
}
