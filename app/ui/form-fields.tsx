import { hasFiles, visibleFields, type Answers, type Field, type Form } from '../../core/forms/index.ts';
import type { Value } from '../../core/values/index.ts';
import { AnswerControl } from './answer-control';
import { Labelled } from './field';
import type { Chosen } from './picker';

/** How a form with these fields is sent: where it may bring files, in parts. */
export const formEncoding = (fields: readonly Field[]): 'multipart/form-data' | undefined =>
  fields.some((f) => hasFiles(f.kind)) ? 'multipart/form-data' : undefined;

/** The fields of a form as the requester sees them; the Counter and the Workshop's preview draw the same. */
export function FormFields({
  form,
  answers,
  names,
  problems = {},
  onChange,
}: {
  form: Form;
  answers: Answers;
  /** Names of the people and groups the answers hold, by id. */
  names: Record<string, string>;
  problems?: Record<string, string>;
  /** `chosen`: who was picked, so that their name is known. */
  onChange: (field: string, value: Value, chosen?: Chosen) => void;
}) {
  return (
    <div className="space-y-5">
      {visibleFields(form, answers).map((f) => (
        <Labelled key={f.id} label={f.label || 'Unnamed field'} help={f.help} required={f.required} problem={problems[f.id]}>
          {(ids) => (
            <AnswerControl
              field={f}
              name={`f.${f.id}`}
              ids={ids}
              value={answers[f.id] ?? null}
              names={names}
              onChange={(v, c) => onChange(f.id, v, c)}
            />
          )}
        </Labelled>
      ))}
    </div>
  );
}
