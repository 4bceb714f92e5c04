import { clsx } from 'clsx';
import { ArrowDown, ArrowUp, Plus, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { freshFieldId, hasColumns, initialAnswers, withoutField, type Answers, type Field, type FieldKind } from '../../../core/forms/index.ts';
import type { ItemDefinition } from '../../../core/items/index.ts';
import { useEditor } from '~/sheet/draft-editor';
import { fieldKinds } from '~/sheet/field-kinds';
import { FieldSettings } from '~/sheet/field-settings';
import { FindingLine } from '~/sheet/finding-line';
import { NamedPeople } from '~/sheet/named-people';
import { Button } from '~/ui/button';
import { Labelled } from '~/ui/field';
import { FormFields } from '~/ui/form-fields';
import { freshKey } from '~/ui/fresh-key';
import { Menu, MenuAct } from '~/ui/menu';
import { useNameTaken } from '~/ui/item-name';
import { NameField } from '~/ui/name-field';
import { StateMark } from '~/ui/state-mark';
import { Checkbox } from '~/ui/checkbox';

export { Trouble as ErrorBoundary } from '~/ui/trouble';

/** The leaf Ask: what the item is called and what its form asks, with the form beside it as the requester sees it. */
export default function Ask() {
  const editor = useEditor();
  const { draft, change, findings } = editor;
  const [search, setSearch] = useSearchParams();
  const selected = draft.form.fields.find((f) => f.id === search.get('field'));
  const select = (id: string | undefined) => setSearch(id ? { field: id } : {}, { replace: true, preventScrollReset: true });
  const setFields = (fields: Field[], did: string) => change({ ...draft, form: { ...draft.form, fields } }, did);

  /** The field that was added last: its label is what one types next. */
  const [added, setAdded] = useState<string>();

  const add = (kind: FieldKind) => {
    const { label } = fieldKinds[kind];
    const id = freshFieldId(draft.form, label);
    setAdded(id);
    setFields(
      [
        ...draft.form.fields,
        {
          id,
          kind,
          label: freeLabel(label, draft),
          required: true,
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
        },
      ],
      `Add the field “${label}”`,
    );
    select(id);
  };
  const move = (index: number, by: -1 | 1) => {
    const field = draft.form.fields[index]!;
    setFields(draft.form.fields.toSpliced(index, 1).toSpliced(index + by, 0, field), `Move the field “${field.label}”`);
  };
  const remove = (index: number) => {
    const field = draft.form.fields[index]!;
    change({ ...draft, form: withoutField(draft.form, field.id) }, `Remove the field “${field.label}”`);
    select(undefined);
  };

  return (
    <main id="main" className="grid min-h-[calc(100vh-94px)] grid-cols-1 bg-sheet lg:grid-cols-[264px_minmax(0,1fr)_360px]">
      <section aria-label="Fields" className="border-b bg-paper py-4 lg:border-r lg:border-b-0">
        <button
          type="button"
          onClick={() => select(undefined)}
          aria-current={!selected}
          className={clsx(
            'block w-full border-l-3 px-4 py-1.5 text-left',
            selected ? 'border-transparent hover:text-sea' : 'border-sea bg-sea-wash font-medium',
          )}
        >
          About the item
        </button>
        <div className="mt-3 px-4">
          <Menu
            label="Add a field"
            // The keyboard goes to the label of what was added.
            onClosed={() => true}
            opener={
              <Button>
                <Plus size={13} aria-hidden /> Add a field
              </Button>
            }
          >
            {(Object.keys(fieldKinds) as FieldKind[]).map((kind) => (
              <MenuAct key={kind} onSelect={() => add(kind)}>
                {fieldKinds[kind].label} <span className="ml-auto pl-4 text-faint">{fieldKinds[kind].does}</span>
              </MenuAct>
            ))}
          </Menu>
        </div>
        <h2 className="mt-4 mb-1 px-4 text-sm text-faint">Fields, in the order asked</h2>
        <ol>
          {draft.form.fields.map((f, i) => {
            const bad = findings.some((x) => x.field === f.id);
            return (
              <li
                key={f.id}
                className={clsx('group flex items-center border-l-3 pr-1', f === selected ? 'border-sea bg-sea-wash' : 'border-transparent')}
              >
                <button
                  type="button"
                  onClick={() => select(f.id)}
                  aria-current={f === selected}
                  className="min-w-0 grow px-4 py-1.5 text-left hover:text-sea"
                  onKeyDown={(e) => {
                    if (e.altKey && e.key === 'ArrowUp' && i > 0) move(i, -1);
                    else if (e.altKey && e.key === 'ArrowDown' && i < draft.form.fields.length - 1) move(i, 1);
                    else if (e.key === 'Delete') remove(i);
                    else return;
                    e.preventDefault();
                  }}
                >
                  <span className="block truncate">
                    {bad && <StateMark kind="failed" size={12} />} {f.label || 'Unnamed field'}
                  </span>
                  <span className="block text-xs text-faint">
                    {fieldKinds[f.kind].label}
                    {f.required ? '' : ', optional'}
                    {f.visibleWhen ? ', sometimes shown' : ''}
                  </span>
                </button>
                {f === selected && (
                  <span className="flex shrink-0">
                    <IconButton label={`Move “${f.label}” up`} disabled={i === 0} onClick={() => move(i, -1)}>
                      <ArrowUp size={14} aria-hidden />
                    </IconButton>
                    <IconButton label={`Move “${f.label}” down`} disabled={i === draft.form.fields.length - 1} onClick={() => move(i, 1)}>
                      <ArrowDown size={14} aria-hidden />
                    </IconButton>
                    <IconButton label={`Remove “${f.label}”`} onClick={() => remove(i)}>
                      <Trash2 size={14} aria-hidden />
                    </IconButton>
                  </span>
                )}
              </li>
            );
          })}
        </ol>
        {draft.form.fields.length === 0 && <p className="px-4 py-2 text-faint">The form asks nothing yet.</p>}
      </section>
      <section aria-label="Settings" className="min-w-0 px-4 py-5 md:px-8">
        <div className="max-w-xl">
          {selected ? (
            <>
              <ul className="mb-4 space-y-2">
                {findings
                  .filter((f) => f.field === selected.id)
                  .map((f, i) => (
                    <FindingLine key={i} finding={f} />
                  ))}
              </ul>
              <FieldSettings
                key={selected.id}
                field={selected}
                isNew={selected.id === added}
                tables={editor.catalogue.tables ?? {}}
                above={draft.form.fields.slice(0, draft.form.fields.indexOf(selected))}
                onChange={(field, what) =>
                  setFields(
                    draft.form.fields.map((f) => (f.id === field.id ? field : f)),
                    `Edit ${what} of “${selected.label}”`,
                  )
                }
              />
            </>
          ) : (
            <About />
          )}
        </div>
      </section>
      <Preview />
    </main>
  );
}

const freeLabel = (label: string, draft: ItemDefinition) => {
  const taken = new Set(draft.form.fields.map((f) => f.label.toLowerCase()));
  for (let n = 1; ; n++) {
    const next = n === 1 ? label : `${label} ${n}`;
    if (!taken.has(next.toLowerCase())) return next;
  }
};

function IconButton({ label, children, ...rest }: { label: string; children: React.ReactNode; disabled?: boolean; onClick: () => void }) {
  return (
    <button
      type="button"
      title={label}
      className="flex size-7 items-center justify-center rounded text-faint hover:text-sea disabled:opacity-30"
      {...rest}
    >
      {children}
      <span className="sr-only">{label}</span>
    </button>
  );
}

function About() {
  const { draft, change, id, kind, catalogue, learn } = useEditor();
  const [name, setName] = useState(draft.name);
  const taken = useNameTaken(name, id);
  const problem = taken ?? (name.trim() === '' ? 'The item needs a name.' : undefined);
  return (
    <div className="space-y-5">
      <Labelled label="Name" help="What people look for at the Counter." problem={problem} required>
        {(ids) => (
          <NameField
            {...ids}
            value={name}
            maxLength={80}
            onChange={(e) => {
              setName(e.target.value);
              if (e.target.value.trim()) change({ ...draft, name: e.target.value }, 'Edit the name');
            }}
          />
        )}
      </Labelled>
      <Labelled label="Purpose" help="One or two sentences under the name.">
        {(ids) => (
          <textarea
            {...ids}
            className="input"
            rows={2}
            maxLength={300}
            value={draft.summary}
            onChange={(e) => change({ ...draft, summary: e.target.value }, 'Edit the purpose')}
          />
        )}
      </Labelled>
      <Labelled label="Category" help="Items of one category stand together at the Counter.">
        {(ids) => (
          <input
            {...ids}
            className="input"
            maxLength={60}
            value={draft.category}
            onChange={(e) => change({ ...draft, category: e.target.value }, 'Edit the category')}
          />
        )}
      </Labelled>
      {kind === 'item' && (
        <fieldset className="border-t pt-4">
          <label className="flex gap-2">
            <Checkbox
              className="mt-0.5"
              checked={draft.confidential !== undefined}
              onChecked={(on) => change({ ...draft, confidential: on ? { readers: [] } : undefined }, 'Change who reads it')}
            />
            <span>
              Confidential
              <span className="block text-sm text-faint">
                What is asked and said is only for the requester, those who are asked, the teams that work on it, and the readers named here. Others
                in the Ledger see that a request exists.
              </span>
            </span>
          </label>
          {draft.confidential && (
            <div className="mt-3 ml-6">
              <p className="mb-1 font-medium">Readers</p>
              <NamedPeople
                people={draft.confidential.readers}
                name={(p) => catalogue.people[p]?.name ?? 'someone'}
                addLabel="Name a reader"
                learn={learn}
                onChange={(readers) => change({ ...draft, confidential: { readers } }, 'Change who reads it')}
              />
            </div>
          )}
        </fieldset>
      )}
    </div>
  );
}

/** The form as the requester will see it, to be tried out; nothing typed here is kept. */
function Preview() {
  const { draft } = useEditor();
  const [typed, setTyped] = useState<Answers>({});
  const [names, setNames] = useState<Record<string, string>>({});
  return (
    <aside aria-label="Preview" className="border-t bg-paper px-5 py-5 lg:border-t-0 lg:border-l">
      <h2 className="mb-3 text-sm text-faint">As the requester sees it</h2>
      <p className="font-serif text-xl">{draft.name}</p>
      <p className="mb-5 text-faint">{draft.summary}</p>
      <FormFields
        form={draft.form}
        answers={{ ...initialAnswers(draft.form), ...typed }}
        names={names}
        onChange={(field, value, chosen) => {
          setTyped((t) => ({ ...t, [field]: value }));
          if (chosen) setNames((n) => ({ ...n, [chosen.id]: chosen.name }));
        }}
      />
    </aside>
  );
}
