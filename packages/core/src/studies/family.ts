import { answer, liveById, type LiveId, type Subject } from '../levels';
import {
  asMade,
  BOARD_FACES,
  dataFinder,
  frequencies,
  inDesign,
  resolveDesign,
  Unmakeable,
  type BoardFace,
  type Design,
  type FamilyAxis,
  type Plot,
  type Project,
  type ResolvedDesign,
} from '../network';
import { drive, type Complex, type Steps } from '../numeric';
import { outgoing, outgoingCurves, plotCurves, rolesOf } from '../plots';
import type { SData } from '../results';
import { formatQuantity, QuantityError, readQuantity, type QuantityKind } from '../units';
import { contradict, drivingKeys, drivingOf, drivenWaves, usualDriving } from './driving';
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
  /** Into its ports, in their order, where an axis is about that. */
  readonly waves?: readonly Complex[];
}

/** Members of an axis, and of a family, at most. */
export const MOST_MEMBERS = 1001;

const BOARD_LABELS: Readonly<Record<BoardFace | 'etch', string>> = {
  er: '\u03B5r of the board',
  height: 'board height',
  thickness: 'metal thickness',
  tand: 'loss tangent',
  etch: 'etching, width of all lines',
};

/** Everything that a family can be taken over: what can be tuned, what the copper meets when it is made, how two ports are driven. */
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
    ...drivingKeys(resolved),
  ];
}

/** A range of what a board comes out as: 5 % to either side, where there is something to take that of. */
function aroundBoard(face: BoardFace | 'etch', value: number): readonly [number, number] {
  if (face === 'etch') return [-40e-6, 40e-6];
  if (face === 'er') return [Math.max(1, 0.95 * value), 1.05 * value];
  if (value > 0) return [0.95 * value, 1.05 * value];
  return [0, face === 'tand' ? 0.002 : 35e-6];
}

/** What is offered to begin with: a range around the present value. */
export function usualValues(project: Project, design: Design, resolved: ResolvedDesign, key: string): string {
  const driving = usualDriving(key);
  if (driving !== undefined) return driving;
  const tunable = tunables(project, design, resolved, [key])[0];
  const found = familyKeys(project, design, resolved).find((k) => k.key === key);
  if (!found) return '';
  const [low, high] = tunable
    ? rangeOf(tunable).map((x) => (tunable.range ? x : (tunable.value + x) / 2))
    : aroundBoard(found.key.slice('board:'.length) as BoardFace | 'etch', found.value);
  const text = (x: number) => formatQuantity(x, found.kind, { digits: 4, typed: true });
  return `${text(low)} .. ${text(high)} : 5`;
}

