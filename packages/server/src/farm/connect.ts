import { Redis } from 'ioredis';

/** A connection to the queue that takes itself up again; what it says of being lost is known by what waits. */
export function connect(url: string): Redis {
  const connection = new Redis(url, { maxRetriesPerRequest: null });
  connection.on('error', () => undefined);
  return connection;
}
