import { useState, type ReactNode } from 'react';
import { Form, useNavigation } from 'react-router';
import type { Answers } from '../../core/forms/index.ts';
import { Decision } from '../../core/posts/index.ts';
import type { approvalFor } from '../../server/approvals/queries.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Letters } from '~/letters/letters';
import { Meetings } from '~/meetings/meetings';
import { Conversation } from '~/conversation/conversation';
import { Button } from './button';
import { caseNumber } from './case-number';
import { Labelled } from './field';
import { FormFields } from './form-fields';
import { StateMark } from './state-mark';
import { usePost } from './post';
import { Refused } from './problem';
import { Said } from './said';
import { Time } from './time';

type Approval = NonNullable<Awaited<ReturnType<typeof approvalFor>>>;

/** Everything needed to decide, and the decision; the same at the Desk and behind a mail's link. */
export function ApprovalSheet({
  a,
  refusal,
  comment,
  write,
}: {
  a: Approval;
  refusal: Refusal | undefined;
  comment: string | undefined;
  /** Where they write to whoever asked, without deciding yet. */
  write?: ReactNode;
}) {
  const [corrected, setCorrected] = useState<Answers>({});
  const [learned, setLearned] = useState<Record<string, string>>({});
  const busy = useNavigation().formMethod === 'POST';
  const post = usePost(Decision, { refusal });
  const form = post.form.id;
  const { requester: r } = a;
  const whose = a.kind === 'ticket' ? 'Whose ticket' : 'Who asks';
  const person = [r.jobRole, r.department, r.place].filter(Boolean).join(', ');
  return (
    <article className="max-w-2xl min-w-0 bg-inherit">
      <p className="numbers text-sm text-faint">{caseNumber(a.kind, a.number)}</p>
      <h2 className="font-serif text-2xl">{a.item}</h2>
      <p className="mt-1 text-ochre">
        {a.gate}: {a.rule}
        {a.insteadOf && <> · you are asked in place of {a.insteadOf}</>}
        {a.status === 'waiting' && a.lapsesAt && (
          <>
            {' '}
            · lapses <Time at={a.lapsesAt} />
          </>
        )}
      </p>
      <div className="mt-4">
        <Refused sentence={post.sentence} />
      </div>
      {a.status !== 'waiting' && (
        <p className="mb-4 flex items-center gap-2 border-l-3 border-sea bg-sea-wash px-3 py-2">
          <StateMark kind={a.status === 'approved' ? 'done' : a.status === 'declined' ? 'declined' : 'empty'} />
          {a.status === 'released'
            ? 'Your answer is not needed any more.'
            : a.status === 'later'
              ? 'Your turn has not come yet.'
              : a.status === 'approved'
                ? 'You approved this.'
                : 'You declined this.'}
          {a.result && a.closedAt && (
            <span>
              {a.kind === 'ticket' ? 'It' : 'The request'} was {a.result === 'returned' ? 'sent back' : a.result}, <Time at={a.closedAt} />.
            </span>
          )}
        </p>
      )}
      <div className="grid gap-x-8 gap-y-6 border-y py-4 sm:grid-cols-2">
        <section aria-label="What is asked">
          <h3 className="mb-2 text-sm text-faint">What is asked</h3>
          <dl>
            {a.answers.map((x) => (
              <div key={x.label} className="mb-2">
                <dt className="text-sm text-faint">{x.label}</dt>
                <dd className="break-words whitespace-pre-wrap">
                  <Said {...x} />
                </dd>
              </div>
            ))}
          </dl>
          <Meetings meetings={a.meetings} level="h3" />
          <Letters letters={a.letters} level="h3" />
          {a.price && (a.price.totals.length > 0 || a.price.open.length > 0) && (
            <p className="mb-2">
              <span className="text-sm text-faint">Costs</span> <span className="numbers">{a.price.totals.join(', ') || 'nothing yet'}</span>
              {a.price.open.length > 0 && <span className="text-sm text-faint">, not counting {a.price.open.join(', ')}</span>}
            </p>
          )}
          {a.group && (
            <p className="text-sm">
              {a.group.name}: {a.group.purpose} <span className="numbers">{a.group.members}</span> {a.group.members === 1 ? 'member' : 'members'} now.
            </p>
          )}
        </section>
        <section aria-label={whose}>
          <h3 className="mb-2 text-sm text-faint">{whose}</h3>
          <p className="font-medium break-words">{r.name}</p>
          <p>{person}</p>
          <p className="text-sm break-all text-faint">{r.email}</p>
          <p className="mt-2 text-sm">Manager: {r.manager ?? 'none'}</p>
          {a.forWhom && <p className="font-medium">For {a.forWhom}</p>}
          <p className="text-sm">
            {a.kind === 'ticket' ? 'Reported' : 'Asked'} <Time at={a.openedAt} />
          </p>
          {a.kind === 'request' && <Holds a={a} />}
        </section>
      </div>
      {a.others.length > 0 && (
        <section aria-label="Others who were asked" className="border-b py-4">
          <h3 className="mb-1 text-sm text-faint">Also asked</h3>
          <ul>
            {a.others.map((o) => (
              <li key={o.name} className="flex flex-wrap items-center gap-2">
                <StateMark kind={o.status === 'approved' ? 'done' : o.status === 'declined' ? 'declined' : 'empty'} size={12} /> {o.name}:{' '}
                {{ waiting: 'has not answered', later: 'is asked after the others' }[o.status as string] ?? o.status}
                {o.comment && <span>“{o.comment}”</span>}
              </li>
            ))}
          </ul>
        </section>
      )}
      {(a.words.length > 0 || write) && (
        <section aria-label="What was said" className="border-b py-4">
          {a.words.length > 0 && <h3 className="mb-2 text-sm text-faint">What was said</h3>}
          <Conversation words={a.words} of={a.number} />
          {write}
        </section>
      )}
      {a.status === 'waiting' && (
        <Form method="post" {...post.form} className="py-4">
          {a.correctable.fields.length > 0 && (
            <details className="mb-4">
              <summary className="cursor-pointer text-sea">Correct before you decide: {a.correctable.fields.map((f) => f.label).join(', ')}</summary>
              <div className="mt-3 border-l-2 border-sea pl-3">
                <input type="hidden" name="corrects" value={a.correctable.fields.map((f) => f.id).join(' ')} />
                <FormFields
                  form={{ fields: a.correctable.fields.map((f) => ({ ...f, visibleWhen: undefined, held: undefined })) }}
                  answers={{ ...a.correctable.answers, ...corrected }}
                  names={{ ...a.correctable.names, ...learned }}
                  problems={Object.fromEntries((refusal?.problems ?? []).map((p) => [p.field, p.sentence]))}
                  onChange={(field, value, chosen) => {
                    setCorrected((c) => ({ ...c, [field]: value }));
                    if (chosen) setLearned((n) => ({ ...n, [chosen.id]: chosen.name }));
                  }}
                />
              </div>
            </details>
          )}
          <Labelled
            label="Comment"
            help={`${a.kind === 'ticket' ? 'The desk' : 'The requester'} reads it. Needed when you decline${a.sendBack ? ' or send it back' : ''}.`}
            problem={post.problem('comment')}
          >
            {(ids) => <textarea {...ids} name="comment" rows={3} className="input" defaultValue={comment} />}
          </Labelled>
        </Form>
      )}
      {a.status === 'waiting' && (
        // In sight however long what is asked is.
        <div className="sticky bottom-0 -mx-1 flex flex-wrap gap-3 border-t bg-inherit px-1 py-3">
          <Button type="submit" form={form} name="decision" value="approve" weight="main" disabled={busy} className="min-h-10 grow sm:grow-0">
            Approve for {shortName(r.name)}
          </Button>
          <Button type="submit" form={form} name="decision" value="decline" weight="decline" disabled={busy} className="min-h-10 grow sm:grow-0">
            Decline
          </Button>
          {a.sendBack && (
            <Button type="submit" form={form} name="decision" value="sendBack" disabled={busy} className="min-h-10 grow sm:grow-0">
              Send back to be corrected
            </Button>
          )}
        </div>
      )}
    </article>
  );
}

const shortName = (name: string) => (name.length > 28 ? `${name.slice(0, 27)}…` : name);

const Holds = ({ a }: { a: Approval }) => (
  <>
    <h3 className="mt-4 mb-1 text-sm text-faint">{a.forWhom ? `What ${a.forWhom} holds already` : 'What they hold already'}</h3>
    {a.holds.length === 0 ? (
      <p>No group access.</p>
    ) : (
      <ul>
        {a.holds.map((h) => (
          <li key={h.name + h.as}>
            {h.name} <span className="text-sm text-faint">({h.as})</span>
          </li>
        ))}
      </ul>
    )}
  </>
);
