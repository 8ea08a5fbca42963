import { Option, type Command } from 'commander';
import {
  laminates,
  resolveStack,
  stackFields,
  type ResolvedStack,
  type Stack,
  type StackField,
} from '@ditch/core/stack';
import { media, type MediumId } from '@ditch/core/lines';
import { accuracies, type Accuracy } from '@ditch/core/planar';
import { QuantityError, readQuantity, type QuantityRule } from '@ditch/core/units';
import { optionError } from './errors';

export type Options = Record<string, string | boolean | string[] | undefined>;

/** Collects an option that may be given several times. */
export const repeated = (value: string, list: string[]): string[] => [...list, value];

/** Commander's key of an option: `max-reflection` is `maxReflection`. */
export const key = (option: string): string => option.replace(/-(\w)/g, (_m, c: string) => c.toUpperCase());

/** The quantity an option gives. Exits through a UsageError that names the option. */
export function quantity(options: Options, option: string, rule: QuantityRule): { re: number; im: number } {
  const text = options[key(option)];
  if (typeof text !== 'string') return optionError(option, 'is required');
  try {
    return readQuantity(text, rule);
  } catch (error) {
    if (error instanceof QuantityError) return optionError(option, `${error.message} (got "${text}")`);
    throw error;
  }
}

/** A whole number within limits. */
export function count(options: Options, option: string, min: number, max: number, fallback?: number): number {
  const text = options[key(option)];
  if (text === undefined && fallback !== undefined) return fallback;
  const value = Number(text);
  if (typeof text !== 'string' || !/^\d+$/.test(text) || value < min || value > max)
    return optionError(option, `needs a whole number from ${min} to ${max} (got "${String(text)}")`);
  return value;
}

/** One of a list of words. */
export function choice<T extends string>(
  options: Options,
  option: string,
  accepted: readonly T[],
  fallback: T,
): T {
  const text = options[key(option)];
  if (text === undefined) return fallback;
  // E24 is written so, whatever the option calls it.
  const found = accepted.find((a) => a.toLowerCase() === String(text).toLowerCase());
  return found ?? optionError(option, `must be one of ${accepted.join(', ')} (got "${String(text)}")`);
}

/** The level, and how well copper is solved where that is asked for. */
export function levelOf<T extends string>(
  options: Options,
  accepted: readonly T[],
  fallback: T = accepted[0],
): { level: T; accuracy: Accuracy } {
  const level = choice(options, 'level', accepted, fallback);
  const accuracy = choice(options, 'accuracy', accuracies, 'normal');
  if (options.accuracy !== undefined && level !== ('solved' as string))
    optionError('accuracy', 'is for --level solved only');
  return { level, accuracy };
}

/** The two sides of `NAME=...`; an error shows the form that is meant. */
export function nameAndRest(option: string, text: string, form: string): [name: string, rest: string] {
  const at = text.indexOf('=');
  if (at < 1) return optionError(option, `needs ${form} (got "${text}")`);
  return [text.slice(0, at).trim(), text.slice(at + 1).trim()];
}

const substrateOptions: readonly [StackField, string, string][] = [
  ['er', 'number', 'relative permittivity'],
  ['tand', 'number', 'loss tangent of the dielectric (default 0)'],
  ['height', 'length', 'microstrip: dielectric thickness; stripline: ground-plane spacing'],
  [
    'thickness',
    'length',
    'conductor thickness, a length or copper weight such as 0.5oz (default 0: many skin depths)',
  ],
  ['conductivity', 'quantity', 'bulk conductivity (default 5.8e7S/m)'],
  ['roughness', 'length', 'rms surface roughness (default 0)'],
  ['cover', 'length', 'distance of a metal lid above the dielectric (default: open)'],
];

export function addSubstrateOptions(command: Command): Command {
  for (const [name, what, about] of substrateOptions)
    command.addOption(new Option(`--${name} <${what}>`, about));
  return command;
}

const defaults: Partial<Record<StackField, string>> = {
  tand: '0',
  thickness: '0 mm',
  conductivity: '5.8e7 S/m',
  roughness: '0 mm',
  cover: '',
  minWidth: '100 um',
  minGap: '100 um',
};

/** What options describe of a board; what else it may have they leave as it is when nothing is said. */
const described = stackFields.filter(
  ({ field }) => defaults[field] !== undefined || substrateOptions.some(([name]) => name === field),
);

/** The substrate that the options describe, as a stack of the project format. */
export function stackFrom(options: Options, medium: MediumId): { stack: Stack; resolved: ResolvedStack } {
  const given = substrateOptions.filter(([name]) => options[name] !== undefined).map(([name]) => name);
  let stack: Stack;
  if (typeof options.substrate === 'string') {
    const named = laminates.find(
      (l) => l.id === options.substrate || l.name.toLowerCase() === String(options.substrate).toLowerCase(),
    );
    if (!named)
      return optionError(
        'substrate',
        `"${options.substrate}" does not ship; "ditch substrates" lists those that do`,
      );
    const overridden = given.filter((name) => name !== 'cover');
    if (overridden.length > 0) return optionError(overridden[0], 'cannot be given together with --substrate');
    stack = { ...named, cover: typeof options.cover === 'string' ? options.cover : named.cover };
  } else {
    const texts = {} as Record<StackField, string>;
    for (const { field } of described) {
      const text = options[field];
      if (typeof text === 'string') texts[field] = text;
      else if (defaults[field] !== undefined) texts[field] = defaults[field];
      else return optionError(field, 'is required');
    }
    stack = { id: 'substrate', name: `er ${texts.er}, ${texts.height}`, ...texts };
  }
  // Each given option is read by its own rule first, so that its error names it.
  for (const info of described)
    if (typeof options[info.field] === 'string') quantity(options, info.field, info.rule);
  if (media[medium].grounds === 2 && options.cover !== undefined)
    return optionError('cover', 'a stripline has no lid; leave it out');
  const { value, problems } = resolveStack(stack, medium);
  if (!value) return optionError(problems[0].field, problems[0].message);
  return { stack, resolved: value };
}
