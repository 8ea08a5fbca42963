import compress from '@fastify/compress';
import helmet from '@fastify/helmet';
import fastifyStatic from '@fastify/static';
import fastify, { type FastifyInstance } from 'fastify';
import type { FarmOptions } from './farm/routes';

export interface ServerOptions {
  /** Folder of the built app. */
  readonly root: string;
  readonly logger?: boolean;
  /** The queue on which copper is solved for pages; absent: pages solve by themselves. */
  readonly farm?: FarmOptions;
}

/** The server of the built app: compression, caching, strict security headers, and where there is one the queue of the farm. It keeps no user data. */
export async function createServer({ root, logger = false, farm }: ServerOptions): Promise<FastifyInstance> {
  const server = fastify({
    logger: logger ? { level: 'warn' } : false,
    // What is sent is what is meant: nothing is made to fit.
    // A proxy on this machine says who its clients are.
    trustProxy: 'loopback',
    // A connection that ends its last answer while the server closes would be waited for until its time is over.
    forceCloseConnections: true,
    ajv: { customOptions: { coerceTypes: false, removeAdditional: false } },
  });
  await server.register(helmet, {
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'none'"],
        // The kernels of the field solution are compiled from the page's own files.
        scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
        workerSrc: ["'self'"],
        // Styles are made at run time by the component library; scripts are not.
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        fontSrc: ["'self'"],
        connectSrc: ["'self'"],
        manifestSrc: ["'self'"],
        baseUri: ["'none'"],
        formAction: ["'none'"],
        frameAncestors: ["'none'"],
      },
    },
    crossOriginEmbedderPolicy: true,
    // The server speaks plain HTTP on the loopback address.
    strictTransportSecurity: false,
  });
  await server.register(compress, { threshold: 1024, encodings: ['br', 'gzip'] });
  await server.register(fastifyStatic, {
    root,
    cacheControl: false,
    // Built files lie there compressed; what does not is compressed when it is sent.
    preCompressed: true,
    setHeaders(reply, path) {
      // Built files carry a hash of their content in the name; the page itself does not.
      reply.header(
        'cache-control',
        /[\\/]assets[\\/]/.test(path) ? 'public, max-age=31536000, immutable' : 'no-cache',
      );
    },
  });
  server.get('/health', () => ({ ok: true }));
  server.get('/api/farm', () => ({ offered: farm !== undefined, token: farm?.token !== undefined }));
  if (farm) {
    const { offerFarm } = await import('./farm/routes');
    await offerFarm(server, farm);
  }
  // Every view has an address of its own, and they all start from the same page.
  server.setNotFoundHandler(async (request, reply) => {
    const [path] = request.url.split('?');
    // Ids of projects may hold dots, so an ending says nothing below a view's own address.
    const isView = /^\/(p|projects|help)(\/|$)/.test(path);
    const isPage =
      (request.method === 'GET' || request.method === 'HEAD') && (isView || !/\.\w+$/.test(path));
    if (isPage) return reply.header('cache-control', 'no-cache').sendFile('index.html');
    return reply.code(404).send({ error: 'not found' });
  });
  return server;
}
