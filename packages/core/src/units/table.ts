import { quantityKinds, sameDimension, type Dimension } from './dimension';

export interface UnitInfo {
  readonly factor: number;
  readonly dimension: Dimension;
}

/** Thickness in m of copper of one ounce per square foot, as the trade rounds it (1.37 mil). */
export const COPPER_OUNCE = 1.37 * 25.4e-6;

const prefixes = { T: 12, G: 9, M: 6, k: 3, c: -2, m: -3, u: -6, n: -9, p: -12, f: -15 } as const;
type Prefix = keyof typeof prefixes;

const prefixed = (unit: string, kind: keyof typeof quantityKinds, with_: string): [string, UnitInfo][] =>
  ['', ...with_].map((prefix) => [
    prefix + unit,
    {
      factor: prefix === '' ? 1 : Number(`1e${prefixes[prefix as Prefix]}`),
      dimension: quantityKinds[kind].dimension,
    },
  ]);
const named = (
  names: readonly string[],
  kind: keyof typeof quantityKinds,
  factor: number,
): [string, UnitInfo][] => names.map((name) => [name, { factor, dimension: quantityKinds[kind].dimension }]);

/** Units understood in fields. A closed list: a typing slip must not silently become hectares or hours. */
const build = (): Map<string, UnitInfo> =>
  new Map([
    ...prefixed('m', 'length', 'cmun'),
    ...named(['in', 'inch'], 'length', 0.0254),
    ...named(['mil', 'mils'], 'length', 25.4e-6),
    ...named(['oz'], 'length', COPPER_OUNCE),
    ...prefixed('Hz', 'frequency', 'kMGT'),
    ...prefixed('ohm', 'impedance', 'mkM'),
    ...named(['Ohm', 'ohms'], 'impedance', 1),
    ...prefixed('S', 'admittance', 'mukM'),
    ...prefixed('F', 'capacitance', 'munpf'),
    ...prefixed('H', 'inductance', 'munp'),
    ...prefixed('s', 'time', 'munp'),
    ...named(['deg', 'degree', 'degrees'], 'angle', Math.PI / 180),
    ...named(['rad'], 'angle', 1),
    ...named(['dB'], 'level', 1),
  ]);

let table: Map<string, UnitInfo> | undefined;

/** Ways to write units that fields do not take but people do. */
const spellings: Readonly<Record<string, string>> = {
  r: 'ohm',
  ohms: 'ohm',
  db: 'dB',
  micron: 'um',
  inches: 'in',
};

const isSame = (a: UnitInfo, b: UnitInfo): boolean =>
  a.factor === b.factor && sameDimension(a.dimension, b.dimension);

/** Units that a word may have been meant to be: those that differ in nothing but capitals, or what it is short for. */
export function unitsLike(name: string): string[] {
  const lower = name.toLowerCase();
  table ??= build();
  const found = [...table.keys()].filter((unit) => unit !== name && unit.toLowerCase() === lower);
  // Aliases of one unit are one answer.
  const same = found.filter(
    (unit, i) => found.findIndex((u) => isSame(table!.get(u)!, table!.get(unit)!)) === i,
  );
  return same.length > 0
    ? same
    : Object.hasOwn(spellings, lower) && spellings[lower] !== name
      ? [spellings[lower]]
      : [];
}

/** The unit of that name, or undefined. */
export const findUnit = (name: string): UnitInfo | undefined => (table ??= build()).get(name);
