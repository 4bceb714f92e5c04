import type { Apart, Form, FormRule } from '../../core/forms/index.ts';
import { formPlaces } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { freshKey } from '~/ui/fresh-key';
import { ListEditor } from '~/ui/list-editor';
import { NumberField } from '~/ui/number-field';
import { Select } from '~/ui/select';
import { ConditionEditor } from '~/sheet/condition-editor';

/** What must hold between the fields of a form, and what is said at which of them where it does not. */
export function FormRules({ form, onChange }: { form: Form; onChange: (rules: FormRule[], what: string) => void }) {
  const places = formPlaces(form);
  return (
    <ListEditor
      rows={form.rules ?? []}
      keyOf={(rule) => rule.id}
      nameOf={(_, at) => `rule ${at + 1}`}
      addLabel="Add a rule"
      make={(): FormRule => ({ id: freshKey('rule'), sentence: '' })}
      onChange={(rules) => onChange(rules, 'Edit the rules between fields')}
      ruled
    >
      {({ row: rule, at, set }) => (
        <fieldset className="space-y-3">
          <legend className="font-medium">Rule {at + 1}: this must hold</legend>
          <Select
            aria-label={`Rule ${at + 1}: what must hold`}
            value={rule.apart ? 'apart' : 'holds'}
            onValue={(is) => set({ ...rule, holds: undefined, apart: is === 'apart' ? { days: 2, counted: 'working' } : undefined })}
          >
            <option value="holds">A condition over the answers</option>
            <option value="apart">A date is so many days after another day</option>
          </Select>
          {rule.apart ? (
            <ApartEditor at={at} form={form} apart={rule.apart} onChange={(apart) => set({ ...rule, apart })} />
          ) : (
            <ConditionEditor label={`Rule ${at + 1}`} places={places} value={rule.holds} onChange={(holds) => set({ ...rule, holds })} />
          )}
          <Labelled label={`Rule ${at + 1}: what is said where it does not`} help="What is wrong, and what to do.">
            {(ids) => (
              <input {...ids} className="input" maxLength={300} value={rule.sentence} onChange={(e) => set({ ...rule, sentence: e.target.value })} />
            )}
          </Labelled>
          <Labelled label={`Rule ${at + 1}: at which field`}>
            {(ids) => (
              <Select {...ids} value={rule.field ?? ''} onValue={(field) => set({ ...rule, field: field || undefined })}>
                <option value="">Choose …</option>
                {form.fields.map((f) => (
                  <option key={f.id} value={f.id}>
                    {f.label}
                  </option>
                ))}
              </Select>
            )}
          </Labelled>
        </fieldset>
      )}
    </ListEditor>
  );
}

/** How far a date is at least from another, or from the day it is asked. */
function ApartEditor({ at, form, apart, onChange }: { at: number; form: Form; apart: Apart; onChange: (apart: Apart) => void }) {
  const dates = form.fields.filter((f) => f.kind === 'date');
  const options = dates.map((f) => (
    <option key={f.id} value={`form.${f.id}`}>
      {f.label}
    </option>
  ));
  return (
    <div className="grid gap-2">
      <Labelled label={`Rule ${at + 1}: the date`}>
        {(ids) => (
          <Select {...ids} value={apart.date?.ref ?? ''} onValue={(ref) => onChange({ ...apart, date: ref ? { ref } : undefined })}>
            <option value="">Choose …</option>
            {options}
          </Select>
        )}
      </Labelled>
      <div className="grid grid-cols-2 gap-2">
        <Labelled label={`Rule ${at + 1}: is at least`}>
          {(ids) => <NumberField {...ids} min={0} max={1000} value={apart.days} onValue={(days) => onChange({ ...apart, days: days ?? 0 })} />}
        </Labelled>
        <Labelled label={`Rule ${at + 1}: counted in`}>
          {(ids) => (
            <Select
              {...ids}
              value={apart.counted}
              onValue={(counted) => onChange({ ...apart, counted: counted === 'always' ? 'always' : 'working' })}
            >
              <option value="working">Working days</option>
              <option value="always">Days</option>
            </Select>
          )}
        </Labelled>
      </div>
      <Labelled label={`Rule ${at + 1}: after`}>
        {(ids) => (
          <Select {...ids} value={apart.after?.ref ?? ''} onValue={(ref) => onChange({ ...apart, after: ref ? { ref } : undefined })}>
            <option value="">The day it is asked for</option>
            {options}
          </Select>
        )}
      </Labelled>
    </div>
  );
}
