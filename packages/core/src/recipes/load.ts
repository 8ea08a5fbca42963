import { dataOf, type NamedValue, type Piece } from '../network';
import type { Complex } from '../numeric';
import { blockImpedance } from '../results';
import {
  formatComplex,
  formatQuantity,
  parseExpression,
  quantityKinds,
  QuantityError,
  sameDimension,
  type QuantityRule,
} from '../units';
import { RecipeError, type RecipeContext, type RecipeField, type RecipeInputs } from './contract';
import { angleToRealPlane, elements, seenThrough, type LoadCircuit } from '../theory';
import { freqField, read, z0Field } from './shared';

const loadRule: QuantityRule = { kind: 'impedance', complex: true, min: 0 };

const DATA = 'data:';

/** The text of a load input that refers to data. */
export const dataLoad = (id: string): string => `${DATA}${id}`;

/** What a match is made for. */
export interface Load {
  /** Impedance at the design frequency, ohm. */
  readonly z: Complex;
  /** Whether it is a real resistance, the same at all frequencies. */
  readonly plain: boolean;
  /** What a design says of it in its name. */
  readonly label: string;
  /** Its value `zl` in the design. */
  readonly value: NamedValue;
  /** The piece without its node. */
  readonly piece: Omit<Piece, 'nodes'>;
}

export const loadField: RecipeField = {
  name: 'load',
  label: 'Load',
  help: 'The load to be matched: an impedance such as 23-41j ohm, or elements such as "series 23 ohm, 0.37 pF" and "parallel 60 ohm, 0.1 pF, 2 nH".',
  initial: '23-41j ohm',
  type: 'load',
};

/** What every match to a load asks first. */
export const matchFields: readonly RecipeField[] = [
  { ...freqField, help: 'Frequency at which the match is exact.' },
  { ...z0Field, label: 'Source' },
  loadField,
];

/** A load behind the shortest line that makes it real: the line's angle (rad), what one sees there (ohm), how a design says it. */
export interface RealLoad {
  readonly turn: number;
  readonly real: number;
  /** The name that stands for the real impedance, and the values that it needs. */
  readonly target: string;
  readonly values: readonly NamedValue[];
}

/** Turns a load real by a line of impedance `z0` (ohm); a plain resistance is so already. */
export function madeReal({ z, plain }: Load, z0: number): RealLoad {
  if (plain) return { turn: 0, real: z.re, target: 'zl', values: [] };
  const turn = angleToRealPlane(z, z0);
  return {
    turn,
    real: seenThrough(z, z0, turn).re,
    target: 'zr',
    values: [
      { name: 'turn', value: 'realplane(zl, z0)', note: 'to a real impedance' },
      { name: 'zr', value: 're(seen(zl, z0, turn))', note: 'load made real' },
    ],
  };
}

/** The elements after `series` or `parallel`, each told by its unit. */
function readElements(circuit: LoadCircuit, text: string): Record<'r' | 'l' | 'c', string | undefined> {
  const found: Record<'r' | 'l' | 'c', string | undefined> = { r: undefined, l: undefined, c: undefined };
  const faces = { r: 'impedance', l: 'inductance', c: 'capacitance' } as const;
  for (const part of text.split(/[,;]/)) {
    if (part.trim() === '') continue;
    let face: 'r' | 'l' | 'c' | undefined;
    try {
      const quantity = parseExpression(part.trim()).evaluate();
      face = (['r', 'l', 'c'] as const).find((f) =>
        sameDimension(quantity.dimension, quantityKinds[faces[f]].dimension),
      );
      if (!face)
        throw new QuantityError(
          `"${part.trim()}" is no resistance, inductance or capacitance such as 0.3 pF`,
        );
      if (quantity.im !== 0 || !(quantity.re > 0))
        throw new QuantityError(`"${part.trim()}" must be real and greater than zero`);
    } catch (error) {
      if (error instanceof QuantityError) throw new RecipeError('load', error.message);
      throw error;
    }
    if (found[face] !== undefined)
      throw new RecipeError('load', `has two of a kind: ${found[face]} and ${part.trim()}`);
    found[face] = part.trim();
  }
  if (!found.r)
    throw new RecipeError(
      'load',
      `takes no power without a resistance: write for example "${circuit} 23 ohm, 0.37 pF"`,
    );
  return found;
}

/** Reads the load of a recipe at its design frequency, Hz. @throws RecipeError at the load */
export function readLoad(inputs: RecipeInputs, context: RecipeContext, f0: number): Load {
  const text = inputs.load.trim();
  const base = { id: 'load', name: 'load', kind: 'load' } as const;
  let load: Load;
  const elementary = /^(series|parallel)\b\s*(.*)$/i.exec(text);
  if (text.startsWith(DATA)) {
    const id = text.slice(DATA.length);
    const block = context.data.find((d) => d.id === id);
    if (!block) throw new RecipeError('load', 'its data is not in the project');
    if (block.ports !== 1)
      throw new RecipeError('load', `needs one-port data, and this has ${block.ports} ports`);
    const [low, high] = [block.freq[0], block.freq[block.freq.length - 1]];
    if (f0 < low || f0 > high)
      throw new RecipeError(
        'load',
        `the data reaches from ${formatQuantity(low, 'frequency')} to ${formatQuantity(high, 'frequency')}, which leaves the design frequency out`,
      );
    load = {
      z: blockImpedance(dataOf(block), f0),
      plain: false,
      label: 'measured load',
      value: { name: 'zl', value: 'load()', note: 'load' },
      piece: { ...base, held: {}, settings: { data: id } },
    };
  } else if (elementary) {
    const circuit = elementary[1].toLowerCase() as LoadCircuit;
    const found = readElements(circuit, elementary[2]);
    const value = (face: 'r' | 'l' | 'c') =>
      found[face] === undefined ? undefined : parseExpression(found[face]).evaluate();
    const z = { re: 0, im: 0 };
    elements(circuit, { r: value('r'), l: value('l'), c: value('c') })(f0, z);
    const held = Object.fromEntries(Object.entries(found).filter(([, v]) => v !== undefined)) as Record<
      string,
      string
    >;
    load = {
      z,
      plain: !found.l && !found.c,
      label: `${circuit} load`,
      value: { name: 'zl', value: 'load()', note: 'load at f0' },
      piece: { ...base, held, settings: { circuit } },
    };
  } else {
    const z = read('load', text, loadRule);
    load = {
      z,
      plain: z.im === 0,
      label: formatComplex(z.re, z.im, 'impedance', { digits: 3 }),
      value: { name: 'zl', value: text, note: 'load' },
      piece: { ...base, held: { z: 'zl' } },
    };
  }
  if (!(load.z.re > 0) || !Number.isFinite(load.z.re))
    throw new RecipeError(
      'load',
      'takes no power (its real part is not above zero), so nothing can match it',
    );
  return load;
}
