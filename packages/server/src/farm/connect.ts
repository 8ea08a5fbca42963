import { Redis } from 'ioredis';

/** A connection to the queue that takes itself up again; what it says of being lost is known by what waits. */
export function connect(url: string): Redis {
  const connection = new Redis(url, { maxRetriesPerRequest: null });
  connection.on('error', () => undefined);
  return connection;
}

/** Milliseconds that a queue may take to close in its own way. */
const CLOSING = 2000;

/** Closes what uses some connections, then cuts these off: where Redis is away, what closing waits for never comes. */
export async function closeAll(
  users: readonly { close(): Promise<void> }[],
  connections: readonly Redis[],
): Promise<void> {
  await Promise.race([
    Promise.allSettled(users.map((u) => u.close())),
    new Promise((resolve) => setTimeout(resolve, CLOSING).unref()),
  ]);
  connections.forEach((c) => c.disconnect());
}
