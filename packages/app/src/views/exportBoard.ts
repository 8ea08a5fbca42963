import { idsOf, type What } from '@ditch/core/making';
import { worksWith, type Project } from '@ditch/core/network';
import { run } from '../bridge/bridge';
import type { BoardFormat } from '../bridge/making';
import { download, fileName } from '../controls/files';
import { say, useSession } from '../store/session';

/** What of a project is needed to make something of it. */
export function needed(project: Project, what: What): Project {
  const ids = idsOf(project, what);
  const designs = project.designs.filter((d) => ids.includes(d.id));
  return {
    ...project,
    designs,
    data: project.data.filter((d) => designs.some((own) => worksWith(own, d.id))),
  };
}

/** Hands out what is made as a file for a shop or another program. */
export async function exportBoard(what: What, format: BoardFormat): Promise<void> {
  const { project } = useSession.getState();
  if (!project) return;
  try {
    const made = await run('board', { project: needed(project, what), what, format });
    if ('problem' in made) say(`The board was not exported: ${made.problem}.`);
    else
      download(
        `${fileName(made.value.name)}.${made.value.suffix}`,
        new Blob([Uint8Array.from(made.value.content)], { type: 'application/octet-stream' }),
      );
  } catch (error) {
    say(`The board was not exported: ${error instanceof Error ? error.message : String(error)}.`);
  }
}
