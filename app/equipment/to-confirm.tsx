import { Form, useNavigation } from 'react-router';
import { NotReceived } from '../../core/posts/index.ts';
import type { toConfirm } from '../../server/equipment/queries.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { StateMark } from '~/ui/state-mark';
import { Time } from '~/ui/time';

type Handed = Awaited<ReturnType<typeof toConfirm>>[number];

/** What was handed over to one, and one has not said that one has it. */
export function ToConfirm({ handed, outcome }: { handed: Handed[]; outcome: { of: string; refusal?: Refusal } | undefined }) {
  if (handed.length === 0) return null;
  return (
    <section aria-label="Handed over to you" className="mb-6">
      <h2 className="mb-1 font-medium">Handed over to you</h2>
      <ul className="border-t">
        {handed.map((h) => (
          <One key={`${h.id} ${h.denied}`} handed={h} refusal={outcome?.of === h.id ? outcome.refusal : undefined} />
        ))}
      </ul>
    </section>
  );
}

function One({ handed: h, refusal }: { handed: Handed; refusal: Refusal | undefined }) {
  const post = usePost(NotReceived, { refusal });
  const busy = useNavigation().state !== 'idle';
  return (
    <li aria-label={h.what} className="space-y-2 border-b py-3">
      <p className="flex items-start gap-2">
        <span className="mt-0.5">
          <StateMark kind={h.denied ? 'failed' : 'half'} size={14} />
        </span>
        <span className="min-w-0 break-words">
          <span className="font-medium">{h.what}</span>
          {h.by && ` by ${h.by}`}, <Time at={h.at} />
          {h.denied && <span className="block text-sm text-coral">You said that you have it not. Whoever keeps the stock looks after it.</span>}
        </span>
      </p>
      <Form method="post">
        <input type="hidden" name="issue" value={h.id} />
        <Button type="submit" name="act" value="receive" weight="main" disabled={busy}>
          I have it<span className="sr-only"> ({h.what})</span>
        </Button>
      </Form>
      {!h.denied && (
        <details className="text-sm" open={refusal !== undefined || undefined}>
          <summary className="cursor-pointer py-0.5 text-sea">
            I do not have it<span className="sr-only"> ({h.what})</span> …
          </summary>
          <Form method="post" {...post.form} className="mt-1 max-w-xl space-y-2">
            <Refused sentence={post.sentence} />
            <input type="hidden" name="issue" value={h.id} />
            <Labelled label="What happened" required problem={post.problem('why')}>
              {(ids) => <input {...ids} name="why" className="input" maxLength={300} autoComplete="off" />}
            </Labelled>
            <Button type="submit" name="act" value="notReceived" disabled={busy}>
              Tell whoever keeps the stock
            </Button>
          </Form>
        </details>
      )}
    </li>
  );
}
