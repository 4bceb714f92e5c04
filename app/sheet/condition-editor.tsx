import { useState } from 'react';
import { comparisonWords, type Comparison, type Condition } from '../../core/conditions/index.ts';
import type { Place } from '../../core/plans/index.ts';
import { isNamed, isNumber, isReference, namedIn, typedAs, type CalledKind, type Value } from '../../core/values/index.ts';
import { ListEditor } from '~/ui/list-editor';
import { DecimalField } from '~/ui/decimal-field';
import { DateField } from '~/ui/date-field';
import { MoneyInput } from '~/ui/money-input';
import { Picker } from '~/ui/picker';
import { useStated } from './draft-editor';
import { PlaceSelect } from './place-select';
import { Select } from '~/ui/select';

/** `other`: the place it is compared with, in place of a value that is stated; empty while it is not picked yet. */
type Line = { ref?: string | undefined; test: Comparison | 'has' | 'hasNot'; value: Value; other?: string | undefined };
/** Types of which no value is stated: what is attached or held is known only of whoever asks. */
const unstated: ReadonlySet<Place['type'] | undefined> = new Set(['file', 'holding']);
/** The tests there are for values of a type, in words. */
function testsFor(type: Place['type'] | undefined): [Line['test'], string][] {
  const { is, isNot, ...byOrder } = comparisonWords(type);
  const all = { ...(!unstated.has(type) && { is, isNot }), has: 'has a value', hasNot: 'has no value', ...(ordered(type) && byOrder) };
  return Object.entries(all) as [Line['test'], string][];
}

/** A condition as lines that all, or any, must hold: a picked value, a test, and what it is tested against. */
export function ConditionEditor({
  label,
  always,
  places,
  value,
  onChange,
}: {
  label: string;
  always?: string;
  places: Place[];
  value: Condition | undefined;
  onChange: (condition: Condition | undefined) => void;
}) {
  const read = readLines(value);
  // Lines that are not whole yet live here until they can be part of a condition.
  const [unfinished, setUnfinished] = useState<Line[]>(value || always ? [] : [{ test: 'is', value: null }]);
  const [how, setHow] = useState<'all' | 'any'>(read?.join ?? 'all');
  if (!read) return <p className="text-faint">This condition is nested and cannot be changed here.</p>;
  const { lines } = read;
  // One whole line says nothing of how several would be joined: what was chosen stays.
  const join = lines.length > 1 ? read.join : how;
  const set = (next: Line[], how: 'all' | 'any') => {
    setHow(how);
    const whole = next.flatMap((l) => (isWhole(l) ? [l] : []));
    setUnfinished(next.filter((l) => !isWhole(l)));
    const made = whole.map(conditionOf);
    onChange(made.length === 0 ? undefined : made.length === 1 ? made[0] : how === 'all' ? { all: made } : { any: made });
  };
  const all = [...lines, ...unfinished];
  const typeOf = (ref: string | undefined) => places.find((p) => p.ref === ref)?.type;
  return (
    <div>
      {all.length === 0 && always && <p className="mb-2 text-faint">{always}.</p>}
      {all.length > 1 && (
        <Select className="mb-2" aria-label={`${label}: how the lines are joined`} value={join} onValue={(v) => set(all, v as 'all' | 'any')}>
          <option value="all">All of these hold</option>
          <option value="any">Any of these holds</option>
        </Select>
      )}
      <ListEditor
        rows={all}
        keyOf={(_, at) => at}
        nameOf={(_, at) => `line ${at + 1}`}
        addLabel={always && all.length === 0 ? 'Only when …' : 'Add a comparison'}
        make={(): Line => ({ test: 'is', value: null })}
        onChange={(next) => set(next, join)}
        onAdd={(line) => setUnfinished([...unfinished, line])}
        ruled
      >
        {({ row: line, at, set: change }) => (
          <div className="space-y-1.5">
            <PlaceSelect
              aria-label={`${label}, line ${at + 1}: value`}
              places={places}
              value={line.ref}
              onChange={(ref) => change({ ref, test: unstated.has(typeOf(ref)) ? 'has' : 'is', value: null, other: undefined })}
            />
            <Select aria-label={`${label}, line ${at + 1}: test`} value={line.test} onValue={(v) => change({ ...line, test: v as Line['test'] })}>
              {testsFor(typeOf(line.ref)).map(([t, words]) => (
                <option key={t} value={t}>
                  {words}
                </option>
              ))}
            </Select>
            {line.test !== 'has' && line.test !== 'hasNot' && line.ref && (
              <>
                {(line.other !== undefined || alike(places, line.ref).length > 0) && (
                  <Select
                    aria-label={`${label}, line ${at + 1}: with what`}
                    value={line.other === undefined ? 'stated' : 'other'}
                    onValue={(v) => change({ ...line, value: null, other: v === 'other' ? '' : undefined })}
                  >
                    <option value="stated">a value stated here</option>
                    <option value="other">another value</option>
                  </Select>
                )}
                {line.other === undefined ? (
                  <ValueInput
                    label={`${label}, line ${at + 1}: compared with`}
                    place={places.find((p) => p.ref === line.ref)}
                    value={line.value}
                    onChange={(v) => change({ ...line, value: v })}
                  />
                ) : (
                  <PlaceSelect
                    aria-label={`${label}, line ${at + 1}: compared with`}
                    places={alike(places, line.ref)}
                    value={line.other || undefined}
                    onChange={(other) => change({ ...line, other: other ?? '' })}
                  />
                )}
              </>
            )}
          </div>
        )}
      </ListEditor>
    </div>
  );
}

