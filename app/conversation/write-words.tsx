import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import { listWords, typedAs, type Value } from '../../core/values/index.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { FormattedControl } from '~/ui/formatted-control';
import type { Chosen } from '~/ui/picker';
import { StateMark } from '~/ui/state-mark';
import { WordFiles } from './word-files';

/** What was refused of a word, and what was written. */
export interface WordRefused {
  refusal: { sentence: string; problems?: { field: string; sentence: string }[] };
  words: string;
  files?: Chosen[];
}

/** That people at these systems read it as well, within a sentence. */
export const alsoRead = (systems: string[]): string =>
  systems.length > 0 ? `, and ${listWords(systems)} ${systems.length === 1 ? 'reads' : 'read'} it as well` : '';

/** Where somebody writes about a request: posted as `act` write or note, with `words`, `once` and `file`. */
export function WriteWords({
  label,
  help,
  once,
  sent,
  failed,
  fromDesk = false,
  files: takesFiles = true,
}: {
  label: string;
  help: string;
  once: string;
  /** The key of what was sent last; whoever shows this makes it anew by that, so that it is empty again. */
  sent: string;
  failed: WordRefused | undefined;
  /** On a page that says itself that it was sent: formatted as one writes, and with a way to write within the desk. */
  fromDesk?: boolean;
  files?: boolean;
}) {
  // A page that is read anew while somebody writes must not make another sending of it; for the moment until it is, it has the key of what was sent.
  const [sending] = useState(sent === once ? `${once}~` : once);
  const [files, setFiles] = useState<Chosen[]>(failed?.files ?? []);
  const [words, setWords] = useState<Value>(() => typedAs(failed?.words ?? '', 'formatted') ?? null);
  const busy = useNavigation().formMethod === 'POST';
  const problemAt = (field: string) => failed?.refusal.problems?.find((p) => p.field === field)?.sentence;
  const problem = problemAt('words') ?? (failed?.refusal.problems ? undefined : failed?.refusal.sentence);
  return (
    <Form method="post" {...(takesFiles && { encType: 'multipart/form-data' as const })} noValidate className="mt-3">
      <input type="hidden" name="once" value={sending} />
      {sent !== '' && !fromDesk && (
        <p role="status" className="mb-3 flex items-center gap-2 text-moss">
          <StateMark kind="done" size={12} /> Sent.
        </p>
      )}
      <Labelled label={label} help={help} problem={problem}>
        {(ids) =>
          fromDesk ? (
            <FormattedControl {...ids} name="words" label={label} required={false} value={words} onChange={setWords} />
          ) : (
            <textarea {...ids} name="words" rows={3} className="input" maxLength={8000} defaultValue={failed?.words} />
          )
        }
      </Labelled>
      {takesFiles && <WordFiles files={files} problem={problemAt('file')} onChange={setFiles} />}
      <div className="mt-3 flex flex-wrap gap-3">
        <Button type="submit" name="act" value="write" disabled={busy}>
          Send
        </Button>
        {fromDesk && (
          <Button type="submit" name="act" value="note" disabled={busy}>
            Note for the desk
          </Button>
        )}
      </div>
    </Form>
  );
}
