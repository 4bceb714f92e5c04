import { Plus, Trash2 } from 'lucide-react';
import { useId } from 'react';
import type { Passage, Place } from '../../core/plans/index.ts';
import { sentence } from '../../core/values/index.ts';
import { Button } from '~/ui/button';
import { ConditionEditor } from './condition-editor';
import { TextEditor } from './text-editor';

/** A text in passages; one with a condition is there only while that holds. */
export function PassagesEditor({
  label,
  value,
  places,
  onChange,
}: {
  label: string;
  value: Passage[];
  places: Place[];
  onChange: (passages: Passage[]) => void;
}) {
  const id = useId();
  const open = places.filter((p) => !p.secret);
  return (
    <div>
      <p className="mb-1 font-medium">{label}</p>
      <ol className="space-y-3">
        {value.map((p, i) => (
          <li key={i} className={value.length > 1 || p.when ? 'rounded border bg-sheet p-2' : undefined}>
            {(p.when !== undefined || i > 0) && (
              <div className={p.when ? 'mb-2 border-b pb-2' : 'mb-2'}>
                {p.when && <p className="mb-1 text-sm text-faint">Only when</p>}
                <ConditionEditor
                  label={`Passage ${i + 1}`}
                  always="Always shown"
                  places={open}
                  value={p.when}
                  onChange={(when) => onChange(value.with(i, { ...p, when }))}
                />
              </div>
            )}
            <div className="flex gap-1">
              <div className="min-w-0 grow">
                <TextEditor
                  id={`${id}-${i}`}
                  label={value.length === 1 ? label : `${label}, passage ${i + 1}`}
                  manner="formatted"
                  value={p.text}
                  places={open}
                  onChange={(text) => onChange(value.with(i, { ...p, text }))}
                />
              </div>
              {value.length > 1 && (
                <Button weight="quiet" className="self-start" title={`Remove passage ${i + 1}`} onClick={() => onChange(value.toSpliced(i, 1))}>
                  <Trash2 size={14} aria-hidden />
                  <span className="sr-only">Remove passage {i + 1}</span>
                </Button>
              )}
            </div>
          </li>
        ))}
      </ol>
      <Button className="mt-2" onClick={() => onChange([...value, { text: sentence('') }])}>
        <Plus size={13} aria-hidden /> Add a passage
      </Button>
    </div>
  );
}
