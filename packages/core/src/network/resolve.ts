import { C0, type Complex } from '../numeric';
import {
  crossSections,
  linePoint,
  media,
  synthesiseWidth,
  UnreachableImpedance,
  type MediumId,
  type Substrate,
} from '../lines';
import { FaceError, parts, type PartFacts, type PartValues, type ResolveContext } from '../parts';
import type { SData } from '../results';
import { resolveStack, type ResolvedStack, type StackField } from '../stack';
import {
  checkQuantity,
  DECIMAL,
  namesIn,
  parseExpression,
  QuantityError,
  type Quantity,
  type Scope,
} from '../units';
import type { DataBlock, Design, Piece, Project } from './document';
import { boardFunctions, message, metres, ohms, theoryFunctions } from './functions';
import { nameProblem } from './names';
import { surroundings } from './surroundings';

/** Where a problem stands, so that it can be shown at its field. */
export type Place =
  | { readonly kind: 'stack'; readonly field: StackField }
  | { readonly kind: 'value'; readonly name: string }
  | { readonly kind: 'piece'; readonly piece: string; readonly face: string }
  | { readonly kind: 'sweep'; readonly field: 'start' | 'stop' | 'points' }
  | { readonly kind: 'marker'; readonly id: string }
  | { readonly kind: 'goal' }
  | { readonly kind: 'limit'; readonly id: string }
  /** The plane of a Smith chart; the id is its plot's. */
  | { readonly kind: 'plane'; readonly id: string }
  | { readonly kind: 'design' };

export interface Problem {
  readonly place: Place;
  readonly message: string;
  /** The cause stands at another place, which has a problem of its own. */
  readonly follows?: boolean;
}

/** A number, behind it a unit that says no more than its plot does. */
const LEVEL = new RegExp(`^\\s*([+-]?${DECIMAL})\\s*[A-Za-z%\u00B0\u03A9]*\\s*$`);

/** In words: the values that lead from `name` back to itself; of a long way its ends. */
function circle(open: readonly string[], name: string): string {
  const way = [...open.slice(open.indexOf(name)), name];
  const shown = way.length > 8 ? [...way.slice(0, 4), '\u2026', ...way.slice(-3)] : way;
  return `depends on itself (${shown.join(' \u2192 ')})`;
}

/** An expression that is right in itself but needs a value with an error. */
class FollowingError extends QuantityError {}

export interface ResolvedPiece {
  readonly id: string;
  readonly name: string;
  readonly kind: string;
  readonly role?: string;
  readonly nodes: readonly string[];
  readonly settings: Readonly<Record<string, string>>;
  /** Names of the faces held. */
  readonly held: readonly string[];
  /** All faces; undefined where a held one is wrong. */
  readonly values?: PartValues;
  /** What it learnt from what it meets. */
  readonly facts: PartFacts;
  /** What the recipe's theory asks its first property to be, SI. */
  readonly theory?: number;
}

/** Where a Smith chart looks from, where that is not port 1 against its own reference. */
export interface PlotPlane {
  readonly plot: string;
  /** The pin at which one looks into a piece. */
  readonly look?: { readonly piece: string; readonly pin: number };
  /** Impedance of the centre of the chart, ohm. */
  readonly reference?: number;
}

/** A design in numbers: what is simulated, drawn and listed. */
export interface ResolvedDesign {
  readonly stack?: ResolvedStack;
  readonly medium: MediumId;
  readonly f0?: number;
  /** Named values in SI units. */
  readonly values: ReadonlyMap<string, Quantity>;
  readonly pieces: readonly ResolvedPiece[];
  readonly sweep?: { readonly start: number; readonly stop: number; readonly points: number };
  readonly markers: readonly { readonly id: string; readonly freq: number }[];
  /** Limits of the plots: frequencies in Hz, the level in the plot's own unit. */
  readonly limits: readonly {
    readonly id: string;
    readonly side: 'below' | 'above';
    readonly curves?: readonly string[];
    readonly level: number;
    readonly from: number;
    readonly to: number;
  }[];
  readonly planes: readonly PlotPlane[];
  /** Return loss goal, dB (positive). */
  readonly goal: number;
  readonly problems: readonly Problem[];
}

