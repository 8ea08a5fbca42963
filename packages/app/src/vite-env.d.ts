/// <reference types="vite/client" />
/// <reference types="vite-plugin-pwa/client" />
