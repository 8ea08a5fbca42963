import { newId, type Design, type Project } from '@ditch/core/network';
import { addSolutions } from '../responses/solutions';
import { db } from './db';
import { addProject } from './session';

/** The demo project, as it ships. */
export async function demoProject(): Promise<Project> {
  // Needed once in the life of a browser's storage, so it comes when it is asked for.
  const [{ default: demo }, { readProjectFile }] = await Promise.all([
    import('../../../../examples/ditchwater.ditch.json'),
    import('./reading'),
  ]);
  const { project, solutions } = readProjectFile(JSON.stringify(demo));
  // Before the project: whoever has the one has the others.
  await addSolutions(solutions);
  return project;
}

/** A design without some faces of its pieces. */
const without = (design: Design, ...faces: readonly string[]): Design => ({
  ...design,
  pieces: design.pieces.map((piece) => ({
    ...piece,
    held: Object.fromEntries(Object.entries(piece.held).filter(([face]) => !faces.includes(face))),
  })),
});
/** A design as its recipe made it: without what retuning moved, and couplers with modes as fast as they are. */
const untuned = (design: Design): Design => without(design, 'trim', 'widen', 'spread', 'bridge');

/** Stores the demo project with the checkpoints that tell how its designs came to be. */
export async function addDemo(project: Project): Promise<string> {
  const id = await addProject(project);
  const tuned = (names: readonly string[]): Project => ({
    ...project,
    designs: project.designs.map((d) => (names.includes(d.id) ? d : untuned(d))),
  });
  const story: [string, Project][] = [
    ['Designs as the recipes made them', tuned([])],
    ['Hybrid retuned, divider and detector match not yet', tuned(['hybrid'])],
    [
      'Monitor coupler in microstrip, before its modes were evened',
      { ...project, designs: project.designs.map((d) => without(d, 'bridge')) },
    ],
    ['Detector match tuned, with two attempts; modes of the monitor coupler evened', project],
  ];
  const now = Date.now();
  // They are looked at later than the project, which does not wait for them. Without storage there are none; that
  // nothing is stored is said where the project is saved.
  db.checkpoints
    .bulkAdd(
      story.map(([name, state], i) => ({
        id: newId(),
        projectId: id,
        name,
        created: now - (story.length - i) * 60_000,
        project: state,
      })),
    )
    .catch(() => undefined);
  return id;
}
