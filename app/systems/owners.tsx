import { useState } from 'react';
import { Form } from 'react-router';
import { NamedPeople } from '~/sheet/named-people';
import { Button } from '~/ui/button';

/** Who answers for a system: what gives something of it wants the consent of one of them. */
export function Owners({ name, owners, mayKeep }: { name: string; owners: { id: string; name: string }[]; mayKeep: boolean }) {
  const [people, setPeople] = useState(owners.map((o) => ({ person: o.id })));
  const [names, setNames] = useState(Object.fromEntries(owners.map((o) => [o.id, o.name])));
  const said = owners.length
    ? `Owners of ${name}: ${owners.map((o) => o.name).join(', ')}`
    : `${name} has no owner yet, so no item that gives something of it can be published.`;
  if (!mayKeep) return <p className="text-sm text-faint">{said}</p>;
  return (
    <details className="my-2 max-w-3xl text-sm">
      <summary className={owners.length ? 'text-faint' : 'text-ochre'}>{said}</summary>
      <Form method="post" className="mt-2 max-w-md space-y-2">
        <input type="hidden" name="act" value="owners" />
        {people.map((p) => (
          <input key={p.person} type="hidden" name="owner" value={p.person} />
        ))}
        <NamedPeople
          people={people}
          name={(id) => names[id] ?? 'someone'}
          addLabel={`Name an owner of ${name}`}
          learn={(id, n) => setNames((all) => ({ ...all, [id]: n }))}
          onChange={setPeople}
        />
        <Button type="submit">Save the owners of {name}</Button>
      </Form>
    </details>
  );
}
