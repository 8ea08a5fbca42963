import {
  reachOf,
  resonated,
  seenThrough,
  shuntSusceptance,
  stubAngle,
  StubError,
  type StubEnding,
} from '../theory';
import { formatQuantity, type QuantityRule } from '../units';
import type { Complex } from '../numeric';
import type { NamedValue } from '../network';
import {
  RecipeError,
  type Alternative,
  type RecipeContext,
  type RecipeField,
  type RecipeInputs,
} from './contract';
import { readLoad, type Load } from './load';
import { boardLines, frequencyRule, onBoard, read, resistanceRule, type Sketch } from './shared';

export const stubField: RecipeField = {
  name: 'stub',
  label: 'Stub',
  help: 'How the stub ends. An open stub needs no via; a shorted one is shorter where the match asks for an inductance, and passes direct current; a radial one is an open stub that widens, short and well-defined at its entry.',
  initial: 'open',
  type: 'choice',
  options: [
    { id: 'open', label: 'Open' },
    { id: 'short', label: 'Shorted' },
    { id: 'radial', label: 'Radial' },
  ],
};
export const angleRule: QuantityRule = { kind: 'angle', min: Math.PI / 180, max: (160 / 180) * Math.PI };
export const angleField: RecipeField = {
  name: 'angle',
  label: 'Opening',
  help: 'Angle of the sector of a radial stub. A wider one is shorter and holds its place over a wider band.',
  initial: '60 deg',
  type: 'quantity',
  rule: angleRule,
  when: (inputs) => inputs.stub === 'radial',
  needs: 'it belongs to --stub radial',
};
export const zStubField: RecipeField = {
  name: 'zStub',
  label: 'Stub impedance',
  help: 'Impedance of the stub. A lower one is wider and shorter and keeps the match over a wider band.',
  initial: '',
  type: 'text',
  placeholder: 'as the system',
};
export const zLineField: RecipeField = {
  name: 'zLine',
  label: 'Line impedance',
  help: 'Impedance of the lines between load and stubs.',
  initial: '',
  type: 'text',
  placeholder: 'as the system',
};

export interface StubGoal {
  readonly f0: number;
  readonly z0: number;
  readonly load: Load;
  readonly zLine: number;
  readonly zStub: number;
  readonly ending: StubEnding | 'radial';
  /** Angle (rad) of a stub that turns one impedance into another; of a radial one its reach (m). Of a pair, of each. */
  readonly size: (from: Complex, to: Complex, pair?: boolean) => number;
  /** That size in words. */
  readonly told: (size: number) => string;
  /** Texts of the impedances that differ from the system's. */
  readonly values: readonly NamedValue[];
  /** Names that stand for the impedances in expressions. */
  readonly line: string;
  readonly stub: string;
}

export const endingWords = { open: 'open', short: 'shorted', radial: 'radial' } as const;

/** Both solutions with every kind of stub. */
export const stubAlternatives = (
  inputs: RecipeInputs,
  label: (ending: string, solution: 1 | 2) => string,
): Alternative[] =>
  (['open', 'short', 'radial'] as const).flatMap((stub) =>
    ([1, 2] as const).map((solution) => ({
      label: label(endingWords[stub], solution),
      inputs: { ...inputs, stub, solution: String(solution) },
    })),
  );

/** The reach of radial stubs on the board of a recipe. */
function radialSize(
  inputs: RecipeInputs,
  context: RecipeContext,
  f0: number,
  zStub: number,
): StubGoal['size'] {
  const angle = read('angle', inputs.angle, angleRule).re;
  const lines = boardLines(context, f0);
  const entry = onBoard('zStub', () => lines.width(zStub));
  return (from, to, pair = false) => {
    const reach = reachOf(shuntSusceptance(from, to) / (pair ? 2 : 1), entry, angle, f0, (w) =>
      lines.line(w),
    );
    if (reach === undefined)
      throw new RecipeError(
        'angle',
        'has no radial stub that completes this match; take another angle or solution',
      );
    return reach;
  };
}

