import { randomBytes } from 'node:crypto';
import type { RequestHandler } from 'express';
import { unkeepableIn } from '../../core/boundary/index.ts';
import { config } from '../config.ts';

declare global {
  // eslint-disable-next-line @typescript-eslint/no-namespace -- the way Express asks for it
  namespace Express {
    interface Locals {
      nonce: string;
    }
  }
}

/** The usual headers, and a content policy under which no inline script runs but those that carry this answer's nonce. */
export const headers: RequestHandler = (_req, res, next) => {
  const nonce = (res.locals.nonce = randomBytes(16).toString('base64'));
  res.set({
    'Content-Security-Policy': [
      "default-src 'self'",
      `script-src 'self' 'nonce-${nonce}'`,
      // Positions on the plan sheet and of floating parts are style attributes; they can carry no code.
      "style-src 'self' 'unsafe-inline'",
      "img-src 'self' data:",
      "font-src 'self'",
      "connect-src 'self'",
      "object-src 'none'",
      "base-uri 'none'",
      "form-action 'self'",
      "frame-ancestors 'none'",
    ].join('; '),
    'Cross-Origin-Opener-Policy': 'same-origin',
    'Permissions-Policy': 'camera=(), geolocation=(), microphone=()',
    // Nothing leaves for elsewhere; a form of ours posted without scripts still carries its Origin.
    'Referrer-Policy': 'same-origin',
    'X-Content-Type-Options': 'nosniff',
    'X-Frame-Options': 'DENY',
    ...(config().PUBLIC_URL.startsWith('https:') && { 'Strict-Transport-Security': 'max-age=31536000' }),
  });
  next();
};

/** What goes with a file that was built (a script, a worker, a typeface): a worker is held by the policy it comes with. */
export const headersOfFiles: RequestHandler = (_req, res, next) => {
  res.set({ 'Content-Security-Policy': "default-src 'self'; frame-ancestors 'none'", 'X-Content-Type-Options': 'nosniff' });
  next();
};

/** A write must come from our own pages: its Origin is ours, or, where a browser sends none, its Sec-Fetch-Site says so. */
export const sameOrigin: RequestHandler = (req, res, next) => {
  if (req.method === 'GET' || req.method === 'HEAD') return next();
  const { origin } = req.headers;
  const ours = origin === undefined ? req.headers['sec-fetch-site'] === 'same-origin' : origin === new URL(config().PUBLIC_URL).origin;
  if (ours) return next();
  res.status(403).type('text/plain').send('This change did not come from a page of Nessmoor, so nothing was done.');
};

/** An address has to be UTF-8, without what no text of ours can keep: nothing behind this looks again. */
export const readableAddress: RequestHandler = (req, res, next) => {
  let readable: boolean;
  try {
    readable = unkeepableIn(decodeURIComponent(req.url.replaceAll('+', ' '))) === undefined && !/[\r\n]/.test(decodeURIComponent(req.path));
  } catch {
    readable = false;
  }
  if (readable) return next();
  res.status(400).type('text/plain').send('This address holds characters that no address of Nessmoor has. Nothing was changed.');
};
