import { clsx } from 'clsx';
import { closestCenter, DndContext, PointerSensor, useSensor, useSensors } from '@dnd-kit/core';
import { SortableContext, useSortable, verticalListSortingStrategy } from '@dnd-kit/sortable';
import { ArrowDown, ArrowUp, GripVertical, Plus, Trash2 } from 'lucide-react';
import type { ReactNode } from 'react';
import { elementName, elementsOf, moved, type Element, type FieldKind, type Form } from '../../core/forms/index.ts';
import { plainText } from '../../core/values/index.ts';
import { fieldKinds } from '~/sheet/field-kinds';
import { Button } from '~/ui/button';
import { Menu, MenuAct } from '~/ui/menu';
import { StateMark } from '~/ui/state-mark';

/** What of a form is looked at: a field, a section, or one of the things said of the whole. */
export type At = { field: string } | { section: string } | 'rules' | 'price' | 'tests' | undefined;

const wordsOf = (e: Element): string =>
  'field' in e ? e.field.label || 'Unnamed field' : e.section.title || plainText(e.section.note).trim().slice(0, 60) || 'Unnamed section';

/** The form from top to bottom: fields and sections, added, moved by drag and by keys, removed. */
export function FormOutline({
  form,
  at,
  bad,
  onAt,
  onAddField,
  onAddSection,
  onChange,
  onRemove,
  children,
}: {
  form: Form;
  at: At;
  /** Whether a finding is about it, by `elementName`. */
  bad: (name: string) => boolean;
  onAt: (at: At) => void;
  onAddField: (kind: FieldKind) => void;
  onAddSection: () => void;
  onChange: (form: Form, did: string) => void;
  onRemove: (element: Element) => void;
  /** What stands under the fields. */
  children: ReactNode;
}) {
  const elements = elementsOf(form);
  const names = elements.map(elementName);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 5 } }));
  const move = (name: string, to: number) => {
    const one = elements.find((e) => elementName(e) === name);
    if (one && to >= 0 && to < elements.length && names.indexOf(name) !== to)
      onChange(moved(form, name, to), `Move the ${'field' in one ? 'field' : 'section'} “${wordsOf(one)}”`);
  };
  return (
    <>
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
          <MenuAct onSelect={onAddSection}>
            Section or note <span className="ml-auto pl-4 text-faint">A title, words to the reader</span>
          </MenuAct>
          {(Object.keys(fieldKinds) as FieldKind[]).map((kind) => (
            <MenuAct key={kind} onSelect={() => onAddField(kind)}>
              {fieldKinds[kind].label} <span className="ml-auto pl-4 text-faint">{fieldKinds[kind].does}</span>
            </MenuAct>
          ))}
        </Menu>
      </div>
      <h2 className="mt-4 mb-1 px-4 text-sm text-faint">Fields, in the order asked</h2>
      <DndContext
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={({ active, over }) => over && move(String(active.id), names.indexOf(String(over.id)))}
      >
        <SortableContext items={names} strategy={verticalListSortingStrategy}>
          <ol>
            {elements.map((e, i) => (
              <Line
                key={names[i]}
                element={e}
                name={names[i]!}
                place={i}
                last={elements.length - 1}
                current={
                  typeof at === 'object' && ('field' in e ? 'field' in at && at.field === e.field.id : 'section' in at && at.section === e.section.id)
                }
                bad={bad(names[i]!)}
                onAt={() => onAt('field' in e ? { field: e.field.id } : { section: e.section.id })}
                onMove={(by) => move(names[i]!, i + by)}
                onRemove={() => onRemove(e)}
              />
            ))}
          </ol>
        </SortableContext>
      </DndContext>
      {elements.length === 0 && <p className="px-4 py-2 text-faint">The form asks nothing yet.</p>}
      {children}
    </>
  );
}

function Line({
  element: e,
  name,
  place,
  last,
  current,
  bad,
  onAt,
  onMove,
  onRemove,
}: {
  element: Element;
  name: string;
  place: number;
  last: number;
  current: boolean;
  bad: boolean;
  onAt: () => void;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
}) {
  const { setNodeRef, setActivatorNodeRef, listeners, transform, transition, isDragging } = useSortable({ id: name });
  const words = wordsOf(e);
  return (
    <li
      ref={setNodeRef}
      style={{ transform: transform ? `translateY(${transform.y}px)` : undefined, transition }}
      className={clsx(
        'group relative flex items-center border-l-3 pr-1',
        current ? 'border-sea bg-sea-wash' : 'border-transparent',
        isDragging && 'z-10 bg-sheet opacity-80',
        'section' in e && 'mt-2',
      )}
    >
      <span
        ref={setActivatorNodeRef}
        {...listeners}
        aria-hidden
        className="flex w-4 shrink-0 cursor-grab touch-none justify-center text-faint opacity-0 group-hover:opacity-100"
      >
        <GripVertical size={13} />
      </span>
      <button
        type="button"
        onClick={onAt}
        aria-current={current}
        className="min-w-0 grow py-1.5 pr-2 text-left hover:text-sea"
        onKeyDown={(k) => {
          if (k.altKey && k.key === 'ArrowUp') onMove(-1);
          else if (k.altKey && k.key === 'ArrowDown') onMove(1);
          else if (k.key === 'Delete') onRemove();
          else return;
          k.preventDefault();
        }}
      >
        <span className={clsx('block truncate', 'section' in e && 'font-serif')}>
          {bad && <StateMark kind="failed" size={12} />} {words}
        </span>
        <span className="block text-xs text-faint">{'field' in e ? fieldWords(e.field) : e.section.title ? 'Section' : 'Note to the reader'}</span>
      </button>
      {current && (
        <span className="flex shrink-0">
          <IconButton label={`Move “${words}” up`} disabled={place === 0} onClick={() => onMove(-1)}>
            <ArrowUp size={14} aria-hidden />
          </IconButton>
          <IconButton label={`Move “${words}” down`} disabled={place === last} onClick={() => onMove(1)}>
            <ArrowDown size={14} aria-hidden />
          </IconButton>
          <IconButton label={`Remove “${words}”`} onClick={onRemove}>
            <Trash2 size={14} aria-hidden />
          </IconButton>
        </span>
      )}
    </li>
  );
}

const fieldWords = (f: Form['fields'][number]): string =>
  [
    fieldKinds[f.kind].label,
    f.held === 'locked' ? 'locked' : f.held === 'hidden' ? 'hidden' : f.required ? '' : f.requiredWhen ? 'sometimes required' : 'optional',
    f.visibleWhen ? 'sometimes shown' : '',
  ]
    .filter(Boolean)
    .join(', ');

function IconButton({ label, children, ...rest }: { label: string; children: ReactNode; disabled?: boolean; onClick: () => void }) {
  return (
    <button
      type="button"
      data-tip={label}
      className="flex size-7 items-center justify-center rounded text-faint hover:text-sea disabled:opacity-30"
      {...rest}
    >
      {children}
      <span className="sr-only">{label}</span>
    </button>
  );
}
