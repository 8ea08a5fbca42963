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

const server = await createServer({ root, logger: true });
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
