import { fileURLToPath } from 'node:url';
import { createServer } from './server';

const root = fileURLToPath(new URL('../../app/dist', import.meta.url));
const host = process.env.HOST ?? '127.0.0.1';
const wanted = Number(process.env.PORT ?? 4410);
/** Ports tried after the wanted one when it is taken; a port asked for by name is not given up. */
const attempts = process.env.PORT === undefined ? 20 : 1;

if (!Number.isInteger(wanted) || wanted < 0 || wanted > 65535) {
  process.stderr.write(`PORT: must be a whole number from 0 to 65535 (got "${process.env.PORT}")\n`);
  process.exit(2);
}

const queue = process.env.DITCH_QUEUE;
const token = process.env.DITCH_TOKEN;
const refuse = (why: string): never => {
  process.stderr.write(`${why}\n`);
  return process.exit(2);
};
if (queue !== undefined && !/^rediss?:\/\//.test(queue))
  refuse(`DITCH_QUEUE: needs an address such as redis://127.0.0.1:6379 (got "${queue}")`);
if (token !== undefined && !/^[\x21-\x7e]{16,200}$/.test(token))
  refuse('DITCH_TOKEN: needs at least 16 letters and digits');
// Whoever reaches the server reaches the queue: beyond this machine only who has the token.
if (queue !== undefined && token === undefined && !['127.0.0.1', '::1', 'localhost'].includes(host))
  refuse(`DITCH_TOKEN: is needed where the queue is offered beyond this machine (HOST is "${host}")`);

const server = await createServer({
  root,
  logger: true,
  ...(queue !== undefined && { farm: { url: queue, ...(token !== undefined && { token }) } }),
});
for (let i = 0; ; i++) {
  try {
    const address = await server.listen({ host, port: wanted + i });
    process.stdout.write(`Ditch is at ${address}\n`);
    break;
  } catch (error) {
    const { code, message } = error as NodeJS.ErrnoException;
    if (code === 'EADDRINUSE' && i + 1 < attempts) continue;
    process.stderr.write(
      code === 'EADDRINUSE' ? `port ${wanted + i} is taken; set PORT to another one\n` : `${message}\n`,
    );
    process.exit(1);
  }
}
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.on(signal, () => void server.close().then(() => process.exit(0)));
