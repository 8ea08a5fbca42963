import {
  circuitOf,
  emptyProject,
  newId,
  resolveDesign,
  simulate,
  type Design,
  type Piece,
  type Project,
} from '../src/network';
import { initialInputs, recipes, type RecipeInputs } from '../src/recipes';
import type { SData } from '../src/results';
import { laminates, type Stack } from '../src/stack';
import type { MediumId } from '../src/lines';

/** A design by a recipe, in a project of its own. */
export function made(
  id: string,
  inputs: RecipeInputs = {},
  stack: Stack = laminates[0],
  medium: MediumId = 'microstrip',
): { project: Project; design: Design } {
  const recipe = recipes.get(id)!;
  const design = recipe.design({ ...initialInputs(recipe), ...inputs }, { stack, medium, newId, data: [] });
  return { project: { ...emptyProject('test', stack), designs: [design] }, design };
}

/** A piece as a file has it, called by its id. */
export const pieceOf = (
  id: string,
  kind: string,
  held: Readonly<Record<string, string>>,
  nodes: readonly string[],
  settings: Readonly<Record<string, string>> = {},
): Piece => ({ id, name: id, kind, held, nodes, settings });

/** The project with another state of its one design. */
export const withDesign = (project: Project, design: Design): Project => ({ ...project, designs: [design] });

/** Response of a project's one design. */
export function response(
  project: Project,
  level: 'ideal' | 'modelled',
  freq: readonly number[] | Float64Array,
): SData {
  const resolved = resolveDesign(project, project.designs[0]);
  const circuit = circuitOf(resolved, level);
  if (!circuit) throw new Error(resolved.problems.map((p) => p.message).join('; '));
  return simulate(circuit, Float64Array.from(freq), () => undefined);
}

export const entry = (d: SData, i: number, j: number, k = 0): { re: number; im: number } => {
  const at = (k * d.ports + i - 1) * d.ports + j - 1;
  return { re: d.re[at], im: d.im[at] };
};
export const size = (z: { re: number; im: number }): number => Math.hypot(z.re, z.im);
/** Entry (i, j) over entry (k, j). */
export function ratio(d: SData, i: number, k: number, j: number, at = 0): { re: number; im: number } {
  const [a, b] = [entry(d, i, j, at), entry(d, k, j, at)];
  const q = b.re * b.re + b.im * b.im;
  return { re: (a.re * b.re + a.im * b.im) / q, im: (a.im * b.re - a.re * b.im) / q };
}
