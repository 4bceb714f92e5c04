import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import type { Answers } from '../../core/forms/index.ts';
import { formattedSource, isEmpty, isFormattedText, typedAs, type Value } from '../../core/values/index.ts';
import type { ticketFor } from '../../server/tickets/queries.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { FormattedControl } from '~/ui/formatted-control';
import { FormFields } from '~/ui/form-fields';
import type { Chosen } from '~/ui/picker';
import { Select } from '~/ui/select';
import { WordFiles } from '~/conversation/word-files';

type Ticket = NonNullable<Awaited<ReturnType<typeof ticketFor>>>;
type Move = Ticket['moves'][number];

/** What the acts of a move are called on their buttons. */
const actOf = (m: Move): string =>
  m.gated ? `Ask to move it to “${m.to.name}”` : m.to.clock === 'holds' ? 'Ask and hold' : m.to.clock === 'ends' ? m.to.name : `To “${m.to.name}”`;

/** One box to write in: to the requester, within the desk, or with where it goes. What was written is kept on error. */
export function WriteBox({
  t,
  once,
  sent,
  failed,
  onWriting,
}: {
  t: Ticket;
  once: string;
  /** Whether something stands in the box. */
  onWriting: (writes: boolean) => void;
  /** The key of what was sent last. */
  sent: string;
  failed:
    | { refusal: { sentence: string; problems?: { field: string; sentence: string }[] }; words: string; filled?: Answers; files?: Chosen[] }
    | undefined;
}) {
  // A page that is read anew while somebody writes must not make another sending of it.
  // Once something was sent the page has the key of that still, for the moment until it is read anew.
  const [sending] = useState(sent === once ? `${once}~` : once);
  const [words, setWords] = useState<Value>(() => formattedIn(failed?.words ?? ''));
  /** The editor begins anew with what was put in from elsewhere. */
  const [begun, setBegun] = useState(0);
  const [move, setMove] = useState('');
  const [filled, setFilled] = useState<Answers>({ ...(t.filled as Answers), ...failed?.filled });
  const [files, setFiles] = useState<Chosen[]>(failed?.files ?? []);
  const putIn = (ready: string) => {
    const before = isFormattedText(words) ? formattedSource(words) : '';
    setWords(formattedIn([before, ready].filter(Boolean).join('\n\n')));
    setBegun(begun + 1);
    onWriting(true);
  };
  const busy = useNavigation().formMethod === 'POST';
  const problems = Object.fromEntries((failed?.refusal.problems ?? []).map((p) => [p.field, p.sentence]));
  const chosen = t.moves.find((m) => m.to.id === move);
  const needed = new Set(t.moves.flatMap((m) => (chosen === undefined || m === chosen ? m.needs : [])));
  const fields = t.fields.filter((f) => needed.has(f.id));
  const quick = [t.moves.find((m) => m.to.clock === 'holds'), t.moves.find((m) => m.to.clock === 'ends')].filter((m) => m !== undefined);
  const others = t.moves.filter((m) => !quick.includes(m));
  const firstName = t.requester.split(' ')[0]!;
  return (
    <Form method="post" encType="multipart/form-data" noValidate className="border-t py-3">
      <input type="hidden" name="once" value={sending} />
      <input type="hidden" name="from" value={t.status.id} />
      <Labelled label={`Write to ${firstName}`} problem={problems['words']}>
        {(ids) => (
          <FormattedControl
            key={begun}
            {...ids}
            name="words"
            label={`Write to ${firstName}`}
            required={false}
            value={words}
            onChange={(next) => {
              setWords(next);
              onWriting(!isEmpty(next));
            }}
          />
        )}
      </Labelled>
      <WordFiles files={files} problem={problems['file']} onChange={setFiles} />
      {t.replies.length > 0 && (
        <div className="mt-2 max-w-64">
          <Select aria-label="Ready words" value="" onValue={(name) => putIn(t.replies.find((r) => r.name === name)?.words ?? '')}>
            <option value="">Ready words …</option>
            {t.replies.map((r) => (
              <option key={r.name} value={r.name}>
                {r.name}
              </option>
            ))}
          </Select>
        </div>
      )}
      {fields.length > 0 && (
        <div className="mt-3 border-l-2 border-sea pl-3">
          <FormFields
            form={{ fields }}
            answers={filled}
            names={{}}
            problems={problems}
            onChange={(id, value) => setFilled((f) => ({ ...f, [id]: value }))}
          />
        </div>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <Button type="submit" name="act" value="send" weight="main" disabled={busy}>
          Send
        </Button>
        {quick.map((m) => (
          <Button key={m.to.id} type="submit" name="move" value={m.to.id} disabled={busy}>
            {actOf(m)}
          </Button>
        ))}
        <Button type="submit" name="act" value="note" disabled={busy}>
          Note for the desk
        </Button>
      </div>
      {others.length > 0 && (
        <div className="mt-3 flex flex-wrap items-center gap-2">
          <span className="w-56">
            <Select aria-label="Move it to" value={move} onValue={setMove}>
              <option value="">Move it to …</option>
              {others.map((m) => (
                <option key={m.to.id} value={m.to.id}>
                  {m.to.name}
                  {m.reopens ? ' (reopens it)' : ''}
                  {m.gated ? ' (once it is agreed to)' : ''}
                </option>
              ))}
            </Select>
          </span>
          {chosen && (
            <Button type="submit" name="move" value={chosen.to.id} disabled={busy}>
              {chosen.gated
                ? !isEmpty(words)
                  ? `Send, and ask to move it to “${chosen.to.name}”`
                  : actOf(chosen)
                : !isEmpty(words)
                  ? `Send, and move it to “${chosen.to.name}”`
                  : `Move it to “${chosen.to.name}”`}
            </Button>
          )}
        </div>
      )}
    </Form>
  );
}

/** CommonMark as the editor shows it. */
const formattedIn = (source: string): Value => typedAs(source, 'formatted') ?? null;
