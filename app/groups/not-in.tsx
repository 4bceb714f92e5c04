import { Form, useNavigation } from 'react-router';
import type { GroupPage } from '../../server/groups/queries.ts';
import { Button } from '~/ui/button';

/** Of whom the condition holds, and who are not in the group all the same: each with why. */
export function NotIn({ group: { refused, takenOut, mayKeep } }: { group: GroupPage }) {
  const busy = useNavigation().state !== 'idle';
  if (refused.length + takenOut.length === 0) return null;
  return (
    <section aria-label="Not in it, though the condition holds of them" className="mb-6">
      <h2 className="font-medium">Not in it, though the condition holds of them</h2>
      <ul className="mt-1 border-t text-sm">
        {refused.map((p) => (
          <li key={p.id} className="border-b py-1.5">
            {p.why}
          </li>
        ))}
        {takenOut.map((p) => (
          <li key={p.id} className="flex flex-wrap items-center gap-x-3 border-b py-1.5">
            <span className="min-w-0 flex-1">
              {p.name}
              {p.job && <span className="text-faint">, {p.job}</span>}: taken out by {p.by}
              {p.why && `, “${p.why}”`}
            </span>
            {mayKeep && (
              <Form method="post">
                <input type="hidden" name="person" value={p.id} />
                <Button type="submit" name="act" value="letIn" weight="quiet" disabled={busy}>
                  Let in again <span className="sr-only">({p.name})</span>
                </Button>
              </Form>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
