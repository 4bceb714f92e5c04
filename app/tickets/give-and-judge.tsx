import { useState } from 'react';
import { Form } from 'react-router';
import type { ticketFor } from '../../server/tickets/queries.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Picker, type Chosen } from '~/ui/picker';
import { Select } from '~/ui/select';

type Ticket = NonNullable<Awaited<ReturnType<typeof ticketFor>>>;

interface Failed {
  refusal: { sentence: string; problems?: { field: string; sentence: string }[] };
  why: string;
}
const problemAt = (failed: Failed | undefined, field: string) => failed?.refusal.problems?.find((p) => p.field === field)?.sentence;

/** To a person, or to a team; who gets it is told. */
export function Give({ t, teams, failed }: { t: Ticket; teams: { id: string; name: string }[]; failed: Failed | undefined }) {
  const [person, setPerson] = useState<Chosen>();
  return (
    <details className="border-t py-3" open={failed !== undefined}>
      <summary className="cursor-pointer text-sea">Give it to somebody else</summary>
      <Form method="post" className="mt-3 max-w-lg space-y-3">
        <Labelled label="To a team">
          {(ids) => (
            <Select {...ids} name="team" defaultValue={t.teamId ?? ''}>
              <option value="">The team it is with</option>
              {teams.map((x) => (
                <option key={x.id} value={x.id}>
                  {x.name}
                </option>
              ))}
            </Select>
          )}
        </Labelled>
        <Labelled label="To a person" problem={problemAt(failed, 'to')}>
          {(ids) => <Picker {...ids} kind="person" name="to" chosen={person} onChoose={setPerson} />}
        </Labelled>
        <Labelled label="Why" help="Stands in its history, and in the mail to who gets it.">
          {(ids) => <input {...ids} name="why" className="input" maxLength={300} defaultValue={failed?.why} />}
        </Labelled>
        <Button type="submit" name="act" value="give">
          Give it, and tell them
        </Button>
      </Form>
    </details>
  );
}

/** How bad and how urgent it is. */
export function Judge({ t, failed }: { t: Ticket; failed: Failed | undefined }) {
  return (
    <details className="border-t py-3" open={failed !== undefined}>
      <summary className="cursor-pointer text-sea">Judge its priority anew</summary>
      <Form method="post" className="mt-3 max-w-lg space-y-3">
        <Labelled label="Impact">
          {(ids) => (
            <Select {...ids} name="impact" defaultValue={t.impact}>
              {t.levels.impacts.map((l) => (
                <option key={l.id} value={l.id}>
                  {l.label}
                </option>
              ))}
            </Select>
          )}
        </Labelled>
        <Labelled label="Urgency">
          {(ids) => (
            <Select {...ids} name="urgency" defaultValue={t.urgency}>
              {t.levels.urgencies.map((l) => (
                <option key={l.id} value={l.id}>
                  {l.label}
                </option>
              ))}
            </Select>
          )}
        </Labelled>
        <Labelled label="Reason" help="Stands in its history. What falls due is reckoned as if it had been so from the beginning.">
          {(ids) => <input {...ids} name="why" className="input" maxLength={300} defaultValue={failed?.why} />}
        </Labelled>
        <Button type="submit" name="act" value="judge">
          Set its priority
        </Button>
      </Form>
    </details>
  );
}
