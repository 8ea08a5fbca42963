import { responseWriters, writerFor, type NumberFormat, type ResponseFormat } from '@ditch/core/formats';
import { liveById, type LevelId, type Subject } from '@ditch/core/levels';
import { resolveDesign, type Design, type Project } from '@ditch/core/network';
import type { Band } from '@ditch/core/planar';
import type { SData } from '@ditch/core/results';
import { run } from '../bridge/bridge';
import { download, fileName } from '../controls/files';
import { simulation } from '../responses';
import { wholeSubjectOf } from '../responses/solutions';
import { say, useSession } from '../store/session';

/** What was solved of a design's copper as it stands. @throws Error in words where it was not */
async function solvedSubjectOf(project: Project, design: Design, band: Band): Promise<Subject> {
  const found = await wholeSubjectOf(project, design, band);
  if ('problem' in found) throw new Error(found.problem);
  if (!found.value)
    throw new Error('its copper has not been solved as it stands now; the waterline solves it');
  return found.value;
}

/** What is written of a response: its level, the parameters, the format and how numbers stand in it. */
export interface DataWish {
  readonly level: LevelId;
  readonly parameter: 's' | 'y' | 'z';
  readonly file: ResponseFormat;
  readonly format: NumberFormat;
}

/** A file of data, not yet handed out. */
export interface DataFile {
  readonly name: string;
  readonly text: string;
  readonly type: string;
  readonly data: SData;
  /** It is of another format than was asked for, which cannot say it. */
  readonly instead?: ResponseFormat;
}

/** Computes a design's parameters at its sweep as a file. @throws Error in words */
export async function dataFile(
  project: Project,
  design: Design,
  { level, parameter, file, format }: DataWish,
): Promise<DataFile> {
  const resolved = resolveDesign(project, design);
  const { sweep } = resolved;
  const live = liveById[level === 'solved' ? 'modelled' : level].subject(resolved);
  if (!live || !sweep)
    throw new Error('the design has an error, so there is no response; the review says what is wrong');
  const subject = level === 'solved' ? await solvedSubjectOf(project, design, sweep) : live;
  const [{ swept: data }] = await run('simulate', simulation([{ level, subject, sweep }], project.data));
  if (!data) throw new Error('there is no response');
  const id = writerFor(file, data);
  const writer = responseWriters[id];
  const comments = [`${project.name}: ${design.name}, level ${level}`];
  return {
    name: `${fileName(design.name)}-${level}${parameter === 's' ? '' : `-${parameter}`}.${writer.suffix(data.ports)}`,
    text: writer.write(data, { format, parameter, comments }),
    type: writer.type,
    data,
    ...(id !== file && { instead: id }),
  };
}

/** Hands out a design's S-parameters at its sweep as Touchstone. */
export async function exportResponse(designId: string, level: LevelId): Promise<void> {
  const { project } = useSession.getState();
  const design = project?.designs.find((d) => d.id === designId);
  if (!project || !design) return;
  try {
    const wish: DataWish = { level, parameter: 's', file: 'touchstone-1', format: 'ri' };
    const { name, text, type } = await dataFile(project, design, wish);
    download(name, text, type);
  } catch (error) {
    say(`The response was not exported: ${error instanceof Error ? error.message : String(error)}.`);
  }
}
