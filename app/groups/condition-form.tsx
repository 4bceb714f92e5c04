import { useEffect, useRef, useState } from 'react';
import { Form, useNavigate, useNavigation } from 'react-router';
import { KeepCondition, movingWords } from '../../core/groups/index.ts';
import type { AudienceLine } from '../../core/items/index.ts';
import type { GroupPage } from '../../server/groups/queries.ts';
import type { Refusal } from '../../server/refusal.ts';
import { PeopleLines } from '~/ask/people-lines';
import { Button, ButtonLink } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Time } from '~/ui/time';

/** How long a choice may rest before it is looked at whom it holds of, in milliseconds. */
const rest = 300;

/** Says who is in a group by itself; beside it, at once, who comes in and who goes out by that. */
export function ConditionForm({
  group,
  trying,
  refused,
}: {
  group: GroupPage;
  trying: boolean;
  refused: { refusal: Refusal; why: string } | undefined;
}) {
  const { kept, tried, comes, mayKeep } = group;
  const post = usePost(KeepCondition, { refusal: refused?.refusal });
  const busy = useNavigation().state !== 'idle';
  const navigate = useNavigate();
  const [lines, setLines] = useState<AudienceLine[]>(tried.length > 0 ? tried : [{}]);
  const [learned, setLearned] = useState<Record<string, string>>({});
  const waiting = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(waiting.current), []);
  const change = (next: AudienceLine[]) => {
    setLines(next);
    clearTimeout(waiting.current);
    const members = encodeURIComponent(JSON.stringify(next));
    waiting.current = setTimeout(() => void navigate(`?members=${members}`, { replace: true, preventScrollReset: true }), rest);
  };
  const shown = JSON.stringify(lines.filter((l) => Object.keys(l).length > 0)) === JSON.stringify(tried.filter((l) => Object.keys(l).length > 0));
  const ended = !kept || kept.ended;
  return (
    <section aria-label="Who is in it by itself">
      <h2 className="font-medium">Who is in it by itself</h2>
      <p className="mb-2 text-sm text-faint">
        Everybody who works here and of whom all is true that one of these lines says.
        {kept && !kept.ended && (
          <>
            {' '}
            Kept by {kept.by}, <Time at={new Date(kept.at)} />.
          </>
        )}
      </p>
      <fieldset disabled={!mayKeep}>
        <PeopleLines
          of="who is in it by itself"
          add="Add others"
          lines={lines}
          names={{
            nameOf: (kind, id) => learned[`${kind} ${id}`] ?? group.names[`${kind} ${id}`],
            learn: (id, name, kind) => setLearned((all) => ({ ...all, [`${kind} ${id}`]: name })),
          }}
          onChange={change}
        />
      </fieldset>
      <div aria-live="polite" className="my-4 border-l-2 border-sea pl-3">
        {!shown || tried.length === 0 ? (
          <p className="text-faint">{shown ? 'Say who it is, and here stands who comes in.' : 'Looking whom it holds of …'}</p>
        ) : (
          <>
            <p className="font-medium">
              It holds of {comes.belong.toLocaleString('en')} {comes.belong === 1 ? 'person' : 'people'}: {movingWords(comes)}.
            </p>
            <Some label="Come in" of={comes.coming} all={comes.in} />
            <Some label="Go out" of={comes.going} all={comes.out} />
          </>
        )}
      </div>
      {mayKeep && (
        <Form method="post" {...post.form} className="space-y-3">
          <Refused sentence={post.sentence} />
          <input type="hidden" name="version" value={kept?.version ?? 0} />
          <input type="hidden" name="in" value={comes.in} />
          <input type="hidden" name="out" value={comes.out} />
          <input type="hidden" name="members" value={JSON.stringify(lines)} />
          <Labelled label="Why" required help="Whoever is let in reads this." problem={post.problem('why')}>
            {(ids) => (
              <input
                {...ids}
                name="why"
                className="input"
                maxLength={300}
                autoComplete="off"
                defaultValue={refused?.why ?? (ended ? '' : kept.why)}
              />
            )}
          </Labelled>
          {post.problem('members') && (
            <p role="alert" className="text-sm text-coral">
              {post.problem('members')}
            </p>
          )}
          <div className="flex flex-wrap gap-3">
            <Button type="submit" name="act" value="keep" weight="main" disabled={busy || !shown}>
              {ended ? 'Keep this condition' : 'Change the condition'}
              {tried.length > 0 && shown && `: ${movingWords(comes)}`}
            </Button>
            {trying && <ButtonLink to={`/desk/groups/${group.id}`}>As it is kept</ButtonLink>}
          </div>
        </Form>
      )}
    </section>
  );
}

/** The first of some people, by name. */
function Some({ label, of, all }: { label: string; of: GroupPage['comes']['coming']; all: number }) {
  if (all === 0) return null;
  return (
    <details className="text-sm" open={all <= 12}>
      <summary className="cursor-pointer text-sea">
        {label}: {all.toLocaleString('en')}
      </summary>
      <p>
        {of.map((p) => (p.job ? `${p.name} (${p.job})` : p.name)).join(', ')}
        {all > of.length && ` and ${(all - of.length).toLocaleString('en')} more`}
      </p>
    </details>
  );
}