/** Reads what every stub match starts from. @throws RecipeError naming the field */
export function readStubGoal(inputs: RecipeInputs, context: RecipeContext): StubGoal {
  const f0 = read('freq', inputs.freq, frequencyRule).re;
  const z0 = read('z0', inputs.z0, resistanceRule).re;
  const load = readLoad(inputs, context, f0);
  const own = (field: 'zLine' | 'zStub') =>
    (inputs[field] ?? '').trim() === '' ? undefined : read(field, inputs[field], resistanceRule).re;
  const [zLine, zStub] = [own('zLine'), own('zStub')];
  const { stub } = inputs;
  if (stub !== 'open' && stub !== 'short' && stub !== 'radial')
    throw new RecipeError('stub', 'must be open, short or radial');

  const values: NamedValue[] = [
    { name: 'f0', value: inputs.freq, note: 'design' },
    { name: 'z0', value: inputs.z0, note: 'source' },
    load.value,
  ];
  if (zLine !== undefined) values.push({ name: 'zline', value: inputs.zLine.trim(), note: 'lines' });
  if (stub === 'radial') values.push({ name: 'opening', value: inputs.angle, note: 'of radial stubs' });
  if (zStub !== undefined) values.push({ name: 'zstub', value: inputs.zStub.trim(), note: 'stubs' });
  return {
    f0,
    z0,
    load,
    zLine: zLine ?? z0,
    zStub: zStub ?? z0,
    ending: stub,
    size:
      stub === 'radial'
        ? radialSize(inputs, context, f0, zStub ?? z0)
        : (from, to, pair = false) => stubAngle(stub, from, to, (zStub ?? z0) / (pair ? 2 : 1)),
    told: (size) => formatQuantity(size, stub === 'radial' ? 'length' : 'angle', { digits: 4 }),
    values,
    line: zLine === undefined ? 'z0' : 'zline',
    stub: zStub === undefined ? 'z0' : 'zstub',
  };
}

/** Runs what may find that there is no match, and names the field. */
export function matching<T>(work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof StubError) throw new RecipeError(error.field, error.message);
    throw error;
  }
}

/** A stub in the sketch, or two of them opposite each other, where the main line runs from one node to another. */
export function addStub(
  sketch: Sketch,
  goal: StubGoal,
  {
    id,
    name,
    size,
    pair,
    side,
  }: { id: string; name: string; size: string; pair: boolean; side: 'left' | 'right' },
  from: string,
  to: string,
): void {
  const kind = { open: 'open-stub', short: 'shorted-stub', radial: 'radial-stub' }[goal.ending];
  const held: Readonly<Record<string, string>> =
    goal.ending === 'radial'
      ? { reach: size, angle: 'opening', entry: `width(${goal.stub})` }
      : { z0: goal.stub, theta: size };
  if (pair) {
    sketch.add('cross', `cross-${id}`, `cross at ${name}`, [from, to, `${id}l`, `${id}r`]);
    sketch.add(kind, id, `${name}, left`, [`${id}l`], held, { role: 'stub' });
    sketch.add(kind, `${id}b`, `${name}, right`, [`${id}r`], held, { role: 'stub' });
  } else {
    sketch.tee(`tee-${id}`, [from, to, `${id}a`], side, `tee at ${name}`);
    sketch.add(kind, id, name, [`${id}a`], held, { role: 'stub' });
  }
}

/** The expression of a stub's angle, or reach: it turns the impedance named `from` into the one named `to`. */
export const stubText = (goal: StubGoal, from: string, to: string, pair = false): string =>
  goal.ending === 'radial'
    ? // Each of a pair does half: from twice the impedance to twice the impedance.
      `radialreach(${pair ? '2*' : ''}${from}, ${pair ? '2*' : ''}${to}, opening, width(${goal.stub}))`
    : `${goal.ending === 'open' ? 'openstub' : 'shortstub'}(${from}, ${to}, ${goal.stub}${pair ? '/2' : ''})`;

/** Angle of the stub that completes the match at a plane with the source's conductance, and the impedance there. */
export function completed(
  goal: StubGoal,
  from: Complex,
  line: number,
  pair = false,
): { readonly seen: Complex; readonly stub: number } {
  const seen = seenThrough(from, goal.zLine, line);
  return { seen, stub: goal.size(seen, resonated(seen), pair) };
}
