import type { Complex } from '../numeric';
import { beyond } from '../grow';
import {
  circuitOf,
  dataFinder,
  GROUND,
  inDesign,
  namesBehind,
  networkOf,
  resolveDesign,
  solveNetwork,
  withOwnBoard,
  type Design,
  type Piece,
  type Plot,
  type Project,
  type ResolvedDesign,
} from '../network';
import { parts, propertiesOf, type Model } from '../parts';
import { measureOf, plotCurves, rolesOf, usualPlots } from '../plots';
import { ConversionError, type SData } from '../results';
import {
  DECIMAL,
  formatQuantity,
  kindOf,
  parseExpression,
  quantityKinds,
  QuantityError,
  sameDimension,
  type QuantityKind,
} from '../units';

/** A value that can be moved by hand: a named value, the held side of a piece, or a property of the board. */
export interface Tunable {
  /** Names it for good: `value:zl:re`, `piece:stub:theta`, `stack:er`. */
  readonly key: string;
  readonly label: string;
  readonly kind: QuantityKind;
  /** In SI units. */
  readonly value: number;
  /** As a person reads it. */
  readonly shown: string;
  /** Values below this cannot exist. */
  readonly min: number | undefined;
  /** The expression that holds it; moving it by hand takes its place. */
  readonly expression: string | undefined;
  /** The ends that were given to it. */
  readonly range?: readonly [number, number];
}

const LITERAL = new RegExp(`^\\s*([+-]?${DECIMAL})\\s*(.*?)\\s*$`);
const isNumber = (text: string): boolean => {
  try {
    return parseExpression(text).literal;
  } catch {
    return false;
  }
};

