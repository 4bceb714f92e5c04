import { outcomeOf, type Answers, type Form, type FormTest } from '../../core/forms/index.ts';
import type { Calendar } from '../../core/calendar/index.ts';
import { Button } from '~/ui/button';
import { useDeskOfAll } from './use-asked-on';
import { Labelled } from '~/ui/field';
import { ListEditor } from '~/ui/list-editor';
import { Select } from '~/ui/select';
import { StateMark } from '~/ui/state-mark';
import { freshKey } from '~/ui/fresh-key';

/** The tests of a form: what each expects, and how it comes out now. */
export function FormTests({
  form,
  tried,
  onTry,
  onChange,
}: {
  form: Form;
  /** What is typed into the preview. */
  tried: Answers;
  onTry: (answers: Answers) => void;
  onChange: (form: Form, did: string) => void;
}) {
  const tests = form.tests ?? [];
  const desk = useDeskOfAll();
  return (
    <ListEditor
      rows={tests}
      keyOf={(t) => t.id}
      nameOf={(t) => `the test “${t.name}”`}
      addLabel="Add a test of what stands in the preview"
      make={(): FormTest => ({ id: freshKey('test'), name: `Test ${tests.length + 1}`, answers: tried })}
      onChange={(next) => onChange({ ...form, tests: next.length > 0 ? next : undefined }, 'Edit the tests of the form')}
      ruled
    >
      {({ row, at, set }) => <Test form={form} desk={desk} test={row} at={at} onTry={onTry} onChange={set} />}
    </ListEditor>
  );
}

function Test({
  form,
  desk,
  test,
  at,
  onTry,
  onChange,
}: {
  form: Form;
  desk: Calendar | undefined;
  test: FormTest;
  at: number;
  onTry: (answers: Answers) => void;
  onChange: (test: FormTest) => void;
}) {
  const { first: now, asSaid } = outcomeOf(form, test, desk);
  const label = (id: string) => form.fields.find((f) => f.id === id)?.label ?? 'a field that is gone';
  return (
    <div className="space-y-2">
      <input
        className="input"
        aria-label={`Test ${at + 1}: name`}
        maxLength={120}
        value={test.name}
        onChange={(e) => onChange({ ...test, name: e.target.value })}
      />
      <Labelled label={`Test ${at + 1} expects`}>
        {(ids) => (
          <Select
            {...ids}
            value={test.refused?.field ?? ''}
            onValue={(field) =>
              onChange({
                ...test,
                refused:
                  field === ''
                    ? undefined
                    : { field, sentence: outcomeOf(form, { ...test, refused: { field, sentence: '' } }, desk).expected?.sentence ?? '' },
              })
            }
          >
            <option value="">That the answers are taken</option>
            {form.fields.map((f) => (
              <option key={f.id} value={f.id}>
                A refusal at “{f.label}”
              </option>
            ))}
          </Select>
        )}
      </Labelled>
      {test.refused && (
        <input
          className="input"
          aria-label={`Test ${at + 1}: with which sentence`}
          placeholder="With any sentence"
          maxLength={400}
          value={test.refused.sentence}
          onChange={(e) => onChange({ ...test, refused: { field: test.refused!.field, sentence: e.target.value } })}
        />
      )}
      <p className="flex items-center gap-2 text-sm text-faint">
        <StateMark kind={asSaid ? 'done' : 'failed'} size={12} />
        {now ? `Refused now, at “${label(now.field)}”: ${now.sentence}` : 'Taken now.'}
      </p>
      <Button weight="quiet" onClick={() => onTry(test.answers)}>
        Put its answers into the preview
      </Button>
    </div>
  );
}
