import { clsx } from 'clsx';
import { ArrowUp, Plus, Trash2 } from 'lucide-react';
import { useState, type ReactNode } from 'react';
import { Button } from './button';

/** One row as its fields are drawn. */
interface Row<T> {
  row: T;
  /** Its place in the list, from 0. */
  at: number;
  /** It was just added: its first field takes the keyboard. */
  added: boolean;
  /** Changes it; `what` names the act for the undo. */
  set: (next: T, what?: string) => void;
}

/** Takes something out of a list; it says what. */
export function RemoveButton({ what, onClick }: { what: string; onClick: () => void }) {
  return (
    <Button weight="quiet" className="self-start" title={`Remove ${what}`} onClick={onClick}>
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
  const [added, setAdded] = useState<string | number>();
  return (
    <>
      <ol className={ruled ? 'space-y-3' : 'space-y-1.5'}>
        {rows.map((row, at) => (
          <li key={keyOf(row, at)} className={clsx('flex gap-1', ruled && 'border-l-2 pl-3')}>
            <div className="min-w-0 grow">
              {children({ row, at, added: keyOf(row, at) === added, set: (next, what) => onChange(rows.with(at, next), what) })}
            </div>
            {movable && (
              <Button
                weight="quiet"
                className="self-start"
                disabled={at === 0}
                title={`Move ${nameOf(row, at)} up`}
                onClick={() => onChange(rows.toSpliced(at, 1).toSpliced(at - 1, 0, row), nameOf(row, at))}
              >
                <ArrowUp size={14} aria-hidden />
                <span className="sr-only">Move {nameOf(row, at)} up</span>
              </Button>
            )}
            {rows.length > least && <RemoveButton what={nameOf(row, at)} onClick={() => onChange(rows.toSpliced(at, 1), nameOf(row, at))} />}
          </li>
        ))}
      </ol>
      <AddButton
        onClick={() => {
          const row = make();
          setAdded(keyOf(row, rows.length));
          onAdd(row);
        }}
      >
        {addLabel}
      </AddButton>
    </>
  );
}
