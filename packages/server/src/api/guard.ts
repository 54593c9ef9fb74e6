import helmet from '@fastify/helmet';
import type { FastifyInstance, FastifyRequest } from 'fastify';
import { Problem } from '@pontrel/core/model/problem';

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '[::1]']);

/** What every answer says of itself: that it is made of its own files only, and stands in no other page. */
const HEADERS = {
  contentSecurityPolicy: {
    useDefaults: false,
    directives: {
      defaultSrc: ["'none'"],
      scriptSrc: ["'self'"],
      // the style sheets of components are made while the page runs
      styleSrc: ["'self'", "'unsafe-inline'"],
      imgSrc: ["'self'", 'data:', 'blob:'],
      fontSrc: ["'self'", 'data:'],
      connectSrc: ["'self'"],
      workerSrc: ["'self'"],
      baseUri: ["'none'"],
      formAction: ["'none'"],
      frameAncestors: ["'none'"],
    },
  },
  frameguard: { action: 'deny' },
  referrerPolicy: { policy: 'no-referrer' },
  // it is spoken to without TLS, over loopback
  strictTransportSecurity: false,
} as const;

/**
 * Keeps other pages out: those that reach this machine by a name that was made to lead here (DNS rebinding), those of another site, and those
 * of another port of this machine. Requests tell where they come from by Origin (Fetch Standard, 3.2) and by Sec-Fetch-Site (Fetch Metadata
 * Request Headers, 2.3); programs that are no browsers send neither.
 * @throws Problem `not-local`, `not-own-page`, by the hook
 */
export async function guard(app: FastifyInstance): Promise<void> {
  await app.register(helmet, HEADERS);
  app.addHook('onRequest', async (request) => {
    const host = (request.headers.host ?? '').replace(/:\d+$/, '');
    if (!LOOPBACK.has(host)) throw new Problem('not-local', 'Pontrel answers on this machine only.');
    if (isOfAnotherPage(request)) throw new Problem('not-own-page', 'Pontrel answers its own page only.');
  });
}

function isOfAnotherPage({ headers, url }: FastifyRequest): boolean {
  if (headers.origin !== undefined && headers.origin !== `http://${headers.host}`) return true;
  // a link on another page may lead to this one, but not to what it is made of
  const site = headers['sec-fetch-site'];
  return url.startsWith('/api/') && site !== undefined && site !== 'same-origin' && site !== 'none';
}
