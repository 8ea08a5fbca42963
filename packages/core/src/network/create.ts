import { laminates, type Stack } from '../stack';
import type { SData } from '../results';
import type { MediumId } from '../lines';
import type { Backed, DataBlock, Design, Project } from './document';

/** A short id, unique for all practical purposes. */
export const newId = (): string =>
  Array.from({ length: 12 }, () => Math.floor(Math.random() * 36).toString(36)).join('');

/** A project with one stack and no designs. */
export function emptyProject(name: string, stack: Stack = laminates[0]): Project {
  return {
    format: 'ditch-project',
    version: 2,
    id: newId(),
    name,
    stacks: [stack],
    line: {
      stack: stack.id,
      medium: 'microstrip',
      freq: '10.55 GHz',
      held: { z0: '50 ohm', theta: '90 deg' },
    },
    designs: [],
    data: [],
  };
}

/** The project with one of its designs changed. */
export const inDesign = (project: Project, id: string, change: (design: Design) => Design): Project => ({
  ...project,
  designs: project.designs.map((d) => (d.id === id ? change(d) : d)),
});

/**
 * The project in which a board may be changed, and the id that board goes by there: a laminate that ships becomes the
 * project's own, under its name, so that the one that ships can still be had.
 */
export function withOwnBoard(
  project: Project,
  id: string,
): { readonly project: Project; readonly id: string } {
  if (!laminates.some((l) => l.id === id)) return { project, id };
  const own = newId();
  return {
    id: own,
    project: {
      ...project,
      stacks: project.stacks.map((s) => (s.id === id ? { ...s, id: own } : s)),
      line: project.line.stack === id ? { ...project.line, stack: own } : project.line,
      designs: project.designs.map((d) => (d.stack === id ? { ...d, stack: own } : d)),
    },
  };
}

/** The project with nothing but one design and the data that it works with: what a worker needs to know. */
export const alone = (project: Project, design: Design): Project => ({
  ...project,
  designs: [design],
  data: project.data.filter((d) => worksWith(design, d.id)),
});

/** Whether a design works with some data: a piece holds it, or stands on it. */
export const worksWith = ({ pieces, backed }: Design, data: string): boolean =>
  pieces.some((p) => p.settings?.data === data) || (backed?.some((b) => b.data === data) ?? false);

/** The project with pieces of a design standing on solved data, instead of what they stood on before. */
export function standOn(project: Project, id: string, block: DataBlock, backed: readonly Backed[]): Project {
  const own = new Set(backed.flatMap((b) => b.pieces));
  const known = project.data.some((d) => d.id === block.id);
  return {
    ...inDesign(project, id, (d) => ({
      ...d,
      backed: [...(d.backed ?? []).filter((b) => !b.pieces.some((p) => own.has(p))), ...backed],
    })),
    data: known ? project.data : [...project.data, block],
  };
}

/** S-parameters as a block of a project. */
export function dataBlock(name: string, origin: DataBlock['origin'], data: SData): DataBlock {
  return {
    id: newId(),
    // Names come from files, whose own names may hold anything.
    name:
      name
        .replace(/[\p{Cc}\u2028\u2029]+/gu, ' ')
        .trim()
        .slice(0, 200) || 'data',
    origin,
    ports: data.ports,
    freq: [...data.freq],
    re: [...data.re],
    im: [...data.im],
    z0: data.z0.map((z) => [z.re, z.im] as const),
  };
}

/** A design without pieces: a design frequency, a sweep around it, a marker. */
export function emptyDesign(name: string, stack: string, medium: MediumId, freq: string): Design {
  return {
    id: newId(),
    name,
    stack,
    medium,
    values: [{ name: 'f0', value: freq, note: 'design' }],
    pieces: [],
    sweep: { start: 'f0/2', stop: '1.5*f0', points: 401 },
    markers: [{ id: 'm1', freq: 'f0' }],
    goal: '20 dB',
    overlays: [],
  };
}
