import { PassThrough } from 'node:stream';
import { createReadableStreamFromReadable } from '@react-router/node';
import { isbot } from 'isbot';
import { renderToPipeableStream } from 'react-dom/server';
import { ServerRouter, type EntryContext, type RouterContextProvider } from 'react-router';
import { visitContext } from '../server/http/context.ts';
import { stackOf } from '../server/http/errors.ts';
import { log } from '../server/log.ts';
import { causeWords } from '../server/set-aside/put-aside.ts';
import { NonceContext } from './ui/nonce';
import { VisitContext } from './ui/visit';

const timeoutMs = 10_000;

export default function handle(
  request: Request,
  status: number,
  headers: Headers,
  routes: EntryContext,
  context: RouterContextProvider,
): Promise<Response> {
  const { nonce, id } = context.get(visitContext);
  return new Promise((done, failed) => {
    let sent = false;
    const whole = isbot(request.headers.get('user-agent') ?? '') || routes.isSpaMode;
    const { pipe, abort } = renderToPipeableStream(
      <NonceContext value={nonce}>
        <VisitContext value={id}>
          <ServerRouter context={routes} url={request.url} nonce={nonce} />
        </VisitContext>
      </NonceContext>,
      {
        nonce,
        [whole ? 'onAllReady' : 'onShellReady']() {
          sent = true;
          const body = new PassThrough();
          headers.set('Content-Type', 'text/html; charset=utf-8');
          done(new Response(createReadableStreamFromReadable(body), { headers, status }));
          pipe(body);
        },
        onShellError: failed,
        onError(error: unknown) {
          if (sent) log.error({ visit: id, error: causeWords(error) }, 'rendering failed');
        },
      },
    );
    setTimeout(abort, timeoutMs).unref();
  });
}

export function handleError(error: unknown, { request, context }: { request: Request; context: Readonly<RouterContextProvider> }): void {
  if (request.signal.aborted) return;
  log.error(
    {
      visit: context.get(visitContext).id,
      error: causeWords(error),
      stack: stackOf(error),
      path: new URL(request.url).pathname.replace(/decide\/[^/.]+/, 'decide/…'),
    },
    'a loader or action failed',
  );
}
