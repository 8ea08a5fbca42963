import { UnreachableImpedance } from '../lines';
import { lineCalculator, type Design, type NamedValue, type Piece } from '../network';
import { C0, type Complex } from '../numeric';
import { resolveStack } from '../stack';
import { CouplerError, designCoupler, type Coupler, type CouplerSpecification } from '../theory';
import { formatQuantity, QuantityError, readQuantity, type QuantityRule } from '../units';
import { RecipeError, type RecipeContext, type RecipeField, type RecipeInputs } from './contract';

export const frequencyRule: QuantityRule = { kind: 'frequency', min: 0, exclusive: true };
export const resistanceRule: QuantityRule = { kind: 'impedance', min: 0, exclusive: true };
export const ratioRule: QuantityRule = { kind: 'number', min: 0, exclusive: true };
export const levelRule: QuantityRule = { kind: 'level', min: 0, exclusive: true };

/** Reads one entry. @throws RecipeError naming the field */
export function read(field: string, text: string, rule: QuantityRule): Complex {
  try {
    return readQuantity(text, rule);
  } catch (error) {
    if (error instanceof QuantityError) throw new RecipeError(field, error.message);
    throw error;
  }
}

/** A whole number from a list of those that can be. */
export function readCount<N extends number>(field: string, text: string, accepted: readonly N[]): N {
  const value = accepted.find((n) => String(n) === text.trim());
  if (value === undefined)
    throw new RecipeError(
      field,
      `must be ${accepted.length === 2 ? accepted.join(' or ') : `a whole number from ${accepted[0]} to ${accepted[accepted.length - 1]}`}`,
    );
  return value;
}

/** A band as a share of the centre: a frequency, or a percentage or plain number of it. */
export function readBand(field: string, text: string, f0: number): number {
  let share: number;
  try {
    share = readQuantity(text, { kind: 'number' }).re;
  } catch {
    share = read(field, text, { kind: 'frequency' }).re / f0;
  }
  if (!(share > 0 && share < 1.9))
    throw new RecipeError(field, 'must be above zero and below 190 % of the design frequency');
  return share;
}

export const freqField: RecipeField = {
  name: 'freq',
  label: 'Design frequency',
  help: 'Centre of the band, where every quarter wave is one.',
  initial: '10.55 GHz',
  type: 'quantity',
  rule: frequencyRule,
};
export const z0Field: RecipeField = {
  name: 'z0',
  label: 'System impedance',
  help: 'Impedance of the ports and of the lines that lead to them.',
  initial: '50 ohm',
  type: 'quantity',
  rule: resistanceRule,
};
export const ratioField: RecipeField = {
  name: 'ratio',
  label: 'Power ratio',
  help: 'Power at port 2 over power at port 3: 1 splits evenly, 2 gives port 2 twice as much.',
  initial: '1',
  type: 'quantity',
  rule: ratioRule,
};

/** Length of the lines that lead to the ports: long enough to solder to. */
export const FEED: NamedValue = { name: 'feed', value: '4 mm', note: 'length of the feeds' };

/** The same where it curves behind a corner: wider than it is broad, with room for a connector's pads. */
export const CURVED_FEED: NamedValue = { ...FEED, value: 'max(6 mm, 3.4*width(z0))' };

/** Its course: straight on from the corner, which is one only where its arms are, before it turns. */
export const curvedFeed = (port: number, turn: string): Readonly<Record<string, string>> => ({
  turn,
  radius: '0.32*feed',
  // The first port's line begins at the port.
  lead: port === 1 ? '(0.78 - 0.16*pi)*feed' : '0.22*feed',
});

/**
 * How much earlier an open strip ends than the line beside it goes on as another one: about what an end looks longer by, and so
 * far that the wider of the two does not touch it.
 */
export const BACK: NamedValue = {
  name: 'back',
  value: 'max(width(z0)/6, 0.12 mm)',
  note: 'open ends are set back',
};

export interface Goal {
  readonly f0: number;
  readonly z0: number;
  readonly ratio: number;
}

/** The entries that every divider and hybrid has. */
export function readGoal(inputs: RecipeInputs): Goal {
  return {
    f0: read('freq', inputs.freq, frequencyRule).re,
    z0: read('z0', inputs.z0, resistanceRule).re,
    ratio: read('ratio', inputs.ratio, ratioRule).re,
  };
}

