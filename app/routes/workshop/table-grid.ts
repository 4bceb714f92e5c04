import { z } from 'zod';
import { mostEdits } from '../../../core/tables/index.ts';
import { bringRowsBack, takeRowsOff } from '../../../server/tables/commands.ts';
import { changeCells, gridOf } from '../../../server/tables/grid.ts';
import { isId, orNotFound, postedJson, signedIn } from '../session.server';
import type { Route } from './+types/table-grid';

/** Larger than five thousand rows of long texts. */
const largest = 20_000_000;
const key = z.string().max(300);
const Change = z.union([
  z.object({
    edits: z
      .array(
        z.object({
          id: z.string().max(320),
          row: z.object({ key, version: z.number().int() }).optional(),
          texts: z.record(z.string().max(40), z.string().max(20_000)),
        }),
      )
      .max(mostEdits),
    take: z.enum(['rest', 'all']),
  }),
  z.object({ off: z.array(key).max(1000) }),
  z.object({ back: z.array(key).max(1000) }),
]);

/** Every row of a table, for its grid. */
export async function loader({ context, request, params }: Route.LoaderArgs) {
  return Response.json(orNotFound(isId(params.id) ? await gridOf(signedIn(context, request), params.id) : undefined, 'This table'));
}

/** What was typed into cells, or rows that are taken off or brought back. */
export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const posted = Change.safeParse(await postedJson(request, largest));
  if (!posted.success)
    return Response.json({ ok: false, code: 'invalid', sentence: 'What was typed did not arrive whole; nothing was changed.' }, { status: 400 });
  const change = posted.data;
  const table = params.id;
  const result =
    'edits' in change
      ? await changeCells(viewer, { table, ...change })
      : 'off' in change
        ? await takeRowsOff(viewer, { table, keys: change.off })
        : await bringRowsBack(viewer, { table, keys: change.back });
  return Response.json(result, { status: result.ok ? 200 : result.code === 'not-found' ? 404 : result.code === 'not-allowed' ? 403 : 409 });
}
