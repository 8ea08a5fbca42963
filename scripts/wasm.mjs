// Compiles the dense kernels of the field solution to WebAssembly and writes them as a module of text, so that page, worker,
// server and command line take them alike.
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import asc from 'assemblyscript/asc';

const source = new URL('../packages/core/wasm/dense.ts', import.meta.url);
const folder = new URL('../packages/core/src/planar/generated/', import.meta.url);
const { error, stderr, binary } = await compile(readFileSync(source, 'utf8'));
if (error) throw new Error(`${stderr}\n${error.message}`);
mkdirSync(folder, { recursive: true });
writeFileSync(new URL('dense.js', folder), `export default '${Buffer.from(binary).toString('base64')}';\n`);
writeFileSync(new URL('dense.d.ts', folder), 'declare const module: string;\nexport default module;\n');

async function compile(text) {
  let binary;
  const { error, stderr } = await asc.main(
    [
      'dense.ts',
      '--outFile',
      'dense.wasm',
      '-O3',
      '--converge',
      '--noAssert',
      '--runtime',
      'stub',
      '--enable',
      'simd',
      '--importMemory',
    ],
    {
      readFile: (name) => (name === 'dense.ts' ? text : null),
      writeFile: (_name, contents) => {
        binary = contents;
      },
      listFiles: () => [],
    },
  );
  return { error, stderr: stderr.toString(), binary };
}
