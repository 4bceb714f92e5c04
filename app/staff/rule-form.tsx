import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import type { Field } from '../../core/forms/index.ts';
import { factsFor, staffFacts, type StaffRule } from '../../core/staff/index.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Picker, type Chosen } from '~/ui/picker';
import { Refused } from '~/ui/problem';
import { Select } from '~/ui/select';

/** What answers the fields of the item's form, and who asks where the feed names no manager. */
export function RuleForm({
  fields,
  answers,
  asks,
  item,
  version,
  off,
  refusal,
}: {
  fields: Field[];
  answers: StaffRule['answers'];
  asks: Chosen | undefined;
  item: string;
  /** 0: there is no rule yet. */
  version: number;
  /** Nothing follows for now. */
  off: boolean;
  refusal: Refusal | undefined;
}) {
  const [who, setWho] = useState(asks);
  const busy = useNavigation().formMethod === 'POST';
  const problem = (field: string) => refusal?.problems?.find((p) => p.field === field)?.sentence;
  return (
    <Form method="post" noValidate className="max-w-3xl space-y-5">
      <input type="hidden" name="item" value={item} />
      <input type="hidden" name="version" value={version} />
      <Refused sentence={refusal?.problems?.length && !problem('item') ? undefined : refusal?.sentence} />
      <Labelled
        label="Asked for as"
        help="By the manager whom the feed names; where it names nobody who works here, by this person."
        required
        problem={problem('asks')}
      >
        {(ids) => <Picker {...ids} kind="person" name="asks" chosen={who} onChoose={setWho} />}
      </Labelled>
      <fieldset>
        <legend className="mb-2 font-medium">What answers its form</legend>
        {fields.length === 0 && <p className="text-faint">It asks nothing.</p>}
        <div className="grid gap-x-8 gap-y-3 sm:grid-cols-2">
          {fields.map((field) => (
            <Answer key={field.id} field={field} answer={answers.find((a) => a.field === field.id)} problem={problem(`answers.${field.id}`)} />
          ))}
        </div>
      </fieldset>
      <div className="flex gap-3">
        <Button type="submit" name="act" value="keep" weight="main" disabled={busy}>
          Ask for it from now on
        </Button>
        {version > 0 && !off && (
          <Button type="submit" name="act" value="drop" disabled={busy}>
            Let nothing follow
          </Button>
        )}
      </div>
    </Form>
  );
}

function Answer({ field, answer, problem }: { field: Field; answer: StaffRule['answers'][number] | undefined; problem: string | undefined }) {
  const facts = factsFor(field);
  const always = field.kind === 'choice' ? (field.options ?? []) : [];
  const words = field.kind === 'text' || field.kind === 'longText';
  const [chosen, setChosen] = useState<string>(answer?.from ?? (answer?.words && always.length > 0 ? `=${answer.words}` : ''));
  if (facts.length === 0)
    return (
      <div>
        <p className="mb-1 font-medium">{field.label}</p>
        <p className="text-sm text-faint">{problem ?? 'The feed has nothing that could answer this; it stays empty.'}</p>
      </div>
    );
  return (
    <div className="grid gap-2">
      <Labelled label={field.label} required={field.required} problem={problem}>
        {(ids) => (
          <Select {...ids} name={`from.${field.id}`} value={chosen} onValue={setChosen}>
            <option value="">{words ? 'the words below, or nothing' : 'nothing'}</option>
            {facts.map((f) => (
              <option key={f} value={f}>
                {`${staffFacts[f].label}, by the feed`}
              </option>
            ))}
            {always.map((o) => (
              <option key={o.value} value={`=${o.value}`}>
                {`always ${o.label}`}
              </option>
            ))}
          </Select>
        )}
      </Labelled>
      {words && chosen === '' && (
        <input
          name={`words.${field.id}`}
          aria-label={`${field.label}: always these words`}
          placeholder="Always these words"
          className="input"
          maxLength={200}
          defaultValue={answer?.words ?? ''}
          autoComplete="off"
        />
      )}
    </div>
  );
}
