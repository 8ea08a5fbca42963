// Installs and builds what is missing or out of date, and nothing else: a second run answers at once.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const stamps = join(root, 'node_modules', '.ditch');

const [major, minor] = process.versions.node.split('.').map(Number);
if (major < 20 || (major === 20 && minor < 19)) {
  process.stderr.write(`Ditch needs Node 20.19 or newer; this is ${process.versions.node}.\n`);
  process.exit(1);
}

function run(command, args) {
  const result = spawnSync(command, args, { cwd: root, stdio: 'inherit', env: process.env });
  if (result.status !== 0) process.exit(result.status ?? 1);
}

function files(path) {
  const stat = statSync(path);
  if (stat.isFile()) return [path];
  return readdirSync(path)
    .filter((name) => !['node_modules', 'dist', 'generated', 'test'].includes(name))
    .flatMap((name) => files(join(path, name)));
}

/** Content hash of files and folders. */
function hash(paths) {
  const sum = createHash('sha256');
  for (const path of paths.flatMap((p) => files(join(root, p)))) sum.update(path).update(readFileSync(path));
  return sum.digest('hex');
}

const stampOf = (name) => {
  const path = join(stamps, name);
  return existsSync(path) ? readFileSync(path, 'utf8') : '';
};
const stamp = (name, value) => {
  mkdirSync(stamps, { recursive: true });
  writeFileSync(join(stamps, name), value);
};

/** What is made of sources by a script of that name, and a file that shows that it is there. */
const GENERATED = [
  [
    'schema',
    ['packages/core/src/formats/project.schema.json', 'packages/core/src/formats/copper.schema.json'],
    'packages/core/src/formats/generated/validate-project.js',
  ],
  ['wasm', ['packages/core/wasm/dense.ts'], 'packages/core/src/planar/generated/dense.js'],
  ['grammar', ['packages/core/src/units/expression.peggy'], 'packages/core/src/units/generated/grammar.js'],
];

export async function setup({ build = true, force = false, app: withApp = true } = {}) {
  // The lock file holds every dependency of every workspace.
  const manifests = hash(['package-lock.json']);
  if (stampOf('install') !== manifests) {
    process.stdout.write('installing packages\n');
    run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']);
    stamp('install', manifests);
  }
  for (const [name, sources, product] of GENERATED) {
    const now = hash([...sources, `scripts/${name}.mjs`, 'package-lock.json']);
    if (stampOf(name) === now && existsSync(join(root, product))) continue;
    await import(pathToFileURL(join(root, `scripts/${name}.mjs`)).href);
    stamp(name, now);
  }
  // Lists files only; cheaper than finding out whether it is needed.
  await import(pathToFileURL(join(root, 'scripts/registry.mjs')).href);
  if (!build) return;
  const lock = 'package-lock.json';
  const node = hash([
    'packages/core/src',
    'packages/core/wasm',
    'packages/cli/src',
    'packages/server/src',
    'scripts/bundle.mjs',
    lock,
  ]);
  if (
    force ||
    stampOf('node') !== node ||
    !existsSync(join(root, 'packages/cli/dist/ditch.js')) ||
    !existsSync(join(root, 'packages/server/dist/worker.js'))
  ) {
    process.stdout.write('building the command line and the server\n');
    const { bundle, serverOptions } = await import('./bundle.mjs');
    const at = (path) => join(root, path);
    // The command line is one small file, so that it answers fast; the server keeps its packages outside.
    await bundle(at('packages/cli/src/ditch.ts'), at('packages/cli/dist/ditch.js'), { minifySyntax: true });
    for (const program of ['main', 'worker'])
      await bundle(
        at(`packages/server/src/${program}.ts`),
        at(`packages/server/dist/${program}.js`),
        serverOptions,
      );
    stamp('node', node);
  }
  if (!withApp) return;
  const app = hash([
    'packages/core/src',
    'packages/core/wasm',
    'packages/app/src',
    'packages/app/public',
    'packages/app/index.html',
    'packages/app/vite.config.ts',
    'examples',
    lock,
  ]);
  if (force || stampOf('app') !== app || !existsSync(join(root, 'packages/app/dist/index.html'))) {
    process.stdout.write('building the app\n');
    const { build: bundle } = await import('vite');
    await bundle({
      configFile: join(root, 'packages/app/vite.config.ts'),
      logLevel: process.env.DITCH_VERBOSE ? 'info' : 'warn',
    });
    stamp('app', app);
  }
}

if (process.argv[1] && import.meta.url === pathToFileURL(process.argv[1]).href)
  await setup({ force: process.argv.includes('--build') });
