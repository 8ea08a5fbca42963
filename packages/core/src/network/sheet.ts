import { analyseLine, media, synthesiseWidth, type LineAnalysis } from '../lines';
import type { Complex } from '../numeric';
import { parts } from '../parts';
import { resolveStack, type ResolvedStack, type StackProblem } from '../stack';
import { checkQuantity, parseExpression, quantityKinds, real, type Scope } from '../units';
import { lineCalculator } from './calculator';
import type { Project } from './document';
import { message } from './functions';

/** The Lines page's line in numbers. */
export interface ResolvedSheet {
  readonly stack?: ResolvedStack;
  readonly freq?: number;
  /** All four faces: z0, width, theta, length. */
  readonly values?: Readonly<Record<string, Complex>>;
  readonly analysis?: LineAnalysis;
  readonly stackProblems: readonly StackProblem[];
  /** Errors by field: `freq` or a face. */
  readonly errors: Readonly<Record<string, string>>;
}

/** What the sheet asks for: the properties that every line has. */
export const sheetProperties = parts.get('line')!.properties.filter((p) => p.otherwise === undefined);

/** Works the project's line sheet out, as far as its entries allow. */
export function resolveSheet(project: Project): ResolvedSheet {
  const { line: sheet } = project;
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
  const read = document ? resolveStack(document, sheet.medium) : { problems: [] };
  const stack = read.value;
  const freq = attempt(
    'freq',
    () =>
      checkQuantity(parseExpression(sheet.freq).evaluate(), { kind: 'frequency', min: 0, exclusive: true })
        .re,
  );
  const base = { stack, freq, stackProblems: read.problems, errors };
  if (!stack || freq === undefined) return base;

  const held: Record<string, Complex> = {};
  let sound = true;
  const lineAt = (width: number) => analyseLine(sheet.medium, stack.substrate, width, freq);
  const widthOf = (z0: number) => synthesiseWidth(sheet.medium, stack.substrate, z0, freq);
  for (const property of sheetProperties) {
    const face = property.faces.find((f) => sheet.held[f.name] !== undefined) ?? property.faces[0];
    const scope: Scope = {
      value(name) {
        if (name === 'f0') return real(freq, quantityKinds.frequency.dimension);
        if (name === 'lambda0') return real(299_792_458 / freq, quantityKinds.length.dimension);
        const width = held.width ? held.width.re : held.z0 ? widthOf(held.z0.re) : undefined;
        if (name === 'lambda' && width !== undefined)
          return real(lineAt(width).wavelength, quantityKinds.length.dimension);
        return undefined;
      },
    };
    const value = attempt(face.name, () =>
      checkQuantity(parseExpression(sheet.held[face.name] ?? '').evaluate(scope), face.rule),
    );
    if (value) held[face.name] = { re: value.re, im: value.im };
    else sound = false;
  }
  if (!held.z0 && !held.width) return base;
  const width = held.width ? held.width.re : attempt('z0', () => widthOf(held.z0.re));
  if (width === undefined) return base;
  const analysis = attempt(held.width ? 'width' : 'z0', () => {
    const line = lineAt(width);
    if (![line.z0, line.eeff, line.lossConductor, line.lossDielectric].every(Number.isFinite))
      throw new RangeError('makes a line that cannot be computed');
    return line;
  });
  if (!analysis || !sound) return { ...base, analysis };
  const resolve = () =>
    parts.get('line')!.resolve(held, {
      medium: media[sheet.medium],
      substrate: stack.substrate,
      f0: freq,
      ...lineCalculator(sheet.medium, stack.substrate, freq),
      width: () => width,
      line: () => ({ z0: analysis.z0, eeff: analysis.eeff }),
      data: () => undefined,
      neighbour: () => undefined,
      beside: () => undefined,
      bare: () => false,
      settings: {},
    });
  return { ...base, analysis, values: attempt(held.length ? 'length' : 'theta', resolve) };
}
