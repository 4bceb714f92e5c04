import { parse, useForm, type SubmissionResult } from '@conform-to/react';
import { useMemo } from 'react';
import type { z } from 'zod';
import { problemsOf } from '../../core/posts/index.ts';
import type { Refusal } from '../../server/refusal.ts';

interface Post {
  /** For the form itself; before scripts load the browser holds it against what its controls say. */
  form: { id: string; noValidate: boolean; onSubmit: (event: React.FormEvent<HTMLFormElement>) => void };
  /** What is wrong at a field. */
  problem: (field: string) => string | undefined;
  /** How many fields of a part of a document (`actions[2]`) have something wrong. */
  wrongIn: (part: string) => number;
  /** What was refused and stands at no field; of a document, of which not all has a field, whatever is wrong in it. */
  sentence: string | undefined;
}

/**
 * A form of ours that is held against its schema before it goes out. What is wrong stands at its field and goes as soon as it is
 * put right; the first one has the keyboard. What the server then refuses is told in the same way. `document`: what the form sends
 * is this, as it is edited; its controls are named by their place in it (`actions[2].label`).
 */
export function usePost(
  schema: z.ZodObject,
  { refusal, document }: { refusal?: Pick<Refusal, 'sentence' | 'problems'> | undefined; document?: unknown } = {},
): Post {
  const lastResult = useMemo((): SubmissionResult | undefined => refusal && { status: 'error', error: listed(refusal.problems ?? []) }, [refusal]);
  const [form] = useForm<Record<string, unknown>>({
    lastResult,
    onValidate: ({ formData }) =>
      parse(only(formData, schema), {
        resolve: (fields) => {
          const read = schema.safeParse(document ?? fields);
          return read.success ? { value: fields } : { error: listed(problemsOf(read.error)) };
        },
      }),
    shouldRevalidate: 'onInput',
  });
  // A document is known as it stands, so what was put right in it goes without being sent again.
  const read = document === undefined || form.status !== 'error' ? undefined : schema.safeParse(document);
  const wrong = read?.error ? listed(problemsOf(read.error)) : document !== undefined && !refusal ? {} : form.allErrors;
  const problem = (field: string) => wrong[field]?.[0];
  const wrongIn = (part: string) => Object.keys(wrong).filter((field) => field === part || field.startsWith(`${part}.`)).length;
  return {
    form: { id: form.id, noValidate: form.noValidate, onSubmit: form.onSubmit },
    problem,
    wrongIn,
    sentence: read?.error
      ? [...new Set(Object.values(wrong).flat())].slice(0, 3).join(' ')
      : atNoField(schema, refusal, document)
        ? refusal?.sentence
        : undefined,
  };
}

/** Whether what was refused has no field of the form to stand at. */
const atNoField = (schema: z.ZodObject, refusal: Pick<Refusal, 'problems'> | undefined, document: unknown) =>
  document !== undefined || !refusal?.problems?.length || refusal.problems.some((p) => !Object.hasOwn(schema.shape, p.field));

/** What the schema knows of a form, and what the form library adds of its own: answers to a catalog form may stand beside it. */
function only(formData: FormData, schema: z.ZodObject): FormData {
  const known = new FormData();
  for (const [name, value] of formData) if (Object.hasOwn(schema.shape, name) || name.startsWith('__')) known.append(name, value);
  return known;
}

const listed = (problems: { field: string; sentence: string }[]): Record<string, string[]> =>
  Object.fromEntries(problems.map((p) => [p.field, problems.filter((q) => q.field === p.field).map((q) => q.sentence)]));
