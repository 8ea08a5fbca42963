import { alone } from '@ditch/core/network';
import { run } from '../bridge/bridge';
import type { BoardFormat } from '../bridge/making';
import { download, fileName } from '../controls/files';
import { say, useSession } from '../store/session';

/** Hands out the copper of a design as a file for a shop or another program. */
export async function exportBoard(designId: string, format: BoardFormat): Promise<void> {
  const { project } = useSession.getState();
  const design = project?.designs.find((d) => d.id === designId);
  if (!project || !design) return;
  try {
    const made = await run('board', { project: alone(project, design), design, format });
    if ('problem' in made) say(`The copper was not exported: ${made.problem}.`);
    else
      download(
        `${fileName(design.name)}.${made.value.suffix}`,
        new Blob([Uint8Array.from(made.value.content)], { type: 'application/octet-stream' }),
      );
  } catch (error) {
    say(`The copper was not exported: ${error instanceof Error ? error.message : String(error)}.`);
  }
}
