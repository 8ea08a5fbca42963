import type { Project } from '../network';

/** The project as the text of its file. */
export const writeProject = (project: Project): string => `${JSON.stringify(project, null, 1)}\n`;
