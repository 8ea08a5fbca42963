// How the sources become programs of Node: one file each, as it is shipped and as the tests run it.
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { build } from 'esbuild';

const banner = {
  js: "import { createRequire } from 'node:module'; const require = createRequire(import.meta.url);",
};

/**
 * @param {string} from entry point
 * @param {string} to file to write
 * @param {import('esbuild').BuildOptions} options what differs, such as packages kept outside
 */
export const bundle = (from, to, options = {}) =>
  build({
    entryPoints: [from],
    outfile: to,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    logLevel: 'warning',
    banner,
    ...options,
  });

/** The server and its workers keep their packages outside, all but the core. */
export const serverOptions = { external: ['fastify', '@fastify/*', 'bullmq', 'ioredis'] };

/**
 * Builds what a script needs of the core and says where it is, to be imported there.
 * @param {string} name of the file, below .cache
 * @param {string} contents the exports, as they are written inside of packages/core
 * @returns {Promise<string>} the file's URL
 */
export async function builtCore(name, contents) {
  const root = fileURLToPath(new URL('..', import.meta.url));
  const outfile = join(root, '.cache', `${name}.mjs`);
  await build({
    absWorkingDir: root,
    stdin: { contents, resolveDir: join(root, 'packages/core'), loader: 'ts' },
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    logLevel: 'error',
  });
  return pathToFileURL(outfile).href;
}
