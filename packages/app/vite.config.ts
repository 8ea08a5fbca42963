import react from '@vitejs/plugin-react';
import { defineConfig } from 'vite';
import { VitePWA } from 'vite-plugin-pwa';

export default defineConfig({
  root: import.meta.dirname,
  plugins: [
    react(),
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
        navigateFallbackDenylist: [/^\/health/, /^\/assets\//],
        cleanupOutdatedCaches: true,
        maximumFileSizeToCacheInBytes: 4_000_000,
      },
    }),
  ],
  worker: { format: 'es' },
  build: { target: 'es2022', sourcemap: false, chunkSizeWarningLimit: 900 },
});
