import { create, createUnitDependencies, parseDependencies, UnitDependencies } from 'mathjs';
import type { MathNode, Unit } from 'mathjs';
import type { Dimension } from './dimension';

// Only what is used of the library: its expression grammar and its knowledge of units. No evaluation by it.
const math = create({ parseDependencies, UnitDependencies, createUnitDependencies }) as unknown as {
  parse(text: string): MathNode;
  Unit: { new (value: number, unit: string): Unit; isValuelessUnit(name: string): boolean };
  createUnit(name: string, definition: string): unknown;
};

export const parse = (text: string): MathNode => math.parse(text);

export interface UnitInfo {
  readonly factor: number;
  readonly dimension: Dimension;
}

/** Units understood in fields. A closed list: a typing slip must not silently become hectares or hours. */
const accepted = [
  ...['m', 'cm', 'mm', 'um', 'nm', 'in', 'inch', 'mil'],
  ...['Hz', 'kHz', 'MHz', 'GHz', 'THz'],
  ...['ohm', 'mohm', 'kohm', 'Mohm', 'S', 'mS', 'uS', 'MS', 'kS'],
  ...['F', 'mF', 'uF', 'nF', 'pF', 'fF', 'H', 'mH', 'uH', 'nH', 'pH'],
  ...['s', 'ms', 'us', 'ns', 'ps', 'deg', 'rad'],
];

/** Thickness in m of copper of one ounce per square foot, as the trade rounds it (1.37 mil). */
export const COPPER_OUNCE = 1.37 * 25.4e-6;

function build(): Map<string, UnitInfo> {
  const table = new Map<string, UnitInfo>();
  for (const name of accepted) {
    const unit = new math.Unit(1, name) as unknown as { value: number; dimensions: number[] };
    const [mass, length, time, current, , , , angle] = unit.dimensions;
    table.set(name, { factor: unit.value, dimension: [mass, length, time, current, angle, 0] });
  }
  const alias = (name: string, of: string) => table.set(name, table.get(of)!);
  alias('degree', 'deg');
  alias('degrees', 'deg');
  alias('Ohm', 'ohm');
  alias('ohms', 'ohm');
  alias('mils', 'mil');
  table.set('oz', { factor: COPPER_OUNCE, dimension: [0, 1, 0, 0, 0, 0] });
  table.set('dB', { factor: 1, dimension: [0, 0, 0, 0, 0, 1] });
  return table;
}

let table: Map<string, UnitInfo> | undefined;

/** Ways to write units that fields do not take but people do. */
const spellings: Readonly<Record<string, string>> = {
  r: 'ohm',
  ohms: 'ohm',
  db: 'dB',
  micron: 'um',
  inches: 'in',
};

/** Units that a word may have been meant to be: those that differ in nothing but capitals, or what it is short for. */
export function unitsLike(name: string): string[] {
  const lower = name.toLowerCase();
  table ??= build();
  const found = [...table.keys()].filter((unit) => unit !== name && unit.toLowerCase() === lower);
  // Aliases of one unit are one answer.
  const same = found.filter((unit, i) => found.findIndex((u) => table!.get(u) === table!.get(unit)) === i);
  return same.length > 0
    ? same
    : spellings[lower] !== undefined && spellings[lower] !== name
      ? [spellings[lower]]
      : [];
}

/** The unit of that name, or undefined. */
export const findUnit = (name: string): UnitInfo | undefined => (table ??= build()).get(name);
