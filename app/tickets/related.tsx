import { useState } from 'react';
import { Form, Link, useNavigation } from 'react-router';
import type { ticketFor } from '../../server/tickets/queries.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Picker, type Chosen } from '~/ui/picker';
import { Select } from '~/ui/select';

type Ticket = NonNullable<Awaited<ReturnType<typeof ticketFor>>>;
interface Failed {
  act: string;
  refusal: { sentence: string; problems?: { field: string; sentence: string }[] };
  other?: string;
  subject?: string;
  words: string;
}

/** What a ticket has to do with others, and what may follow from it. */
export function Related({ t, once, failed }: { t: Ticket; once: string; failed: Failed | undefined }) {
  const busy = useNavigation().formMethod === 'POST';
  const problem = (act: string, field: string) =>
    failed?.act === act ? failed.refusal.problems?.find((p) => p.field === field)?.sentence : undefined;
  const known = t.related.length + t.joined.here.length > 0;
  if (!known && !t.acts) return null;
  return (
    <section aria-label="What it has to do with" className="border-t py-3">
      {t.joined.here.map((j) => (
        <Line key={j.number} number={`T-${j.number}`} to={`/desk/queue/tickets/${j.number}`} name={j.subject}>
          went into this one · {j.requester}
          {t.acts && (
            <Form method="post" className="inline">
              <input type="hidden" name="other" value={`T-${j.number}`} />
              <Button type="submit" name="act" value="part" weight="quiet" disabled={busy}>
                Take it out<span className="sr-only"> again: T-{j.number}</span>
              </Button>
            </Form>
          )}
        </Line>
      ))}
      {t.related.map((r) => (
        <Line key={`${r.number} ${r.how}`} number={r.number} to={r.to} name={r.name}>
          {r.how} · {r.state}
          {r.like && t.acts && (
            <Form method="post" className="inline">
              <input type="hidden" name="other" value={r.number} />
              <Button type="submit" name="act" value="unlink" weight="quiet" disabled={busy}>
                Unlink<span className="sr-only"> {r.number}</span>
              </Button>
            </Form>
          )}
        </Line>
      ))}
      {t.acts && t.like.length > 0 && (
        <Form method="post" className={known ? 'mt-2' : undefined}>
          <p className="text-sm text-faint">Open, and in like words:</p>
          <ul>
            {t.like.map((l) => (
              <li key={l.number} className="flex min-w-0 items-baseline gap-2">
                <Link to={`/desk/queue/tickets/${l.number}`} className="min-w-0 truncate hover:text-sea">
                  <span className="numbers text-sm">T-{l.number}</span> {l.subject}
                </Link>
                <Button type="submit" name="join" value={`T-${l.number}`} weight="quiet" disabled={busy}>
                  Join with it<span className="sr-only">: T-{l.number}</span>
                </Button>
              </li>
            ))}
          </ul>
        </Form>
      )}
      {t.acts && (
        <details className="mt-2" open={failed !== undefined && ['join', 'link', 'split'].includes(failed.act)}>
          <summary className="cursor-pointer text-sea">Join, link, split, or begin something from here</summary>
          <Form method="post" className="mt-3 flex max-w-lg flex-wrap items-end gap-2">
            <Labelled label="Number of another" problem={problem('join', 'other') ?? problem('link', 'other')}>
              {(ids) => <input {...ids} name="other" className="input w-36" maxLength={20} placeholder="T-1042" defaultValue={failed?.other} />}
            </Labelled>
            <Button type="submit" name="act" value="join" disabled={busy}>
              Join this into it
            </Button>
            <Button type="submit" name="act" value="link" disabled={busy}>
              Link with it
            </Button>
          </Form>
          <Form method="post" className="mt-4 max-w-lg space-y-3">
            <input type="hidden" name="once" value={once} />
            <Labelled
              label="Another matter in it"
              help="Becomes a ticket of its own of the same requester, who is told."
              problem={problem('split', 'subject')}
            >
              {(ids) => <input {...ids} name="subject" className="input" maxLength={120} defaultValue={failed?.subject} />}
            </Labelled>
            <Labelled label="What was said of it" problem={problem('split', 'words')}>
              {(ids) => (
                <Select
                  {...ids}
                  name="word"
                  defaultValue={t.words.findLast((w) => w.of === t.number && w.from === 'requester' && !w.inside)?.id ?? ''}
                >
                  <option value="">As I say it below</option>
                  {t.words
                    .filter((w) => w.of === t.number && !w.inside)
                    .map((w) => (
                      <option key={w.id} value={w.id}>
                        {`${w.by ?? 'The desk'}: ${w.text.slice(0, 60)}`}
                      </option>
                    ))}
                </Select>
              )}
            </Labelled>
            <Labelled label="In my words">
              {(ids) => (
                <textarea
                  {...ids}
                  name="words"
                  rows={2}
                  className="input"
                  maxLength={8000}
                  defaultValue={failed?.act === 'split' ? failed.words : ''}
                />
              )}
            </Labelled>
            <Button type="submit" name="act" value="split" disabled={busy}>
              Split it off
            </Button>
          </Form>
          <Begin t={t} />
        </details>
      )}
    </section>
  );
}

function Line({ number, to, name, children }: { number: string; to: string; name: string; children: React.ReactNode }) {
  return (
    <p className="flex min-w-0 flex-wrap items-baseline gap-x-2">
      <Link to={to} className="min-w-0 truncate hover:text-sea">
        <span className="numbers text-sm">{number}</span> {name}
      </Link>
      <span className="text-sm text-faint">{children}</span>
    </p>
  );
}

/** Something from the catalog, for whoever asked where the item lets the desk ask for them. */
function Begin({ t }: { t: Ticket }) {
  const [item, setItem] = useState<Chosen>();
  return (
    <Form method="get" action={item ? `/counter/ask/${item.id}` : '/counter'} className="mt-4 flex max-w-lg flex-wrap items-end gap-2">
      <input type="hidden" name="ticket" value={t.number} />
      <Labelled label="Something from the catalog">{(ids) => <Picker {...ids} kind="item" chosen={item} onChoose={setItem} />}</Labelled>
      <Button type="submit" disabled={!item}>
        Begin it from here
      </Button>
    </Form>
  );
}