/** The unit a quantity was typed in and what it multiplies with, or undefined where the text is more than that. */
function unitOf(text: string): { unit: string; factor: number } | undefined {
  const unit = LITERAL.exec(text)?.[2];
  if (unit === undefined || /[-+*/(]|\bj\b|^\d/.test(unit)) return undefined;
  if (unit === '') return { unit, factor: 1 };
  try {
    const one = parseExpression(`1 ${unit}`);
    return one.literal ? { unit, factor: one.evaluate().re } : undefined;
  } catch {
    return undefined;
  }
}

const DEFAULT_UNIT: Readonly<Record<QuantityKind, string>> = {
  number: '',
  frequency: 'GHz',
  length: 'mm',
  angle: 'deg',
  impedance: 'ohm',
  admittance: 'mS',
  conductivity: 'S/m',
  capacitance: 'pF',
  inductance: 'nH',
  level: 'dB',
  time: 'ns',
};

const plain = (x: number, digits = 7): string => String(Number(x.toPrecision(digits)));

/** A value as text, in the unit of the text it replaces. */
export function written(value: number, kind: QuantityKind, before: string, digits?: number): string {
  const unit = unitOf(before)?.unit ?? DEFAULT_UNIT[kind];
  const factor = unit === '' ? 1 : parseExpression(`1 ${unit}`).evaluate().re;
  return unit === '' ? plain(value / factor, digits) : `${plain(value / factor, digits)} ${unit}`;
}

function writtenComplex(z: Complex, digits?: number): string {
  return z.im === 0
    ? `${plain(z.re, digits)} ohm`
    : `${plain(z.re, digits)}${z.im < 0 ? '-' : '+'}${plain(Math.abs(z.im), digits)}j ohm`;
}

const positive: ReadonlySet<QuantityKind> = new Set(['frequency', 'impedance', 'capacitance', 'inductance']);

/** Properties of a board that can be moved. */
const BOARD = [
  { field: 'er', label: '\u03B5r', kind: 'number', min: 1 },
  { field: 'tand', label: 'loss tangent', kind: 'number', min: 0 },
  { field: 'height', label: 'board height', kind: 'length', min: 1e-6 },
  { field: 'thickness', label: 'metal thickness', kind: 'length', min: 0 },
] as const;

/** A quantity that a face holds by nothing but the name of a value, is that value. */
const nameIn = (design: Design, text: string | undefined): string | undefined =>
  design.values.find((v) => v.name === text?.trim())?.name;

/** The key that moves a face of a piece: its own, or that of the named value it is. */
export function faceKey(design: Design, piece: Piece, face: string): string {
  const name = nameIn(design, piece.held[face]);
  return name === undefined ? `piece:${piece.id}:${face}` : `value:${name}`;
}

/**
 * Everything that can be moved in a design, in the order of the ledger: values, pieces, board.
 * @param keys these alone
 */
export function tunables(
  project: Project,
  design: Design,
  resolved: ResolvedDesign,
  keys?: readonly string[],
): Tunable[] {
  if (keys) {
    // Faces are told by the names of values, so all of those stay.
    const named = new Set(keys.map((key) => key.split(':')[1]));
    const some = { ...design, pieces: design.pieces.filter((p) => named.has(p.id)) };
    return tunables(project, some, resolved).filter((t) => keys.includes(t.key));
  }
  const out: Tunable[] = [];
  for (const v of design.values) {
    const q = resolved.values.get(v.name);
    const kind = q && kindOf(q.dimension);
    if (!q || !kind) continue;
    const expression = isNumber(v.value) ? undefined : v.value;
    const note = v.note ? `${v.name}, ${v.note}` : v.name;
    if (kind === 'impedance' && (q.im !== 0 || /j/.test(v.value)) && !expression) {
      const sides = [
        ['re', 'resistance', 1e-3],
        ['im', 'reactance', undefined],
      ] as const;
      for (const [side, label, min] of sides)
        out.push({
          key: `value:${v.name}:${side}`,
          label: `${v.name}, ${label}`,
          kind,
          value: q[side],
          shown: formatQuantity(q[side], kind, { digits: 5 }),
          min,
          expression,
        });
      continue;
    }
    if (q.im !== 0) continue;
    out.push({
      key: `value:${v.name}`,
      label: note,
      kind,
      value: q.re,
      shown: formatQuantity(q.re, kind, { digits: 5 }),
      min: positive.has(kind) ? 1e-15 : kind === 'angle' || kind === 'length' ? 0 : undefined,
      expression,
    });
  }
  const byId = new Map(resolved.pieces.map((p) => [p.id, p]));
  for (const piece of design.pieces) {
    const here = byId.get(piece.id);
    const definition = parts.get(piece.kind);
    if (!here?.values || !definition) continue;
    for (const property of propertiesOf(definition, piece.settings))
      for (const face of property.faces) {
        const text = piece.held[face.name];
        const value = here.values[face.name];
        if (text === undefined || !value || value.im !== 0 || nameIn(design, text) !== undefined) continue;
        out.push({
          key: `piece:${piece.id}:${face.name}`,
          label: `${piece.name}, ${face.label.toLowerCase()}`,
          kind: face.rule.kind,
          value: value.re,
          shown: formatQuantity(value.re, face.rule.kind, { digits: 5 }),
          min: face.rule.min,
          expression: isNumber(text) ? undefined : text,
        });
      }
  }
  const stack = project.stacks.find((s) => s.id === design.stack);
  if (stack && resolved.stack)
    for (const { field, label, kind, min } of BOARD) {
      const value = resolved.stack.substrate[field];
      if (typeof value !== 'number' || !Number.isFinite(value)) continue;
      out.push({
        key: `stack:${field}`,
        label,
        kind,
        value,
        shown: formatQuantity(value, kind, { digits: 5 }),
        min,
        expression: undefined,
      });
    }
  return out.map((t) => {
    const range = resolved.ranges.get(t.key);
    const own = range && sameDimension(range.low.dimension, quantityKinds[t.kind].dimension);
    return own ? { ...t, range: [Math.max(range.low.re, t.min ?? -Infinity), range.high.re] } : t;
  });
}

/**
 * The project with one value moved (SI), written in the unit it was typed in. A value that an expression held is held
 * by the number from then on.
 * @param digits that it is written with
 */
export function tuned(
  project: Project,
  designId: string,
  { key, kind }: Pick<Tunable, 'key' | 'kind'>,
  value: number,
  digits?: number,
): Project {
  const [what, id, part] = key.split(':');
  if (what === 'stack') {
    const field = id as (typeof BOARD)[number]['field'];
    const stack = project.designs.find((d) => d.id === designId)?.stack ?? '';
    const own = withOwnBoard(project, stack);
    return {
      ...own.project,
      stacks: own.project.stacks.map((s) =>
        s.id === own.id ? { ...s, [field]: written(value, kind, s[field], digits) } : s,
      ),
    };
  }
  if (what === 'value')
    return inDesign(project, designId, (d) => ({
      ...d,
      values: d.values.map((v) => {
        if (v.name !== id) return v;
        if (part === undefined) return { ...v, value: written(value, kind, v.value, digits) };
        const { re, im } = parseExpression(v.value).evaluate();
        return { ...v, value: writtenComplex({ re, im, [part as 're' | 'im']: value }, digits) };
      }),
    }));
  return inDesign(project, designId, (d) => ({
    ...d,
    pieces: d.pieces.map((p) =>
      p.id === id && p.held[part] !== undefined
        ? { ...p, held: { ...p.held, [part]: written(value, kind, p.held[part], digits) } }
        : p,
    ),
  }));
}

/** How what is watched follows one value. */
export interface Profile {
  readonly key: string;
  /** Values in SI units, ascending. */
  readonly x: Float64Array;
  /** The curves of the plot that is watched at the design frequency; not a number where the design has no response. */
  readonly curves: readonly { readonly label: string; readonly y: Float64Array }[];
  /** Between which ends they are drawn, in the plot's unit. */
  readonly ends: readonly [number, number];
  readonly unit: string;
  /** Why nothing of the response moves with it, where that is so. */
  readonly still?: string;
}

/** Share of a value to either side over which its profile is drawn. */
const REACH = 0.5;

/** The range a value is tuned over: what it was given, or half of it to either side; around zero, what its kind makes sensible. */
export function rangeOf({ value, kind, min, range }: Tunable): [number, number] {
  if (range) return [...range];
  const small: Partial<Record<QuantityKind, number>> = {
    impedance: 10,
    angle: 0.2,
    length: 0.5e-3,
    frequency: 1e9,
    inductance: 0.2e-9,
    capacitance: 0.1e-12,
  };
  const reach = Math.max(REACH * Math.abs(value), value === 0 ? (small[kind] ?? 0.1) : 0);
  const low = value - reach;
  return [min === undefined ? low : Math.max(min, low), value + reach];
}

/** What is drawn of a quantity that ends at 0 dB, dB. */
const FLOOR = -40;

/** What profiles draw: a plot by its measure or formulas. */
export type Watched = Pick<Plot, 'show' | 'formulas'>;

/** The profile of one value at one level over a range. */
export function profileOf(
  project: Project,
  designId: string,
  tunable: Tunable,
  model: Model,
  [low, high]: readonly [number, number],
  points: number,
  watched?: Watched,
): Profile {
  const data = dataFinder(project.data);
  const own = project.designs.find((d) => d.id === designId)!;
  const now = resolveDesign(project, own);
  const f0 = now.f0 ?? 0;
  // Close neighbours of the centre, for what is a slope.
  const freq = Float64Array.of(0.8 * f0, 0.999 * f0, f0, 1.001 * f0, 1.2 * f0);
  const centre = 2;
  const ideal = circuitOf(now, 'ideal');
  const roles = ideal && rolesOf(solveNetwork(networkOf(ideal, data), freq), f0);
  // Where nobody has arranged the plots, the first of those that suit the ports.
  const plot = watched ?? { show: roles ? usualPlots(roles)[0] : 'match' };
  const x = new Float64Array(points);
  const curves = new Map<string, { label: string; y: Float64Array }>();
  let unit = '';
  let first: SData | undefined;
  let moved = 0;
  for (let k = 0; k < points; k++) {
    x[k] = low + ((high - low) * k) / (points - 1);
    const there = tuned(project, designId, tunable, x[k]);
    const resolved = resolveDesign(
      there,
      there.designs.find((d) => d.id === designId)!,
    );
    const circuit = circuitOf(resolved, model);
    if (!circuit || !roles) continue;
    const s = solveNetwork(networkOf(circuit, data), freq);
    const drawn = readable(() => plotCurves(plot, s, roles, resolved.values));
    unit ||= drawn?.unit ?? '';
    for (const { id, label, y } of drawn?.curves ?? []) {
      if (!curves.has(id)) curves.set(id, { label, y: new Float64Array(points).fill(NaN) });
      curves.get(id)!.y[k] = y[centre];
    }
    first ??= s;
    if (first.re.length === s.re.length)
      s.re.forEach(
        (v, i) => (moved = Math.max(moved, Math.abs(v - first!.re[i]), Math.abs(s.im[i] - first!.im[i]))),
      );
  }
  const still = first && moved < 1e-12 ? whyStill(own, resolveDesign(project, own), tunable.key) : undefined;
  const all = [...curves.values()];
  const finite = all.flatMap((c) => [...c.y].filter(Number.isFinite));
  const ends: [number, number] =
    measureOf(plot.show)?.ceiling === 0
      ? [FLOOR, 0]
      : finite.length > 0
        ? [Math.min(...finite), Math.max(...finite)]
        : [0, 1];
  return { key: tunable.key, x, curves: all, ends, unit, ...(still === undefined ? {} : { still }) };
}

/** What can be read, or nothing where the plot's own place says why it cannot. */
function readable<T>(work: () => T): T | undefined {
  try {
    return work();
  } catch (error) {
    if (error instanceof QuantityError || error instanceof ConversionError) return undefined;
    throw error;
  }
}

/** In words: why a value moves nothing of the response. */
export function whyStill(design: Design, resolved: ResolvedDesign, key: string): string {
  const [what, id] = key.split(':');
  const reached = new Set(
    resolved.pieces.filter((p) => p.kind === 'port').flatMap((p) => [p.id, ...beyond(design, p.id, 0)]),
  );
  const pieces =
    what === 'piece'
      ? design.pieces.filter((p) => p.id === id)
      : what === 'value'
        ? design.pieces.filter((p) => namesBehind(design, Object.values(p.held)).has(id))
        : design.pieces;
  if (what === 'value' && pieces.length === 0) return 'no piece uses it';
  if (!pieces.some((p) => reached.has(p.id))) return 'what it belongs to is not connected to a port';
  if (pieces.every((p) => p.nodes.every((n) => n === GROUND))) return 'both ends of its piece are grounded';
  if (what === 'stack') return 'the lines of this level do not depend on it';
  return 'the response does not depend on it at this level';
}
