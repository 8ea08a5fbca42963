import type { SectionAnalysis, SectionOrigin } from '../../lines';
import type { Complex } from '../../numeric';
import { realValues, type Property } from '../../parts';
import { resolveStack, type ResolvedStack, type StackProblem } from '../../stack';
import { checkQuantity, parseExpression, quantityKinds, real, type Scope } from '../../units';
import type { LineSheet, Project, SheetEntry } from '../document';
import { message } from '../arguments';
import { alongSheet, sheetShapes, type SheetShape, type SheetShapeId, type SheetSystem } from './shapes';

export * from './crosstalk';
export {
  SHEET_SHAPES,
  sheetShapes,
  type SheetBoard,
  type SheetShape,
  type SheetShapeId,
  type SheetSystem,
} from './shapes';

/** The Lines page's line in numbers. */
export interface ResolvedSheet {
  readonly shape: SheetShape;
  readonly system: SheetSystem;
  /** The medium that the shape lies in. */
  readonly medium: LineSheet['medium'];
  /** What is asked for. */
  readonly properties: readonly Property[];
  readonly held: Readonly<Record<string, string>>;
  readonly stack?: ResolvedStack;
  readonly freq?: number;
  /** All faces: those across, theta and length. */
  readonly values?: Readonly<Record<string, Complex>>;
  /** Dimensions across, m. */
  readonly dimensions?: readonly number[];
  readonly analysis?: SectionAnalysis;
  /** Where the static values come from. */
  readonly origin?: SectionOrigin;
  readonly stackProblems: readonly StackProblem[];
  /** Errors by field: `freq` or a face. */
  readonly errors: Readonly<Record<string, string>>;
}

/** What is held of a shape and in which system. */
export function entryOfSheet(sheet: LineSheet, id: SheetShapeId): SheetEntry {
  if (id === 'strip') return { held: sheet.held };
  return (id === 'pair' ? sheet.pair : sheet.coplanar) ?? { held: sheetShapes[id].initial };
}

/** The sheet with another entry of a shape. */
export const withEntry = (sheet: LineSheet, id: SheetShapeId, entry: SheetEntry): LineSheet =>
  id === 'strip'
    ? { ...sheet, held: entry.held }
    : { ...sheet, [id === 'pair' ? 'pair' : 'coplanar']: entry };

/** The system that suits what is held, where none is named. */
const systemOf = (shape: SheetShape, { system, held }: SheetEntry): SheetSystem =>
  shape.systems.find((s) => s.id === system) ??
  shape.systems.find((s) => s.across.every((p) => p.faces.some((f) => held[f.name] !== undefined))) ??
  shape.systems[0];

/** Works the project's line sheet out, as far as its entries allow. */
export function resolveSheet(project: Project): ResolvedSheet {
  const { line: sheet } = project;
  const shape = sheetShapes[sheet.shape ?? 'strip'];
  const medium = shape.media.includes(sheet.medium) ? sheet.medium : shape.media[0];
  const entry = entryOfSheet(sheet, shape.id);
  const system = systemOf(shape, entry);
  const { held } = entry;
  const errors: Record<string, string> = {};
  const attempt = <T>(field: string, read: () => T): T | undefined => {
    try {
      return read();
    } catch (error) {
      errors[field] = message(error);
      return undefined;
    }
  };
  const document = project.stacks.find((s) => s.id === sheet.stack);
  const read = document ? resolveStack(document, medium) : { problems: [] };
  const stack = read.value;
  const freq = attempt(
    'freq',
    () =>
      checkQuantity(parseExpression(sheet.freq).evaluate(), { kind: 'frequency', min: 0, exclusive: true })
        .re,
  );
  const properties = [...system.across, alongSheet];
  const base = {
    shape,
    system,
    medium,
    properties,
    held,
    stack,
    freq,
    stackProblems: read.problems,
    errors,
  };
  if (!stack || freq === undefined) return base;
  const { substrate } = stack;
  const board = { medium, substrate, freq };

  // Known once the line across is.
  const found: { wavelength?: number } = {};
  const scope: Scope = {
    value(name) {
      if (name === 'f0') return real(freq, quantityKinds.frequency.dimension);
      if (name === 'lambda0') return real(299_792_458 / freq, quantityKinds.length.dimension);
      if (name === 'lambda' && found.wavelength !== undefined)
        return real(found.wavelength, quantityKinds.length.dimension);
      return undefined;
    },
  };
  /** The value held of a property, by its face. */
  const valueOf = (property: Property): [face: string, value: number] | undefined => {
    const face = property.faces.find((f) => held[f.name] !== undefined) ?? property.faces[0];
    const value = attempt(face.name, () =>
      checkQuantity(parseExpression(held[face.name] ?? '').evaluate(scope), face.rule),
    );
    return value && [face.name, value.re];
  };
  const across = system.across.map(valueOf);
  const sound = across.filter((x) => x !== undefined);
  const asked = Object.fromEntries(sound);
  // The face that is not copper is the one that may not be reachable.
  const blame =
    [...sound].reverse().find(([name]) => !['width', 'gap', 'slot'].includes(name))?.[0] ?? 'width';
  const dimensions =
    sound.length === across.length ? attempt(blame, () => system.dimensions(asked, board)) : undefined;
  const analysis =
    dimensions &&
    attempt(blame, () => {
      const line = shape.analyse(board, dimensions);
      if (
        ![...line.modes.flatMap((m) => [m.z0, m.eeff, m.lossConductor, m.lossDielectric])].every(
          Number.isFinite,
        )
      )
        throw new RangeError('makes a line that cannot be computed');
      return line;
    });
  found.wavelength = analysis?.wavelength;
  const along = valueOf(alongSheet);
  if (!analysis || !dimensions) return { ...base, dimensions };
  const origin = shape.origin(board, dimensions);
  const faces = shape.faces(dimensions, analysis);
  if (!along) return { ...base, dimensions, analysis, origin, values: realValues(faces) };
  const [name, value] = along;
  const turn = 2 * Math.PI;
  const [theta, length] =
    name === 'theta'
      ? [value, (value / turn) * analysis.wavelength]
      : [(value / analysis.wavelength) * turn, value];
  return {
    ...base,
    dimensions,
    analysis,
    origin,
    values: realValues({ ...faces, theta, length }),
  };
}
