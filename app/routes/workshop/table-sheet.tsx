import { useState } from 'react';
import { data, Form, redirect, useLocation, useNavigation } from 'react-router';
import { previewOf } from '../../../core/tables/index.ts';
import { importSheet, readSheet } from '../../../server/tables/sheet.ts';
import { tableOf } from '../../../server/tables/queries.ts';
import { SheetPreview } from '~/tables/sheet-preview';
import { tableBase } from '~/tables/table-base';
import { TablePlace } from '~/tables/table-place';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Refused } from '~/ui/problem';
import { isId, orNotFound, posted, signedIn } from '../session.server';
import type { Route } from './+types/table-sheet';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

export const meta: Route.MetaFunction = ({ loaderData }) => [{ title: `${loaderData?.table.definition.name ?? 'Table'} · Workshop · Nessmoor` }];

/** What a sheet may hold at most, in bytes. */
const largest = 8_000_000;

export async function loader({ context, request, params }: Route.LoaderArgs) {
  return { table: orNotFound(isId(params.id) ? await tableOf(signedIn(context, request), params.id) : undefined, 'This table') };
}

export async function action({ context, request, params }: Route.ActionArgs) {
  const viewer = signedIn(context, request);
  const form = await posted(request, largest);
  orNotFound(isId(params.id) ? true : undefined, 'This table');
  const input = { table: params.id, text: form.get('sheet') };
  // Sent back for a page without scripts, which keeps nothing by itself; what is large it had from a file.
  const sheet = input.text.length < 200_000 ? input.text : '';
  if (form.get('act') === 'put') {
    const done = await importSheet(viewer, input);
    return done.ok
      ? redirect(tableBase(new URL(request.url).pathname, params.id))
      : data({ read: undefined, refusal: done.sentence, sheet }, { status: 422 });
  }
  const read = await readSheet(viewer, input);
  return read.ok
    ? data({ read: { ignored: read.ignored, kept: read.kept, plan: previewOf(read.plan, read.called) }, refusal: undefined, sheet })
    : data({ read: undefined, refusal: read.sentence, sheet }, { status: 422 });
}

/** A file of cells as text: UTF-8 or UTF-16 by its mark, else UTF-8, and where it is none the Western European code page. */
async function textOf(file: File): Promise<string> {
  const bytes = new Uint8Array(await file.arrayBuffer());
  const mark = `${bytes[0]} ${bytes[1]}`;
  if (mark === '255 254' || mark === '254 255') return new TextDecoder(mark === '255 254' ? 'utf-16le' : 'utf-16be').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

export default function TableSheet({ loaderData: { table }, actionData }: Route.ComponentProps) {
  const base = tableBase(useLocation().pathname, table.id);
  const [text, setText] = useState(actionData?.sheet ?? '');
  /** What was read stands for what stands in the box, and no longer than that. */
  const [readFor, setReadFor] = useState<string>();
  const navigation = useNavigation();
  const busy = navigation.formMethod === 'POST';
  const read = actionData?.read && (readFor === undefined || readFor === text) ? actionData.read : undefined;
  const some = (read?.plan.adds ?? 0) + (read?.plan.changes.many ?? 0);
  return (
    <TablePlace table={table} at="sheet">
      <div className="min-h-0 grow space-y-5 overflow-y-auto py-4">
        <Refused sentence={actionData?.refusal} />
        <p className="max-w-3xl">
          <a href={`${base}/sheet.csv`} className="text-sea underline underline-offset-4">
            Take the whole table as a CSV file
          </a>
          <span className="text-faint">
            {table.definition.from
              ? '. Its rows are read from a system, so nothing is put in here.'
              : '. It can be changed in a spreadsheet and put in again here.'}
          </span>
        </p>
        {!table.definition.from && (
          <Form method="post" className="max-w-3xl space-y-3" onSubmit={() => setReadFor(text)}>
            <Labelled
              label="Cells"
              required
              help={`The names of the columns stand in the first line: ${table.definition.columns.map((c) => c.label).join(', ')}. Rows that are not in it stay.`}
            >
              {(ids) => (
                <textarea
                  {...ids}
                  name="sheet"
                  rows={10}
                  className="input font-mono text-[13px]/[18px]"
                  spellCheck={false}
                  value={text}
                  onChange={(e) => setText(e.target.value)}
                />
              )}
            </Labelled>
            <Labelled label="Or a file" help="CSV, in UTF-8, UTF-16 or Western European; cells parted by commas, semicolons or tabs.">
              {(ids) => (
                <input
                  {...ids}
                  type="file"
                  accept=".csv,.tsv,.txt,text/csv"
                  className="file-input"
                  onChange={(e) => {
                    const [file] = e.target.files ?? [];
                    if (file) void textOf(file).then(setText);
                  }}
                />
              )}
            </Labelled>
            <div className="flex gap-2">
              <Button type="submit" name="act" value="read" disabled={busy} weight={read ? 'plain' : 'main'}>
                {busy ? 'Reading …' : 'Say what it would do'}
              </Button>
              {read && some > 0 && (
                <Button type="submit" name="act" value="put" weight="main" disabled={busy}>
                  {`Put in ${some.toLocaleString('en')} ${some === 1 ? 'row' : 'rows'}${read.plan.refused.many > 0 ? ', leave the others out' : ''}`}
                </Button>
              )}
            </div>
          </Form>
        )}
        {read && <SheetPreview definition={table.definition} {...read} />}
      </div>
    </TablePlace>
  );
}
