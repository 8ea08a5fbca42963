import { writeTouchstone, writeParameterCsv } from '@ditch/core/formats';
import { layOut } from '@ditch/core/artwork';
import { levelById, type LevelId } from '@ditch/core/levels';
import { resolveDesign } from '@ditch/core/network';
import { run } from '../bridge/bridge';
import { download, fileName } from '../controls/files';
import { simulation } from '../responses';
import { say, useSession } from '../store/session';

/** Computes a design's S-parameters at its sweep and hands them out as a file. */
export async function exportResponse(
  designId: string,
  level: LevelId,
  format: 'ri' | 'ma' | 'db' | 'csv',
): Promise<void> {
  const { project } = useSession.getState();
  const design = project?.designs.find((d) => d.id === designId);
  if (!project || !design) return;
  const resolved = resolveDesign(project, design);
  const subject = levelById[level].subject(resolved, () => layOut(resolved));
  if (!subject || !resolved.sweep) {
    say('The design has an error, so there is no response to export. The review says what is wrong.');
    return;
  }
  try {
    const task = { level, subject, sweep: resolved.sweep };
    const [{ swept: data }] = await run('simulate', simulation([task], project.data));
    if (!data) return;
    const name = `${fileName(design.name)}-${level}`;
    if (format === 'csv') return download(`${name}.csv`, writeParameterCsv(data, 'ri'), 'text/csv');
    const differ = data.z0.some((z) => z.re !== data.z0[0].re);
    const text = writeTouchstone(data, {
      version: differ ? 2 : 1,
      format,
      comments: [`${project.name}: ${design.name}, level ${level}`],
    });
    download(`${name}.${differ ? 'ts' : `s${data.ports}p`}`, text);
  } catch (error) {
    say(`The response was not exported: ${error instanceof Error ? error.message : String(error)}.`);
  }
}
