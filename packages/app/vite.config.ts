import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants } from 'node:zlib';
import react from '@vitejs/plugin-react';
import { defineConfig, type Plugin } from 'vite';
import { VitePWA } from 'vite-plugin-pwa';

// The last two steps of quality save 3 % and take seconds.
const quality = { params: { [constants.BROTLI_PARAM_QUALITY]: 9 } };

/** Compresses the built files once and well, so that the server need not at every visit. */
const compressed: Plugin = {
  name: 'compressed',
  apply: 'build',
  writeBundle({ dir = '' }) {
    const assets = join(dir, 'assets');
    for (const name of readdirSync(assets).filter((n) => /\.(js|css)$/.test(n)))
      writeFileSync(
        join(assets, `${name}.br`),
        brotliCompressSync(readFileSync(join(assets, name)), quality),
      );
  },
};

export default defineConfig({
  root: import.meta.dirname,
  plugins: [
    react(),
    compressed,
    VitePWA({
      // A new version waits until it is asked for: nobody's page changes under the hand.
      registerType: 'prompt',
      injectRegister: false,
      includeAssets: ['ditch.svg'],
      manifest: {
        name: 'Ditch',
        short_name: 'Ditch',
        description: 'Microstrip and stripline design: impedances to copper, networks to responses',
        start_url: '/',
        display: 'standalone',
        background_color: '#f6f3ec',
        theme_color: '#0f7c85',
        icons: [{ src: '/ditch.svg', sizes: 'any', type: 'image/svg+xml', purpose: 'any' }],
      },
      workbox: {
        globPatterns: ['**/*.{js,css,html,svg,woff2}'],
        // Letters of other scripts than the page's own are fetched where a name needs them.
        globIgnores: ['**/inter-{cyrillic,vietnamese}*'],
        navigateFallback: '/index.html',
        navigateFallbackDenylist: [/^\/health/, /^\/api\//, /^\/assets\//],
        cleanupOutdatedCaches: true,
        maximumFileSizeToCacheInBytes: 4_000_000,
      },
    }),
  ],
  worker: { format: 'es' },
  build: { target: 'es2022', sourcemap: false, chunkSizeWarningLimit: 900 },
});