const typedData = new WeakMap<DataBlock, SData>();

/** A data block as typed arrays; the same object for the same block. */
export function dataOf(block: DataBlock): SData {
  let data = typedData.get(block);
  if (!data) {
    data = {
      ports: block.ports,
      freq: Float64Array.from(block.freq),
      re: Float64Array.from(block.re),
      im: Float64Array.from(block.im),
      z0: block.z0.map(([re, im]) => ({ re, im })),
    };
    typedData.set(block, data);
  }
  return data;
}

/** Finds data by its id. */
export const dataFinder =
  (blocks: readonly DataBlock[]) =>
  (id: string): SData | undefined => {
    const found = blocks.find((d) => d.id === id);
    return found && dataOf(found);
  };

/** Line properties at one frequency with the work of equal widths and impedances done once. */
export function lineCalculator(
  medium: MediumId,
  substrate: Substrate,
  f0: number,
): Pick<ResolveContext, 'width' | 'line'> {
  const widths = new Map<number, number>();
  const lines = new Map<number, { z0: number; eeff: number }>();
  return {
    width(z0) {
      let w = widths.get(z0);
      if (w === undefined) widths.set(z0, (w = synthesiseWidth(medium, substrate, z0, f0)));
      return w;
    },
    line(width) {
      let at = lines.get(width);
      if (!at) {
        const point = linePoint();
        crossSections.strip[medium].prepare(substrate, [width]).impedanceAt(f0, [point]);
        lines.set(width, (at = { z0: point.z0, eeff: point.eeff }));
      }
      return at;
    },
  };
}

/** Overrides of named values, by name: used by the command line and by tuning. */
export type Overrides = Readonly<Record<string, string>>;

/**
 * Works a design out: named values, the stack, every piece with both faces, the sweep. Wrong entries become problems
 * at their place; everything that does not depend on them is still worked out.
 */
