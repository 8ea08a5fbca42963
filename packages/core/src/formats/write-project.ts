import type { Project } from '../network';
import type { KeptSolution } from '../planar';
import { solutionTo } from './solutions';

/** The project as the text of its file. @param solutions of its copper, that the file carries along */
export function writeProject(project: Project, solutions: readonly KeptSolution[] = []): string {
  const text = JSON.stringify(project, null, 1);
  if (solutions.length === 0) return `${text}\n`;
  // A line each: nobody reads their numbers.
  const lines = solutions.map((s) => `  ${JSON.stringify(solutionTo(s))}`);
  return `${text.slice(0, -2)},\n "solutions": [\n${lines.join(',\n')}\n ]\n}\n`;
}
