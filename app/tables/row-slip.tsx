import { useState } from 'react';
import { Form, Link, useNavigation } from 'react-router';
import { keyWords, type TableDefinition } from '../../core/tables/index.ts';
import { valueWords, type Value } from '../../core/values/index.ts';
import { AnswerControl } from '~/ui/answer-control';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import { changeWords } from './change-words';

interface Change {
  id: number;
  column: string | null;
  was: Value | null;
  now: Value | null;
  at: Date;
  by: string | null;
}
/** A row as its slip shows it; one that is not there yet has no version. */
export interface SlipRow {
  key: string;
  version: number | undefined;
  cells: Record<string, Value>;
  names: Record<string, string>;
  retired: boolean;
  changes: Change[];
  /** What followed on it, the latest first. */
  asked: { id: string; at: Date; state: 'open' | 'asked' | 'refused' | 'over'; request: number | null; why: string | null; by: string | null }[];
}

/** One row: its cells to be filled in, and what was changed in them before. */
export function RowSlip({
  definition,
  isRead,
  row,
  problems,
  refusal,
}: {
  definition: TableDefinition;
  /** Its cells are read from a system; nobody types into them. */
  isRead: boolean;
  row: SlipRow;
  problems: Record<string, string>;
  refusal: string | undefined;
}) {
  const [cells, setCells] = useState(row.cells);
  const [names, setNames] = useState(row.names);
  const busy = useNavigation().formMethod === 'POST';
  const isNew = row.version === undefined;
  const called = keyWords(definition, row.key, (_, id) => row.names[id]);
  // What a row was put in with, it was put in with; what is told cell by cell is what became of it.
  const putIn = new Set(row.changes.flatMap((c) => (c.column === null && c.now ? [c.at.getTime()] : [])));
  const changes = row.changes.filter((c) => c.column === null || c.was !== null || !putIn.has(c.at.getTime()));
  return (
    <section aria-label={isNew ? 'New row' : `Row ${called}`}>
      <h2 className="pr-10 font-serif text-xl">{isNew ? 'New row' : called}</h2>
      {row.retired && <p className="mt-1 text-faint">Taken off. What has picked it can still read it; nobody else is offered it.</p>}
      <div className="mt-3">
        <Refused sentence={refusal} />
      </div>
      {isRead ? (
        <Said definition={definition} row={row} />
      ) : (
        <Form method="post" preventScrollReset className="space-y-4">
          <input type="hidden" name="key" value={isNew ? '' : row.key} />
          <input type="hidden" name="version" value={row.version ?? ''} />
          {definition.columns.map((c) => (
            <Labelled
              key={c.id}
              label={c.label}
              required={c.required}
              problem={problems[c.id]}
              help={
                !isNew && definition.key.includes(c.id)
                  ? 'Part of the key: with another one it is another row, and this one is taken off.'
                  : undefined
              }
            >
              {(ids) => (
                <AnswerControl
                  field={c}
                  name={`f.${c.id}`}
                  ids={ids}
                  value={cells[c.id] ?? null}
                  names={names}
                  onChange={(value, chosen) => {
                    setCells({ ...cells, [c.id]: value });
                    if (chosen) setNames({ ...names, [chosen.id]: chosen.name });
                  }}
                />
              )}
            </Labelled>
          ))}
          <div className="flex flex-wrap gap-2 border-t pt-3">
            <Button type="submit" name="act" value="save" weight="main" disabled={busy}>
              {isNew ? 'Add the row' : row.retired ? 'Bring it back with these cells' : 'Save the row'}
            </Button>
            {!isNew &&
              (row.retired ? (
                <Button type="submit" name="act" value="back" disabled={busy}>
                  Bring it back as it was
                </Button>
              ) : (
                <Button type="submit" name="act" value="off" weight="decline" disabled={busy}>
                  Take it off the table
                </Button>
              ))}
          </div>
        </Form>
      )}
      {row.asked.length > 0 && (
        <>
          <h3 className="mt-6 mb-1 font-medium">What followed</h3>
          <ol aria-label="What followed">
            {row.asked.map((a) => (
              <li key={a.id} className="border-b py-1.5">
                {a.state === 'asked' ? (
                  <>
                    <Link to={`/ledger/${a.request}`} className="numbers text-sea underline underline-offset-4">
                      R-{a.request}
                    </Link>{' '}
                    was asked for{a.by && ` as ${a.by}`}
                  </>
                ) : a.state === 'refused' ? (
                  <span className="text-coral">Could not be asked for: {a.why}</span>
                ) : a.state === 'over' ? (
                  'Nothing: it said so no longer'
                ) : (
                  'Being asked for'
                )}
                <span className="block text-sm text-faint">
                  <Time at={a.at} />
                </span>
              </li>
            ))}
          </ol>
        </>
      )}
      {changes.length > 0 && (
        <>
          <h3 className="mt-6 mb-1 font-medium">What was changed</h3>
          <ol>
            {changes.map((c) => (
              <li key={c.id} className="border-b py-1.5">
                {changeWords(c, definition, names)}
                <span className="block text-sm text-faint">
                  <Time at={c.at} />
                  {c.by ? ` by ${c.by}` : ', as it was read'}
                </span>
              </li>
            ))}
          </ol>
        </>
      )}
    </section>
  );
}

/** What a row says that nobody types into. */
const Said = ({ definition, row }: { definition: TableDefinition; row: SlipRow }) => (
  <dl className="space-y-2">
    {definition.columns.map((c) => (
      <div key={c.id}>
        <dt className="text-sm text-faint">{c.label}</dt>
        <dd className="break-words whitespace-pre-line">
          {valueWords(row.cells[c.id] ?? null, (_, id) => row.names[id], c.options) || 'Nothing'}
          {c.unit && c.kind === 'number' && row.cells[c.id] !== undefined && ` ${c.unit}`}
        </dd>
      </div>
    ))}
  </dl>
);
