import { writtenSheet } from '../../../server/tables/sheet.ts';
import { attached } from '../attached.server';
import { orNotFound, signedIn } from '../session.server';
import type { Route } from './+types/table-csv';

/** A reference table as a CSV file. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  const { name, text } = orNotFound(await writtenSheet(signedIn(context, request), params.id), 'This table');
  const file = `${name.replace(/[^\p{L}\p{N}]+/gu, '-')}.csv`;
  return new Response(text, {
    headers: {
      'content-type': 'text/csv; charset=utf-8; header=present',
      'content-disposition': attached(file),
    },
  });
}
