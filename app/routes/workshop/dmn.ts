import { dmnOf } from '../../../core/formats/index.ts';
import { routingOf } from '../../../server/routing/queries.ts';
import { dmnContext } from '~/routing/known';
import { attached } from '../attached.server';
import { orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/dmn';

/** A routing table as a DMN 1.3 file; one of which DMN knows no order says so. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const { definition, known } = orNotFound(await routingOf(signedIn(context, request), params.id), 'This table');
  const made = await dmnOf(definition, dmnContext(known));
  if (!made.ok) return new Response(made.sentence, { status: 422, headers: { 'content-type': 'text/plain; charset=utf-8' } });
  const file = `${definition.name.replace(/[^\p{L}\p{N}]+/gu, '-')}.dmn`;
  return new Response(made.xml, {
    headers: { 'content-type': 'application/xml; charset=utf-8', 'content-disposition': attached(file) },
  });
}
