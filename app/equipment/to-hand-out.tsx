import { Form, useNavigation } from 'react-router';
import { dateWords } from '../../core/calendar/index.ts';
import { HandPiece } from '../../core/posts/index.ts';
import type { IssueLine } from '../../server/equipment/queries.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';

/** What was posted about one line and refused. */
export interface LineOutcome {
  of: string;
  act: string;
  refusal?: Refusal;
  typed?: Record<string, string>;
}

/** Whom something is for, where they want it, and by which request. */
export function ForWhom({ line }: { line: IssueLine }) {
  return (
    <p className="text-sm text-faint">
      {line.number !== null && <span className="numbers">R-{line.number}, </span>}
      <span className="numbers">{line.name}</span>
      {line.wantedAt && `, wanted at ${line.wantedAt}`}
      {line.until && (
        <>
          , until <span className="numbers">{dateWords(line.until)}</span>
        </>
      )}
    </p>
  );
}

/** A piece that is set aside for somebody: picked, then handed over by what stands on it. */
export function ToHandOut({ line, outcome }: { line: IssueLine; outcome: LineOutcome | undefined }) {
  const post = usePost(HandPiece, { refusal: outcome?.refusal });
  const busy = useNavigation().state !== 'idle';
  return (
    <li aria-label={`${line.kind} for ${line.who}`} className="grid gap-x-6 gap-y-2 border-b py-3 lg:grid-cols-[minmax(0,1fr)_minmax(0,26rem)]">
      <div className="min-w-0">
        <p className="flex items-start gap-2">
          <span className="mt-0.5">
            <StateMark kind={line.ready ? 'half' : 'empty'} size={14} />
          </span>
          <span className="min-w-0 break-words">
            <span className="font-medium">
              {line.kind}
              {line.mark && <span className="numbers"> {line.mark}</span>}
            </span>{' '}
            for {line.who}
            {line.job && <span className="text-faint">, {line.job}</span>}
          </span>
        </p>
        <p className="text-sm">
          {line.ready ? 'Ready to be fetched at' : 'To be picked at'} {line.place}, since <Time at={line.since} />
        </p>
        <ForWhom line={line} />
      </div>
      <Form method="post" {...post.form} className="min-w-0 space-y-2">
        <Refused sentence={post.sentence} />
        <input type="hidden" name="issue" value={line.id} />
        {line.marked && (
          <Labelled label="Serial number on it" help="Scan or type it; another free one may be taken." problem={post.problem('mark')}>
            {(ids) => (
              <input {...ids} name="mark" className="numbers input" maxLength={80} autoComplete="off" defaultValue={outcome?.typed?.['mark']} />
            )}
          </Labelled>
        )}
        <div className="flex flex-wrap gap-2">
          <Button type="submit" name="act" value="hand" weight="main" disabled={busy}>
            Hand over to {line.who}
          </Button>
          {!line.ready && (
            // Nothing of the form is wanted for that.
            <Button type="submit" name="act" value="pick" disabled={busy}>
              It stands ready
              <span className="sr-only">
                {' '}
                ({line.kind} for {line.who})
              </span>
            </Button>
          )}
        </div>
      </Form>
    </li>
  );
}
