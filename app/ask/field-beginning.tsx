import { factsFor, fieldType, hasHoldings, hasTable, type Column, type Fact, type Field, type Prefill } from '../../core/forms/index.ts';
import { actionOf, slotsOf } from '../../core/plans/index.ts';
import { fitsFor, isEmpty } from '../../core/values/index.ts';
import { useEditor } from '~/sheet/draft-editor';
import { AnswerControl } from '~/ui/answer-control';
import { Labelled } from '~/ui/field';
import { RadioGroup } from '~/ui/radio-group';
import { Select } from '~/ui/select';
import type { Chosen } from '~/ui/picker';

const whoFills = [
  { value: '', label: 'Whoever asks' },
  { value: 'locked', label: 'Nobody: they see what it begins with' },
  { value: 'hidden', label: 'Nobody: they do not see it' },
];

const keyOf = (p: Prefill | undefined): string =>
  !p ? '' : 'ofAsker' in p ? `of ${p.ofAsker}` : 'row' in p ? `row ${p.row} ${p.column}` : `holding ${p.holding} ${p.slot}`;
function prefillOf(key: string): Prefill | undefined {
  const [how, first, second] = key.split(' ');
  if (how === 'of') return { ofAsker: first as Fact };
  if (how === 'holding' && first && second) return { holding: first, slot: second };
  return how === 'row' && first && second ? { row: first, column: second } : undefined;
}

/** What a field begins with, and who fills it in. */
export function Beginning({
  field,
  others,
  tables,
  names,
  onChange,
}: {
  field: Field;
  others: Field[];
  tables: Record<string, { name: string; columns: readonly Column[] }>;
  /** What is named in defaults, by id. */
  names: Record<string, string>;
  onChange: (field: Field, what: string, chosen?: Chosen) => void;
}) {
  const type = fieldType(field.kind);
  const facts = factsFor(type);
  const rows = others.flatMap((f) =>
    (hasTable(f.kind) && f.table ? (tables[f.table]?.columns ?? []) : [])
      .filter((c) => fitsFor(type).includes(fieldType(c.kind)))
      .map((c) => ({ value: `row ${f.id} ${c.id}`, label: `${c.label} of “${f.label}”` })),
  );
  const { catalogue } = useEditor();
  const slots = others.flatMap((f) => {
    const action = hasHoldings(f.kind) ? actionOf(catalogue, f.gave) : undefined;
    return (action ? slotsOf(action) : [])
      .filter((s) => fitsFor(type).includes(s.type))
      .map((s) => ({ value: `holding ${f.id} ${s.name}`, label: `${s.label} of “${f.label}”` }));
  });
  const lookedUp = [...rows, ...slots];
  const key = keyOf(field.prefill);
  const known = [...facts.map((f) => `of ${f.fact}`), ...lookedUp.map((r) => r.value)];
  const plain = { ...field, required: false, requiredWhen: undefined, visibleWhen: undefined, held: undefined };
  return (
    <fieldset className="space-y-4">
      <legend className="mb-1 font-medium">What it begins with</legend>
      {(facts.length > 0 || lookedUp.length > 0) && (
        <Labelled label="Looked up">
          {(ids) => (
            <Select {...ids} value={key} onValue={(v) => onChange({ ...field, prefill: prefillOf(v) }, 'what it begins with')}>
              <option value="">Nothing</option>
              {key !== '' && !known.includes(key) && <option value={key}>Something that is not there any more</option>}
              {facts.map((f) => (
                <option key={f.fact} value={`of ${f.fact}`}>
                  {f.words}
                </option>
              ))}
              {lookedUp.map((r) => (
                <option key={r.value} value={r.value}>
                  {r.label}
                </option>
              ))}
            </Select>
          )}
        </Labelled>
      )}
      <Labelled label="Default" help={field.prefill ? 'Where nothing is found.' : 'Filled in before anyone types.'}>
        {(ids) => (
          <AnswerControl
            field={plain}
            name="default"
            ids={ids}
            value={field.default ?? null}
            names={names}
            onChange={(value, chosen) => onChange({ ...field, default: isEmpty(value) ? undefined : value }, 'the default', chosen)}
          />
        )}
      </Labelled>
      <div>
        <p className="mb-1 font-medium" id={`fills-${field.id}`}>
          Who fills it in
        </p>
        <RadioGroup
          aria-label="Who fills it in"
          value={field.held ?? ''}
          options={whoFills}
          onValue={(v) => onChange({ ...field, held: v === 'locked' || v === 'hidden' ? v : undefined }, 'who fills it in')}
        />
        {field.held && <p className="mt-1 text-sm text-faint">A gate may open it to the approvers: under “Approvers may correct” of the gate.</p>}
      </div>
    </fieldset>
  );
}
