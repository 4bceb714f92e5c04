import { X } from 'lucide-react';
import { Picker } from '~/ui/picker';

interface Named {
  person: string;
}

/** People by name: those who are named, each with a way out, and a way to name one more. */
export function NamedPeople({
  people,
  name,
  addLabel,
  learn,
  onChange,
}: {
  people: Named[];
  name: (id: string) => string;
  addLabel: string;
  /** Remembers the name of somebody who was picked. */
  learn: (id: string, name: string) => void;
  onChange: (people: Named[]) => void;
}) {
  return (
    <>
      <ul>
        {people.map((p) => (
          <li key={p.person} className="flex items-center justify-between py-0.5">
            {name(p.person)}
            <button
              type="button"
              className="flex size-6 items-center justify-center text-faint hover:text-coral"
              onClick={() => onChange(people.filter((x) => x !== p))}
            >
              <X size={14} aria-hidden />
              <span className="sr-only">Do not ask {name(p.person)}</span>
            </button>
          </li>
        ))}
      </ul>
      <Picker
        aria-label={addLabel}
        kind="person"
        chosen={undefined}
        onChoose={(c) => {
          if (!c || people.some((p) => p.person === c.id)) return;
          learn(c.id, c.name);
          onChange([...people, { person: c.id }]);
        }}
      />
    </>
  );
}
