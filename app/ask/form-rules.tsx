import type { Form, FormRule } from '../../core/forms/index.ts';
import { formPlaces } from '../../core/plans/index.ts';
import { Labelled } from '~/ui/field';
import { freshKey } from '~/ui/fresh-key';
import { ListEditor } from '~/ui/list-editor';
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
          <ConditionEditor label={`Rule ${at + 1}`} places={places} value={rule.holds} onChange={(holds) => set({ ...rule, holds })} />
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
