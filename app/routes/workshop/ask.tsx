import { clsx } from 'clsx';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import {
  arranged,
  elementName,
  elementsOf,
  freshFieldId,
  freshSectionId,
  hasColumns,
  withoutField,
  type Answers,
  type Element,
  type Field,
  type FieldKind,
  type Form,
} from '../../../core/forms/index.ts';
import type { ItemDefinition } from '../../../core/items/index.ts';
import { formPlaces, withCells, type Finding } from '../../../core/plans/index.ts';
import { AboutItem } from '~/ask/about-item';
import { FieldSettings } from '~/ask/field-settings';
import { FormOutline, type At } from '~/ask/form-outline';
import { FormPreview } from '~/ask/form-preview';
import { FormRules } from '~/ask/form-rules';
import { FormTests } from '~/ask/form-tests';
import { PriceLines } from '~/ask/price-lines';
import { SectionSettings } from '~/ask/section-settings';
import { useEditor } from '~/sheet/draft-editor';
import { fieldKinds } from '~/sheet/field-kinds';
import { FindingLine } from '~/sheet/finding-line';
import { freshKey } from '~/ui/fresh-key';
import { StateMark } from '~/ui/state-mark';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

/** What is looked at, as the address says it. */
function atOf(search: URLSearchParams): At {
  const [field, section] = [search.get('field'), search.get('section')];
  if (field !== null) return { field };
  if (section !== null) return { section };
  return (['rules', 'price', 'tests'] as const).find((whole) => search.has(whole));
}
const searchOf = (at: At): Record<string, string> => (at === undefined ? {} : typeof at === 'string' ? { [at]: '' } : at);

/** The findings about what is looked at. */
const about = (at: At, f: Finding): boolean =>
  at === 'rules'
    ? f.rule !== undefined
    : at === 'price'
      ? f.price !== undefined
      : at === 'tests'
        ? f.test !== undefined
        : at !== undefined && ('field' in at ? f.field === at.field : f.section === at.section);

