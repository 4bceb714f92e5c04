import { randomUUID } from 'node:crypto';
import { createRequestHandler } from '@react-router/express';
import compression from 'compression';
import express, { type ErrorRequestHandler } from 'express';
import staticGzip from 'express-static-gzip';
import { RouterContextProvider } from 'react-router';
import * as build from 'virtual:react-router/server-build';
import { viewerOf } from '../auth/viewer.ts';
import { useSettings } from '../config.ts';
import { connections, disconnect } from '../db/database.ts';
import { log } from '../log.ts';
import { visitContext } from './context.ts';
import { callBack } from './call-back.ts';
import { readSession } from './cookie.ts';
import { headers, headersOfFiles, readableAddress, sameOrigin } from './guard.ts';
import { mailIn } from '../mail/listener.ts';
import { causeWords } from '../set-aside/put-aside.ts';
import { stackOf } from './errors.ts';
import { endLive, live } from '../live/route.ts';
import { watch } from '../watchdog.ts';

/** A web process, started by `server/web.ts`. It keeps no state; any number may run behind one address. */
const settings = useSettings(process.env);
const app = express();
app.disable('x-powered-by');
// Whose X-Forwarded-For is believed: nobody's, unless the configuration names them.
const proxies = settings.TRUSTED_PROXIES.split(',')
  .map((p) => p.trim())
  .filter(Boolean);
app.set('trust proxy', proxies.length ? proxies : false);
app.use(readableAddress);
// Files are packed when they are built, pages as they go out.
const packed = { enableBrotli: true, orderPreference: ['br', 'gz'], index: false as const };
// They stand before all that pages need, so that each of the fifty of a page is small.
app.use('/assets', headersOfFiles, staticGzip('build/client/assets', { ...packed, serveStatic: { immutable: true, maxAge: '1y' } }));
app.use('/assets', (_req, res) => void res.status(404).type('text/plain').send('There is no such file.'));
app.use((_req, res, next) => {
  const visit = randomUUID().slice(0, 8);
  res.locals['visit'] = visit;
  // The answer says what names it (W3C Server Timing), so that a page that fails can be asked about.
  res.set('Server-Timing', `visit;desc="${visit}"`);
  next();
});
app.use(headers);
app.get('/favicon.ico', (_req, res) => res.redirect(301, '/mark.svg'));
// Alive: this process answers. Ready: it can do its work, so a balancer may send people here.
app.get('/livez', (_req, res) => void res.set('Cache-Control', 'no-store').json({ alive: true }));
app.get(['/healthz', '/readyz'], async (_req, res) => {
  const up = await connections()
    .query('select 1')
    .then(
      () => true,
      () => false,
    );
  res
    .set('Cache-Control', 'no-store')
    .status(up ? 200 : 503)
    .json({ database: up });
});
// No page of ours has an ending, and none is looked for on the disk.
const files = staticGzip('build/client', { ...packed, serveStatic: { maxAge: '1h' } });
app.use((req, res, next) => (/\.(?!data$)[a-z0-9]+$/.test(req.path) ? files(req, res, next) : next()));
app.use(compression());
// Everything but files of ours is somebody's data: no cache on the way keeps it.
app.use((_req, res, next) => {
  res.set('Cache-Control', 'no-store');
  next();
});
app.use((req, res, next) => {
  const began = performance.now();
  res.on('finish', () =>
    log.info(
      {
        visit: res.locals['visit'] as string,
        method: req.method,
        path: req.path.replace(/\/desk\/decide\/[^/.]+/, '/desk/decide/…'),
        status: res.statusCode,
        ms: Math.round(performance.now() - began),
      },
      'answered',
    ),
  );
  next();
});
app.post('/api/v1/calls/:call/answer', callBack);
app.use(sameOrigin);
app.get('/live', live);
app.use(
  createRequestHandler({
    build,
    getLoadContext: async (req, res) => {
      const context = new RouterContextProvider();
      const cookie = await readSession(req.headers.cookie);
      context.set(visitContext, {
        id: res.locals['visit'] as string,
        viewer: await viewerOf(cookie),
        cookie,
        address: req.ip ?? '',
        agent: req.headers['user-agent'] ?? '',
        nonce: res.locals['nonce'] as string,
      });
      return context;
    },
  }),
);
const failed: ErrorRequestHandler = (error, _req, res, next) => {
  if (res.headersSent) return next(error);
  const visit = res.locals['visit'] as string;
  log.error({ visit, error: causeWords(error), stack: stackOf(error) }, 'unexpected');
  // What the reader of a body refuses (too long, cut off) is the sender's to mend.
  const { status } = error as { status?: unknown };
  if (typeof status === 'number' && status >= 400 && status < 500)
    return void res.status(status).type('text/plain').send('This cannot be read. Nothing was changed.');
  res.status(500).type('text/plain').send(`Something unexpected went wrong. Nothing was changed. Quote this number: ${visit}`);
};
app.use(failed);

watch('web');
const replies = mailIn();
const server = app.listen(settings.PORT, '127.0.0.1', (error) => {
  if (error) {
    log.fatal({ error: error.message }, 'the web process cannot listen');
    process.exit(1);
  }
});
// A request that dribbles in does not hold a connection for ever.
server.headersTimeout = 20_000;
server.requestTimeout = 60_000;
// Longer than browsers and proxies keep one: who closes first may do so just as the other sends, and a post that was cut off is not sent again.
server.keepAliveTimeout = 75_000;
for (const signal of ['SIGTERM', 'SIGINT'] as const) {
  process.on(signal, () => {
    replies?.close(() => undefined);
    endLive();
    server.close(() => void disconnect().then(() => process.exit(0)));
    // A connection whose request ends now would be kept for the next one, and the process with it.
    setInterval(() => server.closeIdleConnections(), 100).unref();
    setTimeout(() => server.closeAllConnections(), 8000).unref();
  });
}