export function resolveDesign(project: Project, design: Design, overrides: Overrides = {}): ResolvedDesign {
  const problems: Problem[] = [];
  const report = (place: Place, text: string) => problems.push({ place, message: text });
  const reportError = (place: Place, error: unknown) => {
    const text = message(error);
    problems.push(
      error instanceof FollowingError ? { place, message: text, follows: true } : { place, message: text },
    );
  };
  const data = dataFinder(project.data);

  const stackDocument = project.stacks.find((s) => s.id === design.stack);
  let stack: ResolvedStack | undefined;
  if (!stackDocument) report({ kind: 'design' }, `its stack "${design.stack}" is not in the project`);
  else {
    const read = resolveStack(stackDocument, design.medium);
    stack = read.value;
    for (const p of read.problems) report({ kind: 'stack', field: p.field }, p.message);
  }

  // Named values, each worked out when first asked for.
  const texts = new Map<string, string>();
  for (const v of design.values) {
    const refused = texts.has(v.name) ? `"${v.name}" is named twice` : nameProblem(v.name);
    if (refused !== undefined) report({ kind: 'value', name: v.name }, refused);
    else texts.set(v.name, overrides[v.name] ?? v.value);
  }
  const values = new Map<string, Quantity>();
  const failed = new Set<string>();
  /** Values being worked out, the first asked for first. */
  const open = new Set<string>();
  let lines: Pick<ResolveContext, 'width' | 'line'> | undefined;
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
          report({ kind: 'value', name: here.name }, circle([...open], need));
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
        reportError({ kind: 'value', name: here.name }, error);
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
    if (!texts.has(name)) report({ kind: 'value', name }, `the design has no value named "${name}"`);
  for (const name of texts.keys()) {
    try {
      value(name);
    } catch (error) {
      message(error);
    }
  }

  let f0: number | undefined;
  if (!texts.has('f0')) report({ kind: 'design' }, 'it needs a named value f0, the design frequency');
  else {
    try {
      f0 = frequency();
    } catch (error) {
      if (!failed.has('f0')) reportError({ kind: 'value', name: 'f0' }, error);
    }
  }

  const contextOf = (
    settings: Piece['settings'],
    neighbour: (pin: number) => number | undefined = () => undefined,
    bare: (pin: number) => boolean = () => false,
  ) =>
    stack && f0 !== undefined
      ? {
          medium: media[design.medium],
          substrate: stack.substrate,
          f0,
          data,
          ...calculator(),
          neighbour,
          bare,
          settings: settings ?? {},
        }
      : undefined;

  /** Reads the held faces of a piece; undefined where one is wrong. */
  function readHeld(piece: Piece): { held: string[]; read?: PartValues } {
    const definition = parts.get(piece.kind);
    const settings = piece.settings ?? {};
    const at = (face: string): Place => ({ kind: 'piece', piece: piece.id, face });
    if (!definition) {
      report(at(''), `there is no part of kind "${piece.kind}"`);
      return { held: [] };
    }
    if (settings.data && !data(settings.data)) report(at('data'), 'its data is not in the project');
    else if (definition.asks === 'data' && !settings.data)
      report(at('data'), 'it has no data; import a Touchstone file and grow a block of it in its place');
    for (const choice of definition.choices ?? []) {
      const chosen = settings[choice.name];
      if (chosen !== undefined && !choice.options.some((o) => o.id === chosen))
        report(
          at(choice.name),
          `${choice.label.toLowerCase()} must be one of ${choice.options.map((o) => o.label).join(', ')}`,
        );
    }
    const count = definition.pins(settings, data);
    if (piece.nodes.length !== count) {
      report(at(''), `needs ${count} pins, not ${piece.nodes.length}`);
      return { held: [] };
    }
    const held: string[] = [];
    const read: Record<string, Complex> = {};
    let sound = true;
    const fail = (face: string, error: unknown) => {
      reportError(at(face), error);
      sound = false;
    };
    for (const property of definition.properties) {
      const faces = property.faces.filter((f) => piece.held[f.name] !== undefined);
      if (faces.length === 0) {
        if (property.otherwise === undefined)
          fail(
            property.faces[0].name,
            new QuantityError(`needs ${property.faces.map((f) => f.label.toLowerCase()).join(' or ')}`),
          );
        continue;
      }
      if (faces.length > 1) {
        fail(faces[1].name, new QuantityError(`${faces[0].label} and ${faces[1].label} cannot both be held`));
        continue;
      }
      const face = faces[0];
      held.push(face.name);
      try {
        const expression = parseExpression(piece.held[face.name]);
        const local: Scope = {
          ...scope,
          value: (name) => {
            if (definition.local && !texts.has(name)) {
              const context = contextOf(settings);
              const found = context && definition.local(name, read, context);
              if (found !== undefined) return metres(found);
            }
            return value(name);
          },
        };
        const quantity = checkQuantity(expression.evaluate(local), face.rule);
        read[face.name] = { re: quantity.re, im: quantity.im };
      } catch (error) {
        fail(face.name, error);
      }
    }
    return sound ? { held, read } : { held };
  }

  const pieces: ResolvedPiece[] = [];
  const readings = design.pieces.map((piece) => {
    const { held, read } = readHeld(piece);
    const { id, name, kind, role, nodes } = piece;
    let theory: number | undefined;
    try {
      if (piece.marks?.theory) theory = parseExpression(piece.marks.theory).evaluate(scope).re;
    } catch (error) {
      // Without the values it is made of, theory asks for nothing.
      message(error);
    }
    pieces.push({ id, name, kind, role, nodes, settings: piece.settings ?? {}, held, facts: {}, theory });
    return read;
  });
  const around = surroundings(pieces);
  const failures = new Map<number, unknown>();
  /** Works out piece `i` from what it meets. */
  const work = (i: number): void => {
    const read = readings[i];
    const piece = pieces[i];
    const context =
      read &&
      contextOf(
        piece.settings,
        (pin) => around.neighbour(piece, pin),
        (pin) => around.bare(piece, pin),
      );
    if (!context) return;
    failures.delete(i);
    try {
      const definition = parts.get(piece.kind)!;
      // The pieces made above are this function's own; they are not changed once handed out.
      const own = piece as { values?: PartValues; facts: PartFacts };
      own.values = definition.resolve(read, context);
      own.facts = definition.facts?.(read, context) ?? {};
    } catch (error) {
      failures.set(i, error);
    }
  };
  const fitting: number[] = [];
  pieces.forEach((piece, i) => {
    if (parts.get(piece.kind)?.fits) fitting.push(i);
    else work(i);
  });
  // A junction beside a junction learns its width from what that one meets, so their turn comes until nothing changes.
  const state = () => JSON.stringify(fitting.map((i) => [pieces[i].values, pieces[i].facts]));
  for (let round = 0, before = ''; round <= fitting.length && before !== state(); round++) {
    before = state();
    for (const i of fitting) work(i);
  }
  for (const [i, error] of failures) {
    const piece = pieces[i];
    const face =
      error instanceof FaceError
        ? error.face
        : error instanceof UnreachableImpedance
          ? 'z0'
          : (piece.held[0] ?? '');
    reportError({ kind: 'piece', piece: piece.id, face }, error);
  }

  const quantity = (
    place: Place,
    text: string,
    kind: 'frequency' | 'level' | 'impedance',
    min: number,
  ): number | undefined => {
    try {
      return checkQuantity(parseExpression(text).evaluate(scope), { kind, min }).re;
    } catch (error) {
      reportError(place, error);
      return undefined;
    }
  };
  const start = quantity({ kind: 'sweep', field: 'start' }, design.sweep.start, 'frequency', 0);
  const stop = quantity({ kind: 'sweep', field: 'stop' }, design.sweep.stop, 'frequency', 0);
  const { points } = design.sweep;
  let sweep: ResolvedDesign['sweep'];
  if (start !== undefined && stop !== undefined) {
    if (start >= stop) report({ kind: 'sweep', field: 'stop' }, 'the sweep must stop above its start');
    else if (!Number.isInteger(points) || points < 2 || points > 20001)
      report(
        { kind: 'sweep', field: 'points' },
        'the number of points must be a whole number from 2 to 20001',
      );
    else sweep = { start, stop, points };
  }
  const markers = design.markers.flatMap((m) => {
    const freq = quantity({ kind: 'marker', id: m.id }, m.freq, 'frequency', 0);
    return freq === undefined ? [] : [{ id: m.id, freq }];
  });
  const limits = (design.plots ?? []).flatMap((plot) =>
    (plot.limits ?? []).flatMap((limit) => {
      const place: Place = { kind: 'limit', id: limit.id };
      const from = quantity(place, limit.from, 'frequency', 0);
      const to = quantity(place, limit.to, 'frequency', 0);
      const level = LEVEL.exec(limit.level.replace(/\u2212/g, '-'));
      if (!level) report(place, 'a limit\u2019s level is a number in the unit of its plot');
      if (from === undefined || to === undefined || !level) return [];
      return [
        {
          id: limit.id,
          side: limit.side,
          level: Number(level[1]),
          from: Math.min(from, to),
          to: Math.max(from, to),
          ...(limit.curves && { curves: limit.curves }),
        },
      ];
    }),
  );
  const planes = (design.plots ?? []).flatMap((plot): PlotPlane[] => {
    if (plot.show !== 'smith' || (!plot.look && plot.reference === undefined)) return [];
    const place: Place = { kind: 'plane', id: plot.id };
    const reference =
      plot.reference === undefined ? undefined : quantity(place, plot.reference, 'impedance', 0);
    if (reference === 0) report(place, 'the reference of a Smith chart must be above zero');
    const piece = design.pieces.find((p) => p.id === plot.look?.piece);
    // What looked into a piece that is gone looks from port 1; the review says so.
    const sound = piece && piece.kind !== 'port' && plot.look!.pin < piece.nodes.length;
    return [{ plot: plot.id, ...(sound ? { look: plot.look } : {}), ...(reference ? { reference } : {}) }];
  });
  const goal = quantity({ kind: 'goal' }, design.goal, 'level', 0) ?? 20;

  const ports = pieces.filter((p) => p.kind === 'port');
  if (ports.length === 0) report({ kind: 'design' }, 'it has no port');
  const numbers = ports.map((p) => Number(p.settings.number));
  if (ports.length > 0 && [...numbers].sort((a, b) => a - b).some((n, i) => n !== i + 1))
    report({ kind: 'design' }, 'its ports must be numbered 1, 2, 3 \u2026 without gaps');

  return { stack, medium: design.medium, f0, values, pieces, sweep, markers, limits, planes, goal, problems };
}
