import { piecesOf } from '../../server/files/keep.ts';
import { fileFor } from '../../server/files/queries.ts';
import { attached } from './attached.server';
import { orNotFound, signedIn } from './session.server';
import type { Route } from './+types/file';

/** What is in a file, to be saved: it is never shown as a page of ours. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const file = orNotFound(await fileFor(signedIn(context, request), params.id), 'This file');
  const pieces = piecesOf(file.id);
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { value, done } = await pieces.next();
      if (done) controller.close();
      else controller.enqueue(value);
    },
    cancel: () => void pieces.return(undefined),
  });
  return new Response(body, {
    headers: {
      'content-type': file.type,
      'content-length': String(file.size),
      'content-disposition': attached(file.name),
      'content-security-policy': "default-src 'none'; sandbox",
    },
  });
}
