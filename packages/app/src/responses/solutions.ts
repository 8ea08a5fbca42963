import {
  shapeOf,
  solutionFor,
  type Accuracy,
  type Band,
  type Copper,
  type KeptSolution,
} from '@ditch/core/planar';
import { joinedSubject, type SolvedSubject, type Subject } from '@ditch/core/levels';
import { alone, resolveDesign, type Design, type Project } from '@ditch/core/network';
import { run } from '../bridge/bridge';
import type { Reading } from '../bridge/jobs';
import { db } from '../store/db';
import { nameOf } from './kept';

/** Solutions that the database holds at most, and the page. */
const STORED = 200;
const KEPT = 40;

/** The latest solutions by what they are of, the oldest first. */
let kept: readonly KeptSolution[] = [];

const sameTask = (a: KeptSolution, b: KeptSolution): boolean =>
  a.accuracy === b.accuracy && a.start === b.start && a.stop === b.stop && a.copper === b.copper;

/** Keeps a solution, or what stands of it, in the page's memory. */
export function keepSolution(solution: KeptSolution): void {
  kept = [...kept.filter((k) => !sameTask(k, solution)), solution].slice(-KEPT);
}

/** Forgets what is in the page's memory, as a page that is loaded anew has. */
export function forgetSolutions(): void {
  kept = [];
}

/** The best solution that the page knows. */
export const knownSolution = (copper: Copper, band: Band, accuracy?: Accuracy): KeptSolution | undefined =>
  solutionFor(kept, copper, band, accuracy);

/** The best solution there is, in the page or in the database. Without storage it is the page's. */
export async function findSolution(
  copper: Copper,
  band: Band,
  accuracy?: Accuracy,
): Promise<KeptSolution | undefined> {
  try {
    const rows = await db.solutions.where('shape').equals(shapeOf(copper)).toArray();
    return solutionFor([...kept, ...rows.map((r) => r.solution)], copper, band, accuracy);
  } catch {
    return knownSolution(copper, band, accuracy);
  }
}

/** Stores a solution, in place of what stood of it before. */
export async function storeSolution(solution: KeptSolution): Promise<void> {
  keepSolution(solution);
  const shape = shapeOf(solution.copper);
  try {
    await db.transaction('rw', db.solutions, async () => {
      const rows = await db.solutions.where('shape').equals(shape).toArray();
      const before = rows.filter(
        (r) => solutionFor([r.solution], solution.copper, solution, solution.accuracy) !== undefined,
      );
      // A partial one never takes the place of a whole one.
      if (!solution.complete && before.some((r) => r.solution.complete)) return;
      await db.solutions.bulkDelete(
        before
          .filter((r) => r.solution.start === solution.start && r.solution.stop === solution.stop)
          .map((r) => r.id),
      );
      await db.solutions.add({ shape, at: Date.now(), solution });
      const surplus = (await db.solutions.count()) - STORED;
      if (surplus > 0) await db.solutions.orderBy('at').limit(surplus).delete();
    });
  } catch {
    // What is not stored is solved again.
  }
}

/** Stores solutions that a file brings. */
export async function addSolutions(solutions: readonly KeptSolution[]): Promise<void> {
  for (const solution of solutions) await storeSolution(solution);
}

/** The copper of a design as it stands, with the best that was solved of it over a band; a sentence where it cannot be solved. */
export async function solvedOf(
  project: Project,
  design: Design,
  band: Band,
): Promise<Reading<{ readonly subject: SolvedSubject; readonly solution: KeptSolution } | undefined>> {
  const reading = await run('survey', { project: alone(project, design), design });
  if ('problem' in reading) return reading;
  const subject = reading.value;
  const solution = subject && (await findSolution(subject.copper, band));
  return { value: solution && { subject, solution } };
}

/** What the solved level is asked of a solution, under a key that names what was solved: what is joined to it says nothing of that. */
export const subjectOf = (
  subject: SolvedSubject,
  { samples, start, stop, accuracy }: KeptSolution,
): Subject =>
  joinedSubject(subject, samples, nameOf(JSON.stringify([subject.copper, start, stop, accuracy])));

/** The same of a design as it stands; undefined where its copper was not solved, or not to the end. */
export async function wholeSubjectOf(
  project: Project,
  design: Design,
  band: Band,
): Promise<Reading<Subject | undefined>> {
  const found = await solvedOf(project, design, band);
  if ('problem' in found) return found;
  return {
    value: found.value?.solution.complete ? subjectOf(found.value.subject, found.value.solution) : undefined,
  };
}

/** What was solved of the copper of a project's designs as they stand. */
export async function solutionsOf(project: Project): Promise<readonly KeptSolution[]> {
  const out: KeptSolution[] = [];
  try {
    if (kept.length === 0 && (await db.solutions.count()) === 0) return out;
    for (const design of project.designs) {
      const { sweep, problems } = resolveDesign(project, design);
      if (!sweep || problems.length > 0) continue;
      const found = await solvedOf(project, design, sweep);
      if ('value' in found && found.value) out.push(found.value.solution);
    }
  } catch {
    // The project itself goes out all the same.
  }
  return out;
}
