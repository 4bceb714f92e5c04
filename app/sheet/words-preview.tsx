import { useState } from 'react';
import { compile } from '../../core/conditions/index.ts';
import { visibleFields, type Answers } from '../../core/forms/index.ts';
import type { Passage, Place } from '../../core/plans/index.ts';
import { isReference, piecesOf, plainText, sayText, valueWords, type RichText, type Value } from '../../core/values/index.ts';
import { FormFields } from '~/ui/form-fields';
import { RichWords } from '~/ui/rich-words';
import { useEditor } from './draft-editor';

/** A message as it would read for answers that are tried out here; other values stand as their names. */
export function WordsPreview({ subject, body, places }: { subject: RichText; body: Passage[]; places: Place[] }) {
  const { draft } = useEditor();
  const [answers, setAnswers] = useState<Answers>({});
  const [names, setNames] = useState<Record<string, string>>({});
  const read = new Set([...body.flatMap((p) => refsOf(p)), ...piecesOf(subject).flatMap((x) => (isReference(x) ? [x.ref] : []))]);
  const asked = draft.form.fields.filter((f) => read.has(`form.${f.id}`));
  const shown = new Set(visibleFields(draft.form, answers).map((f) => f.id));
  const value = (ref: string): Value | undefined => (ref.startsWith('form.') && shown.has(ref.slice(5)) ? answers[ref.slice(5)] : undefined);
  const say = (ref: string) => {
    const place = places.find((p) => p.ref === ref);
    const v = value(ref);
    if (v === undefined || v === null) return `[${place?.label ?? 'no value'}]`;
    return valueWords(v, (_, id) => names[id] ?? '', place?.options, place?.columns);
  };
  // What only a run can know is taken as holding, so that its passage can be read.
  const holds = (p: Passage) => !p.when || !refsOf({ ...p, text: [] }).every((r) => r.startsWith('form.')) || compile(p.when)(value);
  return (
    <details className="border-t pt-3">
      <summary className="cursor-pointer font-medium text-sea">Preview with sample answers</summary>
      <div className="mt-3 space-y-4">
        {asked.length > 0 && (
          <FormFields
            form={{ fields: asked.map((f) => ({ ...f, visibleWhen: undefined })) }}
            answers={answers}
            names={names}
            onChange={(field, v, chosen) => {
              setAnswers((a) => ({ ...a, [field]: v }));
              if (chosen) setNames((n) => ({ ...n, [chosen.id]: chosen.name }));
            }}
          />
        )}
        <div className="border bg-sheet p-3" aria-label="The message as it would read" role="document">
          <p className="mb-2 font-medium">{plainText(subject, say)}</p>
          <RichWords
            text={sayText(
              body.filter(holds).flatMap((p) => p.text),
              say,
            )}
          />
        </div>
      </div>
    </details>
  );
}

const refsOf = (p: Passage): string[] => [...JSON.stringify(p).matchAll(/"ref":"([^"]+)"/g)].map((m) => m[1]!);
