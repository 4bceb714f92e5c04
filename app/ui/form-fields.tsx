import { clsx } from 'clsx';
import { hasFiles, requiredNow, sectionsOf, visibleFields, type Answers, type Field, type Form } from '../../core/forms/index.ts';
import { isEmpty, valueWords, type Value } from '../../core/values/index.ts';
import { AnswerControl } from './answer-control';
import { Labelled } from './field';
import { useNow } from './now';
import type { Chosen } from './picker';
import { RichWords } from './rich-words';

/** How a form with these fields is sent: where it may bring files, in parts. */
export const formEncoding = (fields: readonly Field[]): 'multipart/form-data' | undefined =>
  fields.some((f) => hasFiles(f.kind)) ? 'multipart/form-data' : undefined;

/** Kinds of field that take the whole width where others stand two beside one another. */
const wide: ReadonlySet<Field['kind']> = new Set(['longText', 'lines', 'files', 'people', 'choices']);

/** The fields of a form as the requester sees them, in their sections; the Counter and the Workshop's preview draw the same. */
export function FormFields({
  form,
  answers,
  names,
  problems = {},
  anchored = false,
  onLeave,
  onChange,
}: {
  form: Form;
  answers: Answers;
  /** Names of the people and groups the answers hold, by id. */
  names: Record<string, string>;
  problems?: Record<string, string>;
  /** Each field can be led to (`#field-…`): of one form of a page. */
  anchored?: boolean;
  /** The keyboard has left a field. */
  onLeave?: (field: string) => void;
  /** `chosen`: who was picked, so that their name is known. */
  onChange: (field: string, value: Value, chosen?: Chosen) => void;
}) {
  const required = requiredNow(form, answers);
  const shown = visibleFields(form, answers).filter((f) => f.held !== 'hidden');
  return (
    <div className="@container space-y-5">
      {sectionsOf(form, shown).map(({ section, fields }, i) => (
        <div key={section?.id ?? ''} role={section?.title ? 'group' : undefined} aria-label={section?.title || undefined}>
          {section?.title && <h2 className={clsx(i > 0 && 'mt-8', 'border-b pb-1 font-serif text-xl')}>{section.title}</h2>}
          {section && section.note.length > 0 && (
            <div className="mt-2 text-faint">
              <RichWords text={section.note} />
            </div>
          )}
          <div className={clsx('gap-x-6 gap-y-5', section && 'mt-4', section?.twoColumns ? 'grid @md:grid-cols-2' : 'flex flex-col')}>
            {fields.map((f) => (
              <div
                key={f.id}
                id={anchored ? `field-${f.id}` : undefined}
                className={clsx('min-w-0 scroll-mt-16', wide.has(f.kind) && '@md:col-span-2')}
                onBlur={onLeave && ((e) => !e.currentTarget.contains(e.relatedTarget) && onLeave(f.id))}
              >
                {f.held ? (
                  <Locked field={f} value={answers[f.id] ?? null} names={names} />
                ) : (
                  <Labelled label={f.label || 'Unnamed field'} help={f.help} required={required.has(f.id)} problem={problems[f.id]}>
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
                )}
              </div>
            ))}
          </div>
        </div>
      ))}
    </div>
  );
}

/** A field that whoever asks does not fill in: what it holds, in words. */
function Locked({ field, value, names }: { field: Field; value: Value; names: Record<string, string> }) {
  const { zone } = useNow();
  const words = valueWords(value, (_, id) => names[id], field.options, field.columns, zone);
  return (
    <Labelled label={field.label || 'Unnamed field'} help={field.help}>
      {(ids) => (
        <output
          {...ids}
          aria-label={field.label}
          className={clsx('block border-b border-dashed py-1 break-words', (field.kind === 'number' || field.kind === 'money') && 'numbers')}
        >
          {isEmpty(value) ? (
            <span className="text-faint">Nothing yet</span>
          ) : (
            `${words}${field.kind === 'number' && field.unit ? ` ${field.unit}` : ''}`
          )}
        </output>
      )}
    </Labelled>
  );
}
