import { Form, useNavigation } from 'react-router';
import { dateWords } from '../../core/calendar/index.ts';
import { HandPiece } from '../../core/posts/index.ts';
import type { IssueLine } from '../../server/equipment/queries.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';
import { Line } from './line';

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
    <Line
      label={`${line.kind} for ${line.who}`}
      mark={line.ready ? 'half' : 'empty'}
      title={
        <>
          <span className="font-medium">{line.kind}</span>{' '}
          {line.mark && (
            <>
              <span className="numbers font-medium">{line.mark}</span>{' '}
            </>
          )}
          for {line.who}
          {line.job && <span className="text-faint">, {line.job}</span>}
        </>
      }
      known={
        <>
          <p className="text-sm">
            {line.ready ? 'Ready to be fetched at' : 'To be picked at'} {line.place}, since <Time at={line.since} />
          </p>
          <ForWhom line={line} />
        </>
      }
    >
      <Form method="post" {...post.form} className="space-y-2">
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
    </Line>
  );
}
