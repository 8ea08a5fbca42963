import schema from '../project.schema.json';

/** The JSON Schema of project files, for whoever validates parts of one. */
export const projectSchema: object = schema;