const read = (text: string, kind: QuantityKind): number => readQuantity(text, { kind }).re;

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
    if (i > 0 && contradict(axes[0].key, key))
      throw new FamilyError(i, 'drives other ports than the first value does');
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
    if (drivingOf(key)) return;
    if (what === 'board') made[face as BoardFace | 'etch'] = values[i] - now;
    else own = tuned(own, design.id, { key, kind }, values[i], DIGITS);
  });
  const there = own.designs.find((d) => d.id === design.id)!;
  const resolved = resolveDesign(own, there);
  try {
    const waves = drivenWaves(
      resolved,
      axes.map((a) => a.key),
      values,
    );
    return { values, project: own, design: there, resolved: asMade(resolved, made), ...(waves && { waves }) };
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

/** The curves of one plot in all members of a family. */
export interface FamilyCurves {
  /** Hz */
  readonly freq: Float64Array;
  readonly unit: string;
  readonly curves: readonly { readonly id: string; readonly label: string }[];
  /** Values member by member, in each curve by curve, in each point by point; not a number where a member has no response. */
  readonly y: Float32Array;
  /** Why a member has no response, in words. */
  readonly failed: readonly (string | undefined)[];
}

/** What a member that could not be made or solved is said to be. */
const reasonOf = ({ problems }: ResolvedDesign): string => problems[0]?.message ?? 'it has an error';

/** How a member answers: its S-parameters at frequencies (Hz), or why it has none, in words. */
export type MemberResponse = (member: Member, index: number, freq: Float64Array) => SData | string;

/** Members at a level that follows by itself. */
export function liveResponse(project: Project, level: LiveId): MemberResponse {
  const find = dataFinder(project.data);
  return ({ resolved }, _index, freq) => {
    const subject = liveById[level].subject(resolved);
    return subject ? drive(answer(subject, find).sample(freq)) : reasonOf(resolved);
  };
}

/** Members whose copper was solved. @param subjects one a member, or why there is none yet, in words */
export function solvedResponse(project: Project, subjects: readonly (Subject | string)[]): MemberResponse {
  const find = dataFinder(project.data);
  return (_member, index, freq) => {
    const subject = subjects[index];
    return typeof subject === 'string' ? subject : drive(answer(subject, find).sample(freq));
  };
}

/**
 * The curves of a plot in every member. Yields the share done after each.
 * @param axes as read, at least one
 * @throws QuantityError, ConversionError where the plot cannot be drawn
 */
export function* familySteps(
  project: Project,
  design: Design,
  axes: readonly FamilyValues[],
  {
    respond,
    plot,
    points,
  }: { readonly respond: MemberResponse; readonly plot: Plot; readonly points: number },
): Steps<FamilyCurves> {
  const now = resolveDesign(project, design);
  const ideal = liveById.ideal.subject(now);
  const { f0, sweep } = now;
  if (f0 === undefined || !sweep || !ideal) throw new FamilyError(0, 'the design itself has an error');
  const freq = frequencies(sweep.start, sweep.stop, points);
  const roles = rolesOf(drive(answer(ideal, dataFinder(project.data)).sample(Float64Array.of(f0))), f0);
  const members = combinations(axes);
  const draw = ({ waves, resolved }: Member, data: SData): ReturnType<typeof plotCurves> =>
    plot.show === outgoing.id && waves
      ? { unit: outgoing.unit, curves: outgoingCurves(data, waves) }
      : plotCurves(plot, data, roles, resolved.values);
  // How ports are driven changes no S-parameters: members that differ in nothing else share theirs.
  const isDriven = axes.map((a) => drivingOf(a.key) !== undefined);
  const stateOf = (values: readonly number[]): string => values.filter((_, a) => !isDriven[a]).join();
  const answered = isDriven.includes(true) ? new Map<string, SData>() : undefined;
  const failed: (string | undefined)[] = [];
  const drawn: (ReturnType<typeof plotCurves> | undefined)[] = [];
  for (const [i, values] of members.entries()) {
    try {
      const member = memberAt(project, design, axes, values);
      const state = stateOf(values);
      const data = answered?.get(state) ?? respond(member, i, freq);
      if (typeof data === 'string') {
        drawn.push(undefined);
        failed.push(data);
      } else {
        answered?.set(state, data);
        drawn.push(draw(member, data));
        failed.push(undefined);
      }
    } catch (error) {
      if (!(error instanceof FamilyError)) throw error;
      drawn.push(undefined);
      failed.push(error.message);
    }
    yield (i + 1) / members.length;
  }
  const first = drawn.find((d) => d !== undefined);
  const curves = first?.curves.map(({ id, label }) => ({ id, label })) ?? [];
  const y = new Float32Array(members.length * curves.length * points).fill(NaN);
  drawn.forEach((member, m) =>
    curves.forEach(({ id }, c) => {
      const curve = member?.curves.find((own) => own.id === id);
      if (curve) y.set(curve.y, (m * curves.length + c) * points);
    }),
  );
  return { freq, unit: first?.unit ?? '', curves, y, failed };
}

/**
 * The S-parameters of every member over the sweep of the design.
 * @throws FamilyError with the first that has none, and at an axis that changes none
 */
export function* familyDataSteps(
  project: Project,
  design: Design,
  axes: readonly FamilyValues[],
  respond: MemberResponse,
): Steps<SData[]> {
  const { sweep } = resolveDesign(project, design);
  if (!sweep) throw new FamilyError(0, 'the sweep has an error');
  const driven = axes.findIndex((a) => drivingOf(a.key));
  if (driven >= 0) throw new FamilyError(driven, 'changes no S-parameters, so that there are no files of it');
  const freq = frequencies(sweep.start, sweep.stop, sweep.points);
  const members = combinations(axes);
  const out: SData[] = [];
  for (const [i, values] of members.entries()) {
    const data = respond(memberAt(project, design, axes, values), i, freq);
    if (typeof data === 'string')
      throw new FamilyError(
        0,
        `with ${values.map((v, a) => formatQuantity(v, axes[a].kind)).join(', ')} it fails: ${data}`,
      );
    out.push(data);
    yield out.length / members.length;
  }
  return out;
}
