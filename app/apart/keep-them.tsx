import { useState } from 'react';
import { Form, useNavigation } from 'react-router';
import { KeepApart } from '../../core/posts/index.ts';
import { NamedPeople } from '~/sheet/named-people';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { Picker, type Chosen } from '~/ui/picker';
import { usePost } from '~/ui/post';
import { Refused } from '~/ui/problem';
import type { ApartOutcome } from '~/routes/desk/apart';

/** Names two groups that are kept apart from now on, why, and who may make an exception. */
export function KeepThem({ outcome }: { outcome: ApartOutcome | undefined }) {
  const post = usePost(KeepApart, { refusal: outcome?.refusal });
  const busy = useNavigation().state !== 'idle';
  const [one, setOne] = useState<Chosen | undefined>(outcome?.picked?.['one']);
  const [other, setOther] = useState<Chosen | undefined>(outcome?.picked?.['other']);
  const [people, setPeople] = useState<{ person: string }[]>([]);
  const [names, setNames] = useState<Record<string, string>>({});
  return (
    <section aria-label="Keep two groups apart" className="mt-8 max-w-xl">
      <h2 className="mb-2 font-medium">Keep two groups apart</h2>
      <Form method="post" {...post.form} className="space-y-3">
        <Refused sentence={post.sentence} />
        <input type="hidden" name="act" value="keep" />
        <Labelled label="One group" required problem={post.problem('one')}>
          {(ids) => <Picker {...ids} kind="group" name="one" chosen={one} onChoose={setOne} />}
        </Labelled>
        <Labelled label="The other group" required problem={post.problem('other')}>
          {(ids) => <Picker {...ids} kind="group" name="other" chosen={other} onChoose={setOther} />}
        </Labelled>
        <Labelled label="Why they are kept apart" required help="Whoever is stopped by it reads this." problem={post.problem('why')}>
          {(ids) => <input {...ids} name="why" className="input" maxLength={300} autoComplete="off" defaultValue={outcome?.typed?.why} />}
        </Labelled>
        <div>
          <p className="mb-1 font-medium">Who can make an exception</p>
          {people.map((p) => (
            <input key={p.person} type="hidden" name="excepter" value={p.person} />
          ))}
          <NamedPeople
            people={people}
            name={(id) => names[id] ?? 'someone'}
            addLabel="Name somebody who can make an exception"
            learn={(id, name) => setNames((all) => ({ ...all, [id]: name }))}
            onChange={setPeople}
          />
        </div>
        <Button type="submit" weight="main" disabled={busy}>
          Keep them apart
        </Button>
      </Form>
    </section>
  );
}
