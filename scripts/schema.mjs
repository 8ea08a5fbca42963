// Compiles the JSON Schemas of our own files into plain validators, so that no code is generated at run time
// (the page's security policy forbids it) and the command line starts without compiling.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { Ajv } from 'ajv';
import standaloneModule from 'ajv/dist/standalone/index.js';

const folder = new URL('../packages/core/src/formats/', import.meta.url);
mkdirSync(new URL('generated/', folder), { recursive: true });
for (const name of ['project', 'copper']) {
  const schema = JSON.parse(readFileSync(new URL(`${name}.schema.json`, folder), 'utf8'));
  const ajv = new Ajv({
    allErrors: false,
    strict: true,
    allowUnionTypes: true,
    code: { source: true, esm: true },
  });
  const code = standaloneModule.default(ajv, ajv.compile(schema));
  writeFileSync(new URL(`generated/validate-${name}.js`, folder), code);
  writeFileSync(
    new URL(`generated/validate-${name}.d.ts`, folder),
    `interface Failure { instancePath: string; keyword: string; message?: string; params: Record<string, unknown> }
declare const validate: { (data: unknown): boolean; errors?: Failure[] | null };
export default validate;
`,
  );
}
