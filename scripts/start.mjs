// One command: installs and builds what is missing, then serves the app.
import { setup } from './setup.mjs';

await setup();
await import('../packages/server/dist/main.js');