export const goalValues = (inputs: RecipeInputs): NamedValue[] => [
  { name: 'f0', value: inputs.freq, note: 'design' },
  { name: 'z0', value: inputs.z0, note: 'system' },
];

/** Collects the pieces of a design, in the order in which the ledger lists them. */
export class Sketch {
  readonly pieces: Piece[] = [];

  add(
    kind: string,
    id: string,
    name: string,
    nodes: readonly string[],
    held: Readonly<Record<string, string>> = {},
    rest: Pick<Piece, 'role' | 'settings' | 'marks'> = {},
  ): this {
    this.pieces.push({ id, name, kind, held, nodes, ...rest });
    return this;
  }

  /** A port with the line that leads to it from `node`. */
  fed(number: number, node: string, z0 = 'z0', course: Readonly<Record<string, string>> = {}): this {
    const at = `p${number}`;
    const feed = () =>
      this.add(
        'line',
        `feed${number}`,
        `feed ${number}`,
        number === 1 ? [at, node] : [node, at],
        { z0, length: 'feed', ...course },
        { role: 'feed' },
      );
    const port = () =>
      this.add(
        'port',
        `port${number}`,
        `port ${number}`,
        [at],
        { z: z0 },
        // A port whose reference is not the system's has it on purpose.
        { settings: { number: String(number) }, ...(z0 === 'z0' ? {} : { marks: { reference: 'own' } }) },
      );
    return number === 1 ? (port(), feed()) : (feed(), port());
  }

  tee(id: string, nodes: readonly [string, string, string], side: 'left' | 'right', name = 'tee'): this {
    return this.add('tee', id, name, nodes, {}, { settings: { side } });
  }

  bend(id: string, nodes: readonly [string, string], side: 'left' | 'right'): this {
    return this.add(
      'bend',
      id,
      id.replace(/(\d)/, ' $1'),
      nodes,
      {},
      { settings: { shape: 'mitred', side } },
    );
  }

  step(id: string, from: string, to: string): this {
    return this.add('step', id, id.replace(/(\d)/, ' $1'), [from, to]);
  }
}

/** A design of a recipe with what all of them share. */
export function finished(
  recipe: string,
  name: string,
  context: RecipeContext,
  values: readonly NamedValue[],
  pieces: readonly Piece[],
  goal = '20 dB',
): Design {
  return {
    id: context.newId(),
    name,
    recipe,
    stack: context.stack.id,
    medium: context.medium,
    values,
    pieces,
    sweep: { start: 'f0/2', stop: '1.5*f0', points: 401 },
    markers: [{ id: 'm1', freq: 'f0' }],
    goal,
    overlays: [],
  };
}

/** A coupler for what was entered. @throws RecipeError naming the field */
export function coupledBy(spec: CouplerSpecification): Coupler {
  try {
    return designCoupler(spec);
  } catch (error) {
    if (error instanceof CouplerError) throw new RecipeError(error.field, error.message);
    throw error;
  }
}

/** What a coupler's entries ask of two lines. @throws RecipeError */
export const coupledWanted = (inputs: RecipeInputs): { coupling: number; z0: number; freq: number } => ({
  coupling: read('coupling', inputs.coupling, levelRule).re,
  z0: read('z0', inputs.z0, resistanceRule).re,
  freq: read('freq', inputs.freq, frequencyRule).re,
});

/** Lines on the board of a recipe at a frequency in Hz. @throws RecipeError at the board's impedance */
export function boardLines(context: RecipeContext, f0: number): ReturnType<typeof lineCalculator> {
  const { value, problems } = resolveStack(context.stack, context.medium);
  if (!value) throw new RecipeError('z0', `needs a board without errors: ${problems[0].message}`);
  return lineCalculator(context.medium, value.substrate, f0);
}

/** Runs what needs a width, and names the impedance that has none. */
export function onBoard<T>(field: string, work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof UnreachableImpedance) throw new RecipeError(field, error.message);
    throw error;
  }
}

/** Angle of a length (m) of line of an impedance (ohm) on the board of a recipe, radians. @throws RecipeError at `z0` */
export function angleOnBoard(context: RecipeContext, length: number, z0: number, f0: number): number {
  const lines = boardLines(context, f0);
  const { eeff } = onBoard('z0', () => lines.line(lines.width(z0)));
  return (2 * Math.PI * length * f0 * Math.sqrt(eeff)) / C0;
}

export const ohm = (x: number): string => formatQuantity(x, 'impedance');
