import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import type { Answers } from '../../../core/forms/index.ts';
import { Addition as AdditionPost, HandOver as HandOverPost } from '../../../core/posts/index.ts';
import type { teamChoices } from '../../../server/people/find.ts';
import type { Refusal } from '../../../server/refusal.ts';
import type { Addition } from '../../../server/requests/additions.ts';
import type { taskFor } from '../../../server/tasks/queries.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { FormFields } from '~/ui/form-fields';
import { Picker, type Chosen } from '~/ui/picker';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';

// What is done beside a task: what was asked is corrected, it is handed over, something is added.

type Task = NonNullable<Awaited<ReturnType<typeof taskFor>>>;
type Teams = Awaited<ReturnType<typeof teamChoices>>;

/** What was asked, where whoever does the task may correct it. */
export function Correct({ t, failed }: { t: Task; failed: Refusal | undefined }) {
  const [values, setValues] = useState<Answers>({});
  const [names, setNames] = useState(t.names);
  const busy = useNavigation().formMethod === 'POST';
  const { fields, answers } = t.correctable;
  return (
    <details className="mb-4" open={failed !== undefined}>
      <summary className="cursor-pointer text-sea">Correct what was asked: {fields.map((f) => f.label).join(', ')}</summary>
      <Form method="post" noValidate className="mt-3 space-y-4 border-l-2 border-sea pl-3">
        <FormFields
          form={{ fields: fields.map((f) => ({ ...f, visibleWhen: undefined, held: undefined })) }}
          answers={{ ...answers, ...values }}
          names={names}
          problems={Object.fromEntries((failed?.problems ?? []).map((p) => [p.field, p.sentence]))}
          onChange={(field, value, chosen) => {
            setValues((v) => ({ ...v, [field]: value }));
            if (chosen) setNames((n) => ({ ...n, [chosen.id]: chosen.name }));
          }}
        />
        <Button type="submit" name="act" value="correct" disabled={busy}>
          Correct what was asked
        </Button>
      </Form>
    </details>
  );
}

/** To a person, or to a team; what is filled in goes with it. */
export function HandOver({ teams, refusal }: { teams: Teams; refusal: Refusal | undefined }) {
  const post = usePost(HandOverPost, { refusal });
  const [person, setPerson] = useState<Chosen>();
  return (
    <details className="border-t py-3" open={refusal !== undefined}>
      <summary className="cursor-pointer text-sea">Hand this task over</summary>
      <Form method="post" {...post.form} className="mt-3 max-w-lg space-y-3">
        <Labelled label="To a person" problem={post.problem('to') ?? post.sentence}>
          {(ids) => <Picker {...ids} kind="person" name="to" chosen={person} onChoose={setPerson} />}
        </Labelled>
        <TeamChoice label="Or to a team" teams={teams} />
        <Button type="submit" name="act" value="hand-over">
          Hand it over, with what is filled in
        </Button>
      </Form>
    </details>
  );
}

const TeamChoice = ({ label, help, teams }: { label: string; help?: string; teams: Teams }) => (
  <Labelled label={label} {...(help !== undefined && { help })}>
    {(ids) => (
      <Select {...ids} name="team" defaultValue="">
        <option value="">No team</option>
        {teams.map((x) => (
          <option key={x.id} value={x.id}>
            {x.name}
          </option>
        ))}
      </Select>
    )}
  </Labelled>
);

/** An approval, a task or a question added to the request while it runs. */
export function Add({ t, teams, refusal }: { t: Task; teams: Teams; refusal: Refusal | undefined }) {
  const post = usePost(AdditionPost, { refusal });
  const { problem } = post;
  const [kind, setKind] = useState<Addition['kind']>('task');
  const [person, setPerson] = useState<Chosen>();
  return (
    <details className="border-t py-4" open={refusal !== undefined}>
      <summary className="cursor-pointer text-sea">Add a task, an approval or a question to this request</summary>
      <Form method="post" {...post.form} className="mt-3 max-w-lg space-y-4">
        <Refused sentence={post.sentence} />
        <Labelled label="What">
          {(ids) => (
            <Select {...ids} name="kind" value={kind} onValue={(v) => setKind(v as Addition['kind'])}>
              <option value="task">A task</option>
              <option value="gate">An approval</option>
              <option value="question">A question to the requester</option>
            </Select>
          )}
        </Labelled>
        <Labelled label="Name" required problem={problem('name')}>
          {(ids) => <input {...ids} name="name" className="input" maxLength={120} />}
        </Labelled>
        {kind === 'question' && (
          <Labelled
            label="The question"
            help={`${t.requester.name} answers it on their page of the request.`}
            required
            problem={problem('instructions')}
          >
            {(ids) => <textarea {...ids} name="instructions" rows={3} className="input" maxLength={2000} />}
          </Labelled>
        )}
        {kind === 'task' && (
          <Labelled label="What is to be done" required problem={problem('instructions')}>
            {(ids) => <textarea {...ids} name="instructions" rows={3} className="input" />}
          </Labelled>
        )}
        {kind === 'task' && <TeamChoice label="Team" help="Or name a person below." teams={teams} />}
        {kind !== 'question' && (
          <Labelled label={kind === 'task' ? 'Person' : 'Who must agree'} problem={problem('person')}>
            {(ids) => <Picker {...ids} kind="person" name="person" chosen={person} onChoose={setPerson} />}
          </Labelled>
        )}
        <Labelled label="What waits for it" problem={problem('to')}>
          {(ids) => (
            <Select {...ids} name="to">
              {t.milestones.map((m) => (
                <option key={m.id} value={m.id}>
                  The milestone “{m.words}”, and the steps after it
                </option>
              ))}
              <option value="end">The end of the request</option>
            </Select>
          )}
        </Labelled>
        <Button type="submit" name="act" value="add">
          {kind === 'question' ? 'Ask' : kind === 'task' ? 'Add the task' : 'Add the approval'}
        </Button>
      </Form>
    </details>
  );
}
