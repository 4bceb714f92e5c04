import { clsx } from 'clsx';
import { ArrowUp, Plus, Trash2 } from 'lucide-react';
import { useRef, useState, type ReactNode } from 'react';
import { Button } from './button';

/** One row as its fields are drawn. */
interface Row<T> {
  row: T;
  /** Its place in the list, from 0. */
  at: number;
  /** Changes it; `what` names the act for the undo. */
  set: (next: T, what?: string) => void;
}

/** Takes something out of a list; it says what. */
export function RemoveButton({ what, onClick }: { what: string; onClick: () => void }) {
  return (
    <Button weight="quiet" className="self-start" data-tip={`Remove ${what}`} onClick={onClick}>
      <Trash2 size={14} aria-hidden />
      <span className="sr-only">Remove {what}</span>
    </Button>
  );
}

/** Adds something to a list, at its end. */
export function AddButton({ children, onClick }: { children: ReactNode; onClick: () => void }) {
  return (
    <Button className="mt-2" onClick={onClick}>
      <Plus size={13} aria-hidden /> {children}
    </Button>
  );
}

/** What was just added has the keyboard, in its first field. */
const takeKeyboard = (row: HTMLElement | null) =>
  row?.querySelector<HTMLElement>('input:not([type="hidden"]), textarea, [role="combobox"], [contenteditable="true"]')?.focus();

/** A list that is edited where it stands: rows with fields of their own, taken out, moved up and added. */
export function ListEditor<T>({
  rows,
  keyOf,
  nameOf,
  addLabel,
  make,
  onChange,
  onAdd = (row) => onChange([...rows, row]),
  ruled = false,
  movable = false,
  least = 0,
  children,
}: {
  rows: readonly T[];
  keyOf: (row: T, at: number) => string | number;
  /** What a row is called where it is taken out: “Remove the branch …”. */
  nameOf: (row: T, at: number) => string;
  addLabel: string;
  /** What is added. */
  make: () => T;
  onChange: (rows: T[], what?: string) => void;
  /** Where what is added is not part of the list yet. */
  onAdd?: (row: T) => void;
  /** Rows of several lines, each beside a rule. */
  ruled?: boolean;
  movable?: boolean;
  /** So many stay. */
  least?: number;
  children: (row: Row<T>) => ReactNode;
}) {
  /** Where the one stands that was added last; moved or with one taken out before it, it is no longer new. */
  const [added, setAdded] = useState<number>();
  const whole = useRef<HTMLDivElement>(null);
  const rearrange = (next: T[], what: string) => {
    setAdded(undefined);
    onChange(next, what);
  };
  const remove = (at: number) => {
    rearrange(rows.toSpliced(at, 1), nameOf(rows[at]!, at));
    // The keyboard goes to what takes its place, or to where something is added.
    requestAnimationFrame(() => {
      const left = whole.current?.querySelectorAll<HTMLElement>(':scope > ol > li > button:last-child:not(:disabled), :scope > button');
      (left?.[at] ?? left?.[left.length - 1])?.focus();
    });
  };
  return (
    <div ref={whole}>
      <ol className={ruled ? 'space-y-3' : 'space-y-1.5'}>
        {rows.map((row, at) => (
          <li key={keyOf(row, at)} ref={at === added ? takeKeyboard : undefined} className={clsx('flex gap-1', ruled && 'border-l-2 pl-3')}>
            <div className="min-w-0 grow">{children({ row, at, set: (next, what) => onChange(rows.with(at, next), what) })}</div>
            {movable && (
              <Button
                weight="quiet"
                className="self-start"
                disabled={at === 0}
                data-tip={`Move ${nameOf(row, at)} up`}
                onClick={() => rearrange(rows.toSpliced(at, 1).toSpliced(at - 1, 0, row), nameOf(row, at))}
              >
                <ArrowUp size={14} aria-hidden />
                <span className="sr-only">Move {nameOf(row, at)} up</span>
              </Button>
            )}
            {rows.length > least && <RemoveButton what={nameOf(row, at)} onClick={() => remove(at)} />}
          </li>
        ))}
      </ol>
      <AddButton
        onClick={() => {
          setAdded(rows.length);
          onAdd(make());
        }}
      >
        {addLabel}
      </AddButton>
    </div>
  );
}
