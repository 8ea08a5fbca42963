import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { createServer } from '../src/server';

it('serves the page at every address, assets for good, with strict headers, compressed', async () => {
  const root = mkdtempSync(join(tmpdir(), 'ditch-'));
  mkdirSync(join(root, 'assets'));
  writeFileSync(join(root, 'index.html'), '<!doctype html><title>page</title>');
  writeFileSync(join(root, 'assets', 'app-abc.js'), 'x'.repeat(5000));
  const server = await createServer({ root });
  const page = await server.inject('/p/some/design/other');
  expect(page.statusCode).toBe(200);
  expect(page.body).toContain('page');
  expect(page.headers['cache-control']).toBe('no-cache');
  expect(page.headers['content-security-policy']).toMatch(
    // Kernels are compiled, script never is.
    /default-src 'none';script-src 'self' 'wasm-unsafe-eval';/,
  );
  expect(page.headers['x-content-type-options']).toBe('nosniff');
  const asset = await server.inject({
    url: '/assets/app-abc.js',
    headers: { 'accept-encoding': 'br, gzip' },
  });
  expect(asset.headers['cache-control']).toContain('immutable');
  expect(asset.headers['content-encoding']).toBe('br');
  expect((await server.inject('/assets/gone.js')).statusCode).toBe(404);
  // An id may look like a file's name.
  expect((await server.inject('/p/amp.v2/design/d.1')).body).toContain('page');
  expect((await server.inject('/amp.v2')).statusCode).toBe(404);
  expect((await server.inject({ method: 'POST', url: '/' })).statusCode).toBe(404);
  expect((await server.inject('/../package.json')).statusCode).not.toBe(200);
  await server.close();
});
