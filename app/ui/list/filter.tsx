import { X } from 'lucide-react';
import { useState } from 'react';
import { dateWords } from '../../../core/calendar/index.ts';
import type { Days, Filter, ListAsked } from '../../../core/lists/index.ts';
import { Checkbox } from '../checkbox';
import { DateField } from '../date-field';
import { Labelled } from '../field';
import { Picker } from '../picker';

/** Names by id. */
export type Named = Record<string, string>;

/** What a filter wants, in few words. */
export function filterWords(filter: Filter, asked: ListAsked, key: string, named: Named): string {
  if (filter.is === 'days') {
    const { from, to } = asked.days[key] ?? {};
    if (from && to) return from === to ? dateWords(from) : `${dateWords(from)} to ${dateWords(to)}`;
    return from ? `from ${dateWords(from)}` : to ? `until ${dateWords(to)}` : 'any';
  }
  const words = (asked.wanted[key] ?? []).map((id) => (filter.is === 'choice' ? filter.options[id] : (named[id] ?? 'not there any more')));
  return words.length > 0 ? words.join(', ') : 'any';
}

/** What is wanted of one filter; each change takes effect at once. */
export function FilterEditor({
  filter,
  asked,
  of,
  named,
  onChange,
}: {
  filter: Filter;
  asked: ListAsked;
  of: string;
  named: Named;
  onChange: (by: (now: ListAsked) => ListAsked) => void;
}) {
  // What was picked just now is known by its name before the list says it.
  const [learned, setLearned] = useState<Named>({});
  const ids = asked.wanted[of] ?? [];
  const want = (id: string, on: boolean) =>
    onChange((now) => {
      const { [of]: was = [], ...wanted } = now.wanted;
      const next = on ? [...was.filter((x) => x !== id), id] : was.filter((x) => x !== id);
      return { ...now, wanted: next.length > 0 ? { ...wanted, [of]: next } : wanted };
    });
  if (filter.is === 'days') {
    const days = asked.days[of] ?? {};
    const put = (change: Days) =>
      onChange((now) => {
        const { [of]: was, ...others } = now.days;
        const { from, to } = { ...was, ...change };
        const range = { ...(from && { from }), ...(to && { to }) };
        return { ...now, days: from || to ? { ...others, [of]: range } : others };
      });
    return (
      <div className="space-y-3">
        <Labelled label={`${filter.label} from`}>
          {(own) => <DateField {...own} value={days.from ?? ''} onValue={(from) => put({ from })} />}
        </Labelled>
        <Labelled label="until, that day included">{(own) => <DateField {...own} value={days.to ?? ''} onValue={(to) => put({ to })} />}</Labelled>
      </div>
    );
  }
  if (filter.is === 'choice') {
    return (
      <fieldset>
        <legend className="mb-1 font-medium">{filter.label}</legend>
        <ul className="space-y-1">
          {Object.entries(filter.options).map(([id, words]) => (
            <li key={id}>
              <label className="flex items-center gap-2">
                <Checkbox checked={ids.includes(id)} onChecked={(on) => want(id, on)} />
                {words}
              </label>
            </li>
          ))}
        </ul>
      </fieldset>
    );
  }
  const nameOf = (id: string) => named[id] ?? learned[id] ?? 'not there any more';
  return (
    <div>
      <Labelled label={filter.label}>
        {(own) => (
          <Picker
            {...own}
            kind={filter.of}
            chosen={undefined}
            onChoose={(c) => {
              if (!c || ids.includes(c.id)) return;
              setLearned({ ...learned, [c.id]: c.name });
              want(c.id, true);
            }}
          />
        )}
      </Labelled>
      <ul className="mt-2">
        {ids.map((id) => (
          <li key={id} className="flex items-center justify-between border-b py-1 text-sm">
            {nameOf(id)}
            <button type="button" className="flex size-6 items-center justify-center text-faint hover:text-coral" onClick={() => want(id, false)}>
              <X size={14} aria-hidden />
              <span className="sr-only">Take away {nameOf(id)}</span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
