// How the sources become programs of Node: one file each, as it is shipped and as the tests run it.
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
