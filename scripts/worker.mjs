// A worker of the farm: builds what is missing, then takes work from the queue at DITCH_QUEUE.
import { setup } from './setup.mjs';

await setup({ app: false });
await import('../packages/server/dist/worker.js');
