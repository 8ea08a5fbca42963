import {
  responseWriters,
  type NumberFormat,
  type ResponseFormat,
  type ResponseWriter,
} from '@ditch/core/formats';
import { liveById, type LevelId, type Subject } from '@ditch/core/levels';
import { resolveDesign, type Design, type Project } from '@ditch/core/network';
import type { Band } from '@ditch/core/planar';
import type { SData } from '@ditch/core/results';
import { run } from '../bridge/bridge';
import { download, fileName } from '../controls/files';
import { simulation } from '../responses';
import { wholeSubjectOf } from '../responses/solutions';
import { say, useSession } from '../store/session';

/** The writer asked for, or another that can say what it cannot: Touchstone 1 knows one reference for all ports. */
function able(wanted: ResponseFormat, data: SData): ResponseWriter {
  const differ = data.z0.some((z) => z.re !== data.z0[0].re);
  return responseWriters[wanted === 'touchstone-1' && differ ? 'touchstone-2' : wanted];
}

/** What was solved of a design's copper as it stands. @throws Error in words where it was not */
async function solvedSubjectOf(project: Project, design: Design, band: Band): Promise<Subject> {
  const found = await wholeSubjectOf(project, design, band);
  if ('problem' in found) throw new Error(found.problem);
  if (!found.value)
    throw new Error('its copper has not been solved as it stands now; the waterline solves it');
  return found.value;
}

/** Computes a design's S-parameters at its sweep and hands them out as a file. */
export async function exportResponse(
  designId: string,
  level: LevelId,
  writer: ResponseFormat,
  format: NumberFormat,
): Promise<void> {
  const { project } = useSession.getState();
  const design = project?.designs.find((d) => d.id === designId);
  if (!project || !design) return;
  const resolved = resolveDesign(project, design);
  const { sweep } = resolved;
  const live = liveById[level === 'solved' ? 'modelled' : level].subject(resolved);
  if (!live || !sweep) {
    say('The design has an error, so there is no response to export. The review says what is wrong.');
    return;
  }
  try {
    const subject = level === 'solved' ? await solvedSubjectOf(project, design, sweep) : live;
    const task = { level, subject, sweep };
    const [{ swept: data }] = await run('simulate', simulation([task], project.data));
    if (!data) return;
    const file = able(writer, data);
    const comments = [`${project.name}: ${design.name}, level ${level}`];
    const name = `${fileName(design.name)}-${level}.${file.suffix(data.ports)}`;
    download(name, file.write(data, { format, comments }), file.type);
  } catch (error) {
    say(`The response was not exported: ${error instanceof Error ? error.message : String(error)}.`);
  }
}
