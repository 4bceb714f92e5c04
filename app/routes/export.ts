import { DateTime } from 'luxon';
import { askedOf, isList } from '../../core/lists/index.ts';
import { evidenceFileName } from '../../server/evidence/naming.ts';
import { exports } from '../../server/lists/export.ts';
import { attached } from './attached.server';
import { orNotFound, signedIn } from './session.server';
import type { Route } from './+types/export';

/** A list as CSV, written as it is read. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const viewer = signedIn(context, request);
  const { list } = params;
  const asked = isList(list) ? askedOf(list, new URL(request.url).searchParams) : undefined;
  const lines = orNotFound(isList(list) && asked ? await exports[list](viewer, asked) : undefined, 'This list');
  const day = DateTime.now().setZone(viewer.zone).toISODate()!;
  const name = list === 'decisions' ? await evidenceFileName(asked!, day) : `${list}-${day}`;
  const body = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { value, done } = await lines.next();
      if (done) controller.close();
      else controller.enqueue(new TextEncoder().encode(value));
    },
    cancel: () => void lines.return(undefined),
  });
  return new Response(body, {
    headers: { 'content-type': 'text/csv; charset=utf-8; header=present', 'content-disposition': attached(`${name}.csv`) },
  });
}