const isWhole = (l: Line): l is Line & { ref: string } =>
  l.ref !== undefined && (l.test === 'has' || l.test === 'hasNot' || (l.other === undefined ? l.value !== null && l.value !== '' : l.other !== ''));

/** The other places whose values can be compared with those of one. */
function alike(places: Place[], ref: string): Place[] {
  const type = places.find((p) => p.ref === ref)?.type;
  return type === undefined ? [] : places.filter((p) => p.ref !== ref && p.type === type);
}

function conditionOf(l: Line & { ref: string }): Condition {
  if (l.test === 'has') return { has: { ref: l.ref } };
  if (l.test === 'hasNot') return { not: { has: { ref: l.ref } } };
  return { compare: l.test, left: { ref: l.ref }, right: l.other === undefined ? { literal: l.value } : { ref: l.other } };
}

function readLines(c: Condition | undefined): { join: 'all' | 'any'; lines: Line[] } | undefined {
  if (!c) return { join: 'all', lines: [] };
  const join = 'any' in c ? 'any' : 'all';
  const parts = 'all' in c ? c.all : 'any' in c ? c.any : [c];
  const lines: Line[] = [];
  for (const p of parts) {
    if ('has' in p) lines.push({ ref: p.has.ref, test: 'has', value: null });
    else if ('not' in p && 'has' in p.not) lines.push({ ref: p.not.has.ref, test: 'hasNot', value: null });
    else if ('compare' in p)
      lines.push({ ref: p.left.ref, test: p.compare, ...(isReference(p.right) ? { value: null, other: p.right.ref } : { value: p.right.literal }) });
    else return undefined;
  }
  return { join, lines };
}

const ordered = (type: Place['type'] | undefined) => type === 'number' || type === 'date' || type === 'money';

/** A stated value of a place's type. */
export function ValueInput({
  label,
  place,
  value,
  onChange,
  id,
}: {
  label: string;
  place: Place | undefined;
  value: Value;
  onChange: (value: Value) => void;
  id?: string;
}) {
  const [picked, setPicked] = useState('');
  const { nameOf, learn } = useStated();
  const type = place?.type;
  if (type === 'boolean') {
    return (
      <Select id={id} aria-label={label} value={value === null ? '' : String(value)} onValue={(v) => onChange(v === '' ? null : v === 'true')}>
        <option value="">Choose …</option>
        <option value="true">yes</option>
        <option value="false">no</option>
      </Select>
    );
  }
  if (type === 'choice') {
    return (
      <Select aria-label={label} value={typeof value === 'string' ? value : ''} onValue={(v) => onChange(v || null)}>
        <option value="">Choose …</option>
        {(place?.options ?? []).map((o) => (
          <option key={o.value} value={o.value}>
            {o.label}
          </option>
        ))}
      </Select>
    );
  }
  if (type && !unstated.has(type) && isNamed(type)) {
    const [named] = namedIn(value);
    const kind = type as CalledKind | 'row';
    return (
      <Picker
        aria-label={label}
        kind={kind}
        within={{ table: place?.table }}
        chosen={named && { id: named.id, name: picked || (nameOf(kind, named.id) ?? 'The one picked before') }}
        onChoose={(c) => {
          setPicked(c?.name ?? '');
          if (c) learn(c.id, c.name, kind);
          onChange(c ? (typedAs(c.id, kind) ?? null) : null);
        }}
      />
    );
  }
  if (type === 'money') return <MoneyInput {...(id && { id })} label={label} value={value} onChange={onChange} />;
  if (type === 'number')
    return <DecimalField {...(id && { id })} aria-label={label} value={value} onChange={(v) => onChange(isNumber(v) ? v : null)} />;
  if (type === 'date')
    return (
      <DateField {...(id && { id })} aria-label={label} value={typeof value === 'string' ? value : ''} onValue={(day) => onChange(day || null)} />
    );
  return (
    <input
      id={id}
      className="input"
      type="text"
      aria-label={label}
      value={typeof value === 'string' ? value : ''}
      onChange={(e) => onChange(e.target.value)}
    />
  );
}
