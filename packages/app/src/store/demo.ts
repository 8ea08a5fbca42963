import { newId, type Design, type Project } from '@ditch/core/network';
import { db } from './db';
import { addProject } from './session';

/** The demo project, as it ships. */
export async function demoProject(): Promise<Project> {
  // Needed once in the life of a browser's storage, so it comes when it is asked for.
  const [{ default: demo }, { readProject }] = await Promise.all([
    import('../../../../examples/ditchwater.ditch.json'),
    import('./reading'),
  ]);
  return readProject(JSON.stringify(demo));
}

/** A design as its recipe made it: without what retuning moved. */
const untuned = (design: Design): Design => ({
  ...design,
  pieces: design.pieces.map((piece) => {
    const held = { ...piece.held };
    delete held.trim;
    delete held.widen;
    return { ...piece, held };
  }),
});

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
    ['Detector match tuned, with two attempts beside it', project],
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
