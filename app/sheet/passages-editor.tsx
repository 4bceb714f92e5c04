import { useId, type ReactNode } from 'react';
import type { Passage, Place } from '../../core/plans/index.ts';
import { sentence } from '../../core/values/index.ts';
import { ListEditor } from '~/ui/list-editor';
import { ConditionEditor } from './condition-editor';
import { TextEditor } from './text-editor';

/** A text in passages; one with a condition is there only while that holds. */
export function PassagesEditor<P extends Passage>({
  label,
  value,
  places,
  onChange,
  below,
}: {
  label: string;
  value: P[];
  places: Place[];
  onChange: (passages: P[]) => void;
  /** What else a passage has. */
  below?: (passage: P, set: (next: P, what?: string) => void, name: string) => ReactNode;
}) {
  const id = useId();
  const open = places.filter((p) => !p.secret);
  return (
    <div>
      <p className="mb-1 font-medium">{label}</p>
      <ListEditor
        rows={value}
        keyOf={(_, at) => at}
        nameOf={(_, at) => `passage ${at + 1}`}
        addLabel="Add a passage"
        make={() => ({ text: sentence('') }) as P}
        onChange={onChange}
        ruled={value.length > 1 || value[0]?.when !== undefined}
        least={1}
      >
        {({ row: p, at, set }) => (
          <>
            {(p.when !== undefined || at > 0) && (
              <div className={p.when ? 'mb-2 border-b pb-2' : 'mb-2'}>
                {p.when && <p className="mb-1 text-sm text-faint">Only when</p>}
                <ConditionEditor
                  label={`Passage ${at + 1}`}
                  always="Always shown"
                  places={open}
                  value={p.when}
                  onChange={(when) => set({ ...p, when })}
                />
              </div>
            )}
            <TextEditor
              id={`${id}-${at}`}
              label={value.length === 1 ? label : `${label}, passage ${at + 1}`}
              manner="formatted"
              value={p.text}
              places={open}
              onChange={(text) => set({ ...p, text })}
            />
            {below?.(p, set, `passage ${at + 1}`)}
          </>
        )}
      </ListEditor>
    </div>
  );
}
