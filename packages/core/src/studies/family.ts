import {
  asMade,
  BOARD_FACES,
  inDesign,
  resolveDesign,
  Unmakeable,
  type BoardFace,
  type Design,
  type FamilyAxis,
  type Project,
  type ResolvedDesign,
} from '../network';
import { formatQuantity, parseExpression, checkQuantity, QuantityError, type QuantityKind } from '../units';
import { rangeOf, tunables, tuned, type Tunable } from './tune';

/** An axis in numbers. */
export interface FamilyValues {
  readonly key: string;
  readonly label: string;
  readonly kind: QuantityKind;
  /** SI units, in the order of the members. */
  readonly values: readonly number[];
  /** What the design has now. */
  readonly now: number;
}

/** A family that cannot be, at the axis that is wrong. */
export class FamilyError extends Error {
  constructor(
    readonly axis: number,
    message: string,
  ) {
    super(message);
  }
}

/** One of a family. */
export interface Member {
  /** Its value on each axis, SI units. */
  readonly values: readonly number[];
  readonly project: Project;
  readonly design: Design;
  readonly resolved: ResolvedDesign;
}

/** Members of an axis, and of a family, at most. */
export const MOST_MEMBERS = 1001;

const BOARD_LABELS: Readonly<Record<BoardFace | 'etch', string>> = {
  er: '\u03B5r of the board, copper as it is',
  height: 'board height, copper as it is',
  thickness: 'metal thickness, copper as it is',
  tand: 'loss tangent, copper as it is',
  etch: 'width of all lines by etching',
};

/** Everything that a family can be taken over: what can be tuned, and what the copper meets when it is made. */
export function familyKeys(
  project: Project,
  design: Design,
  resolved: ResolvedDesign,
): readonly Pick<Tunable, 'key' | 'label' | 'kind' | 'value'>[] {
  const substrate = resolved.stack?.substrate;
  return [
    ...tunables(project, design, resolved).filter((t) => !t.key.startsWith('stack:')),
    ...(substrate
      ? [...BOARD_FACES, 'etch' as const].map((face) => ({
          key: `board:${face}`,
          label: BOARD_LABELS[face],
          kind: face === 'er' || face === 'tand' ? ('number' as const) : ('length' as const),
          value: face === 'etch' ? 0 : substrate[face],
        }))
      : []),
  ];
}

/** What is offered to begin with: a range around the present value. */
export function usualValues(project: Project, design: Design, resolved: ResolvedDesign, key: string): string {
  const tunable = tunables(project, design, resolved, [key])[0];
  const found = familyKeys(project, design, resolved).find((k) => k.key === key);
  if (!found) return '';
  const [low, high] = tunable
    ? rangeOf(tunable).map((x, i) => (tunable.range ? x : (tunable.value + rangeOf(tunable)[i]) / 2))
    : found.key === 'board:etch'
      ? [-40e-6, 40e-6]
      : [0.95 * found.value, 1.05 * found.value];
  const text = (x: number) =>
    formatQuantity(x, found.kind, { digits: 4 })
      .replaceAll('\u2212', '-')
      .replaceAll('\u03A9', 'ohm')
      .replaceAll('\u00B5', 'u');
  return `${text(low)} .. ${text(high)} : 5`;
}

function read(text: string, kind: QuantityKind): number {
  const expression = parseExpression(text);
  if (!expression.literal) throw new QuantityError(`"${expression.names[0]}" is not a unit`);
  return checkQuantity(expression.evaluate(), { kind }).re;
}

/**
 * Values of an axis: `START .. STOP : COUNT`, both ends included, or a list with commas.
 * @throws QuantityError in words
 */
