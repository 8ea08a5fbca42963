import type { Project } from '../network';
import type { KeptSolution } from '../planar';
import { solutionTo } from './solutions';

/** Stands where data comes; no text of a project holds it. */
const BLOCK = '\uE000data ';

/** The project as the text of its file. @param solutions of its copper, that the file carries along */
export function writeProject(project: Project, solutions: readonly KeptSolution[] = []): string {
  // Data and solutions stand in a line each: nobody reads their numbers.
  const blocks = project.data.map((block) => JSON.stringify(block));
  const text = JSON.stringify({ ...project, data: blocks.map((_, i) => `${BLOCK}${i}`) }, null, 1).replace(
    new RegExp(`"${BLOCK}(\\d+)"`, 'g'),
    (_, i: string) => blocks[Number(i)],
  );
  if (solutions.length === 0) return `${text}\n`;
  const lines = solutions.map((s) => `  ${JSON.stringify(solutionTo(s))}`);
  return `${text.slice(0, -2)},\n "solutions": [\n${lines.join(',\n')}\n ]\n}\n`;
}
