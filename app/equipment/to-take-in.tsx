import { Form, useNavigation } from 'react-router';
import { PieceBack } from '../../core/posts/index.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';
import { OneOf } from './line';

interface Place {
  id: string;
  name: string;
}

/** Something is taken in again: where it goes, how it is. */
export function TakeIn({
  issue,
  what,
  places,
  at,
  refusal,
  typed,
}: {
  issue: string;
  what: string;
  places: Place[];
  /** Where it came from. */
  at: string | null;
  refusal: Refusal | undefined;
  typed?: Record<string, string> | undefined;
}) {
  const post = usePost(PieceBack, { refusal });
  const busy = useNavigation().state !== 'idle';
  const first = typed?.['place'] ?? (places.some((p) => p.id === at) ? at! : (places[0]?.id ?? ''));
  return (
    <Form method="post" {...post.form} className="min-w-0 space-y-2">
      <Refused sentence={post.sentence} />
      <input type="hidden" name="issue" value={issue} />
      <div className="grid gap-2 sm:grid-cols-2">
        <Labelled label="Where it goes" problem={post.problem('place')}>
          {(ids) => <OneOf {...ids} name="place" defaultValue={first} of={places} />}
        </Labelled>
        <Labelled label="How it came back" problem={post.problem('how')}>
          {(ids) => (
            <Select {...ids} name="how" defaultValue={typed?.['how'] ?? 'fine'}>
              <option value="fine">As it was</option>
              <option value="repair">To be repaired</option>
              <option value="lost">It did not come back</option>
            </Select>
          )}
        </Labelled>
      </div>
      <Labelled label="Note" problem={post.problem('note')}>
        {(ids) => <input {...ids} name="note" className="input" maxLength={300} autoComplete="off" defaultValue={typed?.['note']} />}
      </Labelled>
      <Button type="submit" name="act" value="takeIn" disabled={busy}>
        Take in {what}
      </Button>
    </Form>
  );
}