/** The leaf Ask: what the item is called and what its form asks, with the form beside it as the requester sees it. */
export default function Ask() {
  const editor = useEditor();
  const { draft, change, findings, kind } = editor;
  const { form } = draft;
  const [search, setSearch] = useSearchParams();
  const at = atOf(search);
  const field = typeof at === 'object' && 'field' in at ? form.fields.find((f) => f.id === at.field) : undefined;
  const section = typeof at === 'object' && 'section' in at ? form.sections?.find((s) => s.id === at.section) : undefined;
  const go = (next: At) => setSearch(searchOf(next), { replace: true, preventScrollReset: true });
  const setForm = (next: Form, did: string) => change({ ...draft, form: next }, did);
  /** What is typed into the preview: a test may be made of it. */
  const [tried, setTried] = useState<Answers>({});
  /** What was added last: its label is what one types next. */
  const [added, setAdded] = useState<string>();
  /** Names of what was picked for a default, by id. */
  const [picked, setPicked] = useState<Record<string, string>>({});
  const stated = Object.entries(editor.catalogue.stated ?? {}).map(([key, name]) => [key.slice(key.indexOf(' ') + 1), name] as const);
  const names = { ...Object.fromEntries(stated), ...picked };
  const tables = editor.catalogue.tables ?? {};

  const addField = (of: FieldKind) => {
    const { label } = fieldKinds[of];
    const id = freshFieldId(form, label);
    setAdded(id);
    setForm(
      { ...form, fields: [...form.fields, { id, kind: of, label: freeLabel(label, draft), required: true, ...begins(of) }] },
      `Add the field “${label}”`,
    );
    go({ field: id });
  };
  const addSection = () => {
    const id = freshSectionId(form);
    setAdded(id);
    setForm({ ...form, sections: [...(form.sections ?? []), { id, title: '', note: [] }] }, 'Add a section');
    go({ section: id });
  };
  const remove = (e: Element) => {
    if ('field' in e) setForm(withoutField(form, e.field.id), `Remove the field “${e.field.label}”`);
    else
      setForm(
        arranged(
          form,
          elementsOf(form).filter((x) => x !== e && elementName(x) !== elementName(e)),
        ),
        `Remove the section “${e.section.title}”`,
      );
    go(undefined);
  };
  const bad = (name: string) => findings.some((f) => name === `field ${f.field}` || name === `section ${f.section}`);
  const whole = [
    { to: 'rules' as const, words: 'Rules between fields', count: form.rules?.length ?? 0 },
    ...(kind === 'item' ? [{ to: 'price' as const, words: 'Price', count: draft.prices?.length ?? 0 }] : []),
    { to: 'tests' as const, words: 'Tests of the form', count: form.tests?.length ?? 0 },
  ];

  return (
    <main id="main" className="grid min-h-[calc(100vh-94px)] grid-cols-1 bg-sheet lg:grid-cols-[264px_minmax(0,1fr)_360px]">
      <section aria-label="Fields" className="border-b bg-paper py-4 lg:border-r lg:border-b-0">
        <Entry current={!field && !section && typeof at !== 'string'} onClick={() => go(undefined)}>
          About the item
        </Entry>
        <FormOutline form={form} at={at} bad={bad} onAt={go} onAddField={addField} onAddSection={addSection} onChange={setForm} onRemove={remove}>
          {form.fields.length > 0 && (
            <div className="mt-3">
              {whole.map(({ to, words, count }) => (
                <Entry key={to} current={at === to} onClick={() => go(to)}>
                  {findings.some((x) => about(to, x)) && <StateMark kind="failed" size={12} />} {words}
                  {count > 0 && <span className="numbers ml-2 text-sm font-normal text-faint">{count}</span>}
                </Entry>
              ))}
            </div>
          )}
        </FormOutline>
      </section>
      <section aria-label="Settings" className="min-w-0 px-4 py-5 md:px-8">
        <div className="max-w-xl">
          {typeof at === 'string' && (
            <>
              <h2 className="font-serif text-xl">{whole.find((x) => x.to === at)?.words}</h2>
              <p className="mb-4 text-faint">{purpose[at]}</p>
            </>
          )}
          <ul className="mb-4 space-y-2">
            {findings
              .filter((f) => about(at, f))
              .map((f, i) => (
                <FindingLine key={i} finding={f} />
              ))}
          </ul>
          {at === 'rules' && (
            <FormRules form={form} onChange={(next, what) => setForm({ ...form, rules: next.length > 0 ? next : undefined }, what)} />
          )}
          {at === 'price' && (
            <PriceLines
              prices={draft.prices}
              places={formPlaces(form).flatMap((p) => withCells(p, editor.catalogue))}
              onChange={(prices) => change({ ...draft, prices }, 'Edit the price')}
            />
          )}
          {at === 'tests' && (
            <>
              <FormTests form={form} tried={tried} onTry={setTried} onChange={setForm} />
              <p className="mt-6 border-t pt-3 text-faint">
                What the form takes, for programs that fill it in:{' '}
                <a className="text-sea underline underline-offset-4" href={`/workshop/items/${editor.id}/form.schema.json`} download>
                  as JSON Schema
                </a>
              </p>
            </>
          )}
          {section && (
            <SectionSettings
              key={section.id}
              section={section}
              isNew={section.id === added}
              onChange={(next, what) =>
                setForm({ ...form, sections: (form.sections ?? []).map((s) => (s.id === next.id ? next : s)) }, `Edit ${what} of a section`)
              }
            />
          )}
          {field && (
            <FieldSettings
              key={field.id}
              field={field}
              isNew={field.id === added}
              tables={tables}
              names={names}
              above={form.fields.slice(0, form.fields.indexOf(field))}
              others={form.fields.filter((f) => f !== field)}
              onChange={(next, what, chosen) => {
                if (chosen) setPicked((p) => ({ ...p, [chosen.id]: chosen.name }));
                setForm({ ...form, fields: form.fields.map((f) => (f.id === next.id ? next : f)) }, `Edit ${what} of “${field.label}”`);
              }}
            />
          )}
          {!field && !section && typeof at !== 'string' && <AboutItem />}
        </div>
      </section>
      <FormPreview typed={tried} onTyped={setTried} />
    </main>
  );
}

const purpose = {
  rules: 'What must hold of all answers together. Where it does not, the request is not taken, and the sentence stands at the field that is named.',
  price: 'What whoever asks pays, line by line. It is shown beside the form while they fill it in, and to those who approve.',
  tests:
    'Answers that must be taken, and answers that must be refused. They are tried with every change; one that comes out otherwise stops publishing.',
};

/** What a new field of a kind begins with. */
const begins = (kind: FieldKind): Partial<Field> => ({
  ...(kind === 'choice' && {
    options: [
      { value: 'one', label: 'First choice' },
      { value: 'two', label: 'Second choice' },
    ],
  }),
  ...(hasColumns(kind) && {
    columns: [
      { id: freshKey('what'), kind: 'text' as const, label: 'What', required: true },
      { id: freshKey('how many'), kind: 'number' as const, label: 'How many', required: true },
    ],
  }),
});

const freeLabel = (label: string, draft: ItemDefinition) => {
  const taken = new Set(draft.form.fields.map((f) => f.label.toLowerCase()));
  for (let n = 1; ; n++) {
    const next = n === 1 ? label : `${label} ${n}`;
    if (!taken.has(next.toLowerCase())) return next;
  }
};

/** A line of the margin that is not a field. */
function Entry({ current, onClick, children }: { current: boolean; onClick: () => void; children: React.ReactNode }) {
  return (
    <button
      type="button"
      onClick={onClick}
      aria-current={current}
      className={clsx(
        'block w-full border-l-3 px-4 py-1.5 text-left',
        current ? 'border-sea bg-sea-wash font-medium' : 'border-transparent hover:text-sea',
      )}
    >
      {children}
    </button>
  );
}
