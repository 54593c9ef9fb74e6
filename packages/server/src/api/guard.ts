import { timingSafeEqual } from 'node:crypto';
import cookie from '@fastify/cookie';
import helmet from '@fastify/helmet';
import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
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
 * @param key what a browser on another machine has to show, in the address first and as a cookie afterwards; null where only this machine is
 * listened to
 * @throws Problem `not-local`, `not-own-page`, `key-wanted`, by the hook
 */
export async function guard(app: FastifyInstance, key: string | null): Promise<void> {
  await app.register(helmet, HEADERS);
  await app.register(cookie);
  app.addHook('onRequest', async (request, reply) => {
    const host = (request.headers.host ?? '').replace(/:\d+$/, '');
    // a name that was made to lead here brings no cookie of this one
    if (key === null && !LOOPBACK.has(host)) throw new Problem('not-local', 'Pontrel answers on this machine only.');
    if (isOfAnotherPage(request)) throw new Problem('not-own-page', 'Pontrel answers its own page only.');
    if (key !== null) return unlocked(request, reply, key);
  });
}

const COOKIE = 'pontrel-key';
const YEAR_S = 365 * 24 * 3600;

/** Lets through who has the key; who brings it in the address gets it as a cookie, and the address without it. */
function unlocked(request: FastifyRequest, reply: FastifyReply, key: string): FastifyReply | undefined {
  if (isSame(request.cookies[COOKIE], key)) return undefined;
  const at = new URL(request.url, 'http://here');
  if (!isSame(at.searchParams.get('key'), key))
    throw new Problem('key-wanted', 'Open the address that Pontrel printed when it started, with the key in it.');
  at.searchParams.delete('key');
  return reply
    .setCookie(COOKIE, key, { path: '/', httpOnly: true, sameSite: 'strict', maxAge: YEAR_S })
    .redirect(`${at.pathname}${at.search}`, 303);
}

function isSame(given: string | null | undefined, key: string): boolean {
  const [a, b] = [Buffer.from(given ?? ''), Buffer.from(key)];
  return a.length === b.length && timingSafeEqual(a, b);
}

function isOfAnotherPage({ headers, url }: FastifyRequest): boolean {
  if (headers.origin !== undefined && headers.origin !== `http://${headers.host}`) return true;
  // a link on another page may lead to this one, but not to what it is made of
  const site = headers['sec-fetch-site'];
  return url.startsWith('/api/') && site !== undefined && site !== 'same-origin' && site !== 'none';
}
