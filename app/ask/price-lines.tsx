import type { ItemDefinition } from '../../core/items/index.ts';
import { terms, type PriceLine, type Term } from '../../core/prices/index.ts';
import type { Place } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { ConditionEditor } from '~/sheet/condition-editor';
import { PlaceSelect } from '~/sheet/place-select';
import { freshKey } from '~/ui/fresh-key';
import { ListEditor } from '~/ui/list-editor';
import { MoneyInput } from '~/ui/money-input';
import { RadioGroup } from '~/ui/radio-group';
import { Select } from '~/ui/select';

const mostTimes = 3;

/** What an item costs, line by line: a sum that is stated or stands in a table, how often, and when it counts. */
export function PriceLines({
  prices,
  places,
  onChange,
}: {
  prices: ItemDefinition['prices'];
  /** What the form asks, with the columns of the rows it picks. */
  places: Place[];
  onChange: (prices: ItemDefinition['prices']) => void;
}) {
  return (
    <ListEditor
      rows={prices ?? []}
      keyOf={(l) => l.id}
      nameOf={(l, at) => (l.label ? `“${l.label}”` : `line ${at + 1}`)}
      addLabel="Add a line"
      make={(): PriceLine => ({ id: freshKey('price'), label: '', per: 'once', amount: { literal: null } })}
      onChange={(lines) => onChange(lines.length > 0 ? lines : undefined)}
      ruled
      movable
    >
      {({ row, at, set }) => <Line line={row} name={`Line ${at + 1}`} places={places} onChange={set} />}
    </ListEditor>
  );
}

function Line({ line: l, name, places, onChange }: { line: PriceLine; name: string; places: Place[]; onChange: (line: PriceLine) => void }) {
  const from = l.amount && 'ref' in l.amount;
  const literal = l.amount && 'literal' in l.amount ? l.amount.literal : undefined;
  const times = l.times ?? [];
  const setTimes = (next: PriceLine['times']) => onChange({ ...l, times: next && next.length > 0 ? next : undefined });
  return (
    <fieldset className="space-y-3">
      <legend className="sr-only">{name}</legend>
      <Labelled label={`${name}: what is paid for`} required>
        {(ids) => <input {...ids} className="input" maxLength={120} value={l.label} onChange={(e) => onChange({ ...l, label: e.target.value })} />}
      </Labelled>
      <div>
        <RadioGroup
          aria-label={`${name}: where the sum comes from`}
          value={from ? 'ref' : 'literal'}
          options={[
            { value: 'literal', label: 'A stated sum' },
            { value: 'ref', label: 'From the answers' },
          ]}
          onValue={(v) => onChange({ ...l, amount: v === 'ref' ? undefined : { literal: null } })}
        />
        <div className="mt-1">
          {literal !== undefined ? (
            <Labelled label={`${name}: sum`}>
              {(ids) => (
                <MoneyInput {...ids} label={`${name}: sum`} value={literal} onChange={(value) => onChange({ ...l, amount: { literal: value } })} />
              )}
            </Labelled>
          ) : (
            <PlaceSelect
              aria-label={`${name}: which sum`}
              places={places}
              types={['money']}
              value={from && l.amount && 'ref' in l.amount ? l.amount.ref : undefined}
              onChange={(ref) => onChange({ ...l, amount: ref ? { ref } : undefined })}
            />
          )}
        </div>
      </div>
      {times.map((t, i) => (
        <PlaceSelect
          key={i}
          aria-label={`${name}: times which number${i > 0 ? `, ${i + 1}` : ''}`}
          places={places}
          types={['number']}
          empty="Not multiplied"
          value={t.ref}
          onChange={(ref) => setTimes(ref ? times.with(i, { ref }) : times.toSpliced(i, 1))}
        />
      ))}
      {times.length < mostTimes && (
        <PlaceSelect
          key={`more ${times.length}`}
          aria-label={`${name}: times ${times.length > 0 ? 'another' : 'a'} number`}
          places={places}
          types={['number']}
          empty={times.length > 0 ? 'And times no other number' : 'Not multiplied by a number'}
          value={undefined}
          onChange={(ref) => ref && setTimes([...times, { ref }])}
        />
      )}
      <Select aria-label={`${name}: how often`} value={l.per} onValue={(v) => onChange({ ...l, per: v as Term })}>
        {Object.entries(terms).map(([term, words]) => (
          <option key={term} value={term}>
            {words.charAt(0).toUpperCase() + words.slice(1)}
          </option>
        ))}
      </Select>
      <ConditionEditor label={`${name} counts when`} always="Always" places={places} value={l.when} onChange={(when) => onChange({ ...l, when })} />
    </fieldset>
  );
}