export function readFamilyValues(text: string, kind: QuantityKind): number[] {
  const range = /^(.+?)\.\.(.+):\s*(\S+)\s*$/s.exec(text);
  if (range) {
    const count = Number(range[3]);
    if (!/^\d+$/.test(range[3]) || count < 1 || count > MOST_MEMBERS)
      throw new QuantityError(`needs a count from 1 to ${MOST_MEMBERS} after the colon (got "${range[3]}")`);
    const [start, stop] = [read(range[1].trim(), kind), read(range[2].trim(), kind)];
    if (count === 1 && start !== stop) throw new QuantityError('one member needs equal ends');
    if (count > 1 && start === stop)
      throw new QuantityError('the ends are equal; give one member, or a range');
    return Array.from({ length: count }, (_, i) =>
      // Rounded where only rounding differs: members are read and written by people.
      i === count - 1 ? stop : Number((start + ((stop - start) * i) / (count - 1)).toPrecision(14)),
    );
  }
  if (text.includes('..'))
    throw new QuantityError('needs START .. STOP : COUNT, such as 0.1 mm .. 0.3 mm : 5');
  const list = text.split(',').map((t) => t.trim());
  if (list.some((t) => t === ''))
    throw new QuantityError('needs START .. STOP : COUNT, or values with commas between');
  if (list.length > MOST_MEMBERS) throw new QuantityError(`has more than ${MOST_MEMBERS} values`);
  const values = list.map((t) => read(t, kind));
  const twice = values.findIndex((v, i) => values.indexOf(v) < i);
  if (twice >= 0) throw new QuantityError(`has ${list[twice]} twice`);
  return values;
}

/** The axes of a family in numbers. @throws FamilyError at the axis */
export function readFamily(
  project: Project,
  design: Design,
  resolved: ResolvedDesign,
  axes: readonly FamilyAxis[],
): FamilyValues[] {
  const known = familyKeys(project, design, resolved);
  const read = axes.map(({ key, values }, i): FamilyValues => {
    const found = known.find((k) => k.key === key);
    if (!found) throw new FamilyError(i, 'is nothing that this design has');
    if (axes.findIndex((a) => a.key === key) < i) throw new FamilyError(i, 'is taken twice');
    try {
      const { label, kind, value } = found;
      return { key, label, kind, now: value, values: readFamilyValues(values, kind) };
    } catch (error) {
      if (error instanceof QuantityError) throw new FamilyError(i, error.message);
      throw error;
    }
  });
  const count = read.reduce((n, a) => n * a.values.length, 1);
  if (count > MOST_MEMBERS)
    throw new FamilyError(read.length - 1, `makes ${count} members; ${MOST_MEMBERS} are the most`);
  return read;
}

/** Digits to which a member's value is written. */
const DIGITS = 15;

/**
 * The member of a family at given values. The design of a member has them; of a board that comes out otherwise the copper stays
 * what it is.
 * @throws FamilyError at the axis whose value cannot be
 */
export function memberAt(
  project: Project,
  design: Design,
  axes: readonly Pick<FamilyValues, 'key' | 'kind' | 'now'>[],
  values: readonly number[],
): Member {
  let own = inDesign(project, design.id, () => design);
  const made: Partial<Record<BoardFace | 'etch', number>> = {};
  axes.forEach(({ key, kind, now }, i) => {
    const [what, face] = key.split(':');
    if (what === 'board') made[face as BoardFace | 'etch'] = values[i] - now;
    else own = tuned(own, design.id, { key, kind }, values[i], DIGITS);
  });
  const there = own.designs.find((d) => d.id === design.id)!;
  const resolved = resolveDesign(own, there);
  try {
    return { values, project: own, design: there, resolved: asMade(resolved, made) };
  } catch (error) {
    if (!(error instanceof Unmakeable)) throw error;
    throw new FamilyError(
      axes.findIndex((a) => a.key.startsWith('board:')),
      error.message,
    );
  }
}

/** Every combination of the axes' values, the last axis fastest. */
export function combinations(axes: readonly Pick<FamilyValues, 'values'>[]): number[][] {
  return axes.reduce<number[][]>(
    (all, { values }) => all.flatMap((head) => values.map((v) => [...head, v])),
    [[]],
  );
}
