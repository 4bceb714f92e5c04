import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import type { UserNameRule } from '../../core/people/index.ts';
import type { Refusal } from '../../server/refusal.ts';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Refused } from '~/ui/problem';
import { RadioGroup } from '~/ui/radio-group';

/** The rule as it is kept, what each way of putting a name together makes of some examples, and of whom. */
export interface UserNames {
  rule: UserNameRule;
  version: number;
  ways: { form: UserNameRule['form']; makes: string[] }[];
  of: string[];
}
/** The rule as it was typed and refused. */
export interface TypedRule {
  form: string;
  most: string;
  domain: string;
}

const words: Record<UserNameRule['form'], string> = {
  'given.family': 'Given name, a dot, family name',
  given: 'Given name alone',
  initialFamily: 'First letter of the given name, family name',
  familyInitial: 'Family name, first letter of the given name',
};

/** How the directory names those who get an account: one way of a few, with what it makes of some names. */
export function UserNames({
  names,
  typed,
  mayKeep,
  refusal,
}: {
  names: UserNames;
  typed: TypedRule | undefined;
  mayKeep: boolean;
  refusal: Refusal | undefined;
}) {
  const { rule, ways, of } = names;
  const [form, setForm] = useState(typed?.form ?? rule.form);
  const busy = useNavigation().formMethod === 'POST';
  const problem = (field: string) => refusal?.problems?.find((p) => p.field === `rule.${field}`)?.sentence;
  if (!mayKeep)
    return (
      <section aria-label="User names" className="mt-5 max-w-3xl">
        <h2 className="mb-1 font-medium">User names</h2>
        <p>
          {words[rule.form]}, at most {rule.most} signs; {rule.domain === '' ? 'no mail address goes with it' : `with an address at ${rule.domain}`}.
        </p>
      </section>
    );
  return (
    <section aria-label="User names" className="mt-5 max-w-3xl">
      <h2 className="mb-1 font-medium">User names</h2>
      <p className="mb-3 text-faint">
        Whoever gets an account is named after themselves; a name that is taken gets the next number. Accounts that there are keep theirs.
      </p>
      <Form method="post" noValidate className="space-y-3">
        <input type="hidden" name="version" value={names.version} />
        <Refused sentence={refusal?.problems?.length ? undefined : refusal?.sentence} />
        <Labelled label="A user name is" help={`As it would be of ${of.join(', ')}.`} problem={problem('form')}>
          {(ids) => (
            <RadioGroup
              aria-label="A user name is"
              {...ids}
              name="form"
              value={form}
              options={ways.map((w) => ({ value: w.form, label: `${words[w.form]}: ${w.makes.join(', ')}` }))}
              onValue={setForm}
            />
          )}
        </Labelled>
        <div className="grid gap-3 sm:grid-cols-2">
          <Labelled label="At most so many signs" help="From 6 to 64, with the number." problem={problem('most')}>
            {(ids) => (
              <input {...ids} name="most" inputMode="numeric" className="numbers input w-20" maxLength={3} defaultValue={typed?.most ?? rule.most} />
            )}
          </Labelled>
          <Labelled label="Mail addresses at" help="Such as example.org; empty: none is made." problem={problem('domain')}>
            {(ids) => <input {...ids} name="domain" className="numbers input w-64" maxLength={200} defaultValue={typed?.domain ?? rule.domain} />}
          </Labelled>
        </div>
        <Button type="submit" name="act" value="userNames" disabled={busy}>
          Name new accounts so
        </Button>
      </Form>
    </section>
  );
}
