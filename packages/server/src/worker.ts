import { isMainThread } from 'node:worker_threads';
import { startLabour } from './farm/labour';
import { compute } from './farm/thread';

/** A worker of the farm: `DITCH_QUEUE=redis://… npm run worker`. */
if (!isMainThread) compute();
else {
  const url = process.env.DITCH_QUEUE;
  if (!url || !/^rediss?:\/\//.test(url)) {
    process.stderr.write('DITCH_QUEUE: needs the address of the queue, such as redis://127.0.0.1:6379\n');
    process.exit(2);
  }
  const lock = process.env.DITCH_LOCK === undefined ? undefined : Number(process.env.DITCH_LOCK);
  const labour = startLabour({
    url,
    program: new URL(import.meta.url),
    log: (line) => process.stdout.write(`${new Date().toISOString()} ${line}\n`),
    ...(lock !== undefined && Number.isFinite(lock) && { lock }),
  });
  process.stdout.write('this worker waits for work\n');
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.on(signal, () => void labour.close().then(() => process.exit(0)));
}
