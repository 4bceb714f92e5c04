import { Columns3, Download, Plus, X } from 'lucide-react';
import { useEffect, useLayoutEffect, useRef, useState, type ReactNode } from 'react';
import { Form, Link, useNavigate } from 'react-router';
import { columnsOf, isNarrowed, writeAsked, type ListAsked, type ListShape } from '../../../core/lists/index.ts';
import { Button } from '../button';
import { addressOf } from './address';
import { useHydrated } from '../choices';
import { Live } from '../live';
import { Menu, MenuAct, MenuCheck } from '../menu';
import { Popover } from '../popover';
import { FilterEditor, filterWords, type Named } from './filter';
import { KeepView } from './views';

const chip = 'inline-flex h-7 items-center gap-1.5 rounded border bg-paper px-2 text-sm whitespace-nowrap hover:border-sea';

/** What a list is called, what it is narrowed by, and what can be done with it; all of it stands in the address. */
export function ListBar({
  title,
  name,
  shape,
  asked,
  named,
  count,
  exportTo,
  live,
  beside = '',
  children,
}: {
  title: string;
  /** What names the list where views of it are kept. */
  name: string;
  shape: ListShape;
  asked: ListAsked;
  /** The names of what the filters hold by an id. */
  named: Named;
  /** How many there are, in words. */
  count: string | undefined;
  /** Where the list is to be had as CSV. */
  exportTo?: string;
  /** The list changes by itself; `hold` while more of it has been read than its first page. */
  live?: { hold: boolean };
  /** What else stands in the address and says which list this is. */
  beside?: string;
  /** Acts of this list. */
  children?: ReactNode;
}) {
  const navigate = useNavigate();
  const hydrated = useHydrated();
  const [adding, setAdding] = useState<string>();
  const picked = useRef<string>(undefined);
  const to = (next: ListAsked): string => {
    return addressOf('', beside, writeAsked(shape, next)) || '?';
  };
  const go = (next: ListAsked) => void navigate(to(next), { preventScrollReset: true });
  const set = Object.keys(shape.filters).filter((key) => asked.wanted[key] ?? asked.days[key]);
  const unset = Object.keys(shape.filters).filter((key) => !set.includes(key));
  const open = [...set, ...(adding !== undefined && !set.includes(adding) ? [adding] : [])];
  const shown = asked.columns ?? columnsOf(shape);
  // The address follows a moment later: two choices in a row are made on top of each other.
  const latest = useRef(asked);
  useLayoutEffect(() => {
    latest.current = asked;
  }, [asked]);
  const change = (by: (now: ListAsked) => ListAsked) => {
    const next = by(latest.current);
    if (next === latest.current) return;
    latest.current = next;
    go(next);
  };
  const without = (now: ListAsked, key: string): ListAsked => {
    const { [key]: _, ...wanted } = now.wanted;
    const { [key]: __, ...days } = now.days;
    return { ...now, wanted, days };
  };
  return (
    <div className="flex flex-wrap items-center gap-2 pb-2">
      <h1 className="mr-1 font-serif text-2xl">{title}</h1>
      {count !== undefined && (
        <span role="status" className="numbers mr-1 text-sm text-faint">
          {count}
        </span>
      )}
      {live && <Live hold={live.hold} />}
      {open.map((key) => {
        const filter = shape.filters[key]!;
        const words = filterWords(filter, asked, key, named);
        return (
          <span key={key} className="inline-flex">
            <Popover
              label={`${filter.label}: what is wanted`}
              open={adding === key}
              onOpenChange={(o) => setAdding(o ? key : undefined)}
              opener={
                <button type="button" disabled={!hydrated} className={`${chip} rounded-r-none border-r-0`}>
                  <span className="text-faint">{filter.label.toLowerCase()}</span> <span className="max-w-60 truncate">{words}</span>
                </button>
              }
            >
              <FilterEditor filter={filter} asked={asked} of={key} named={named} onChange={change} />
            </Popover>
            <Link
              to={to(without(asked, key))}
              onClick={(e) => {
                setAdding(undefined);
                if (e.ctrlKey || e.metaKey || e.shiftKey) return;
                e.preventDefault();
                change((now) => without(now, key));
              }}
              className={`${chip} rounded-l-none px-1 text-faint`}
            >
              <X size={13} aria-hidden />
              <span className="sr-only">Take away: {filter.label.toLowerCase()}</span>
            </Link>
          </span>
        );
      })}
      {/* In their place before scripts run, so that nothing moves under the pointer when they do. */}
      {unset.length > 0 && (
        <Menu
          label="Narrow by"
          onClosed={() => {
            // The chip opens once the menu is gone, so that the two never take the keyboard from each other.
            const key = picked.current;
            picked.current = undefined;
            if (key !== undefined) setAdding(key);
            return key !== undefined;
          }}
          opener={
            <button type="button" disabled={!hydrated} className={chip}>
              <Plus size={13} aria-hidden /> filter
            </button>
          }
        >
          {unset.map((key) => (
            <MenuAct key={key} onSelect={() => (picked.current = key)}>
              {shape.filters[key]!.label}
            </MenuAct>
          ))}
        </Menu>
      )}
      {shape.words && <Words label={shape.words} asked={asked} onChange={change} others={[...new URLSearchParams(beside)]} shape={shape} />}
      {isNarrowed(asked) && (
        <Link to={to({ ...asked, words: '', wanted: {}, days: {} })} className="text-sm text-sea underline underline-offset-4">
          Show all
        </Link>
      )}
      <span className="ml-auto flex items-center gap-1">
        <KeepView list={name} shape={shape} now={() => latest.current} />
        <Menu
          label="Columns"
          opener={
            <Button weight="quiet" className="size-8 px-0!" data-tip="Columns" disabled={!hydrated}>
              <Columns3 size={16} aria-hidden />
              <span className="sr-only">Columns</span>
            </Button>
          }
        >
          {Object.entries(shape.columns).map(([id, column]) => (
            <MenuCheck
              key={id}
              checked={shown.includes(id)}
              onChecked={(on) => {
                change((now) => {
                  const was = now.columns ?? columnsOf(shape);
                  const columns = Object.keys(shape.columns).filter((c) => (c === id ? on : was.includes(c)));
                  return columns.length > 0 ? { ...now, columns } : now;
                });
              }}
            >
              {column.label}
            </MenuCheck>
          ))}
        </Menu>
        {exportTo && (
          <a
            href={`${exportTo}${to(asked)}`}
            download
            onClick={(e) => {
              e.currentTarget.href = `${exportTo}${to(latest.current)}`;
            }}
            data-tip="As CSV, with all rows and these columns"
            className="inline-flex h-8 items-center gap-1.5 rounded px-2 text-sm text-sea hover:bg-sea-wash"
          >
            <Download size={15} aria-hidden /> CSV
          </a>
        )}
        {children}
      </span>
    </div>
  );
}

/** Words to find rows by; the list follows while one types, and on Enter where no scripts run. */
function Words({
  label,
  asked,
  shape,
  others,
  onChange,
}: {
  label: string;
  asked: ListAsked;
  shape: ListShape;
  others: [string, string][];
  onChange: (by: (now: ListAsked) => ListAsked) => void;
}) {
  const wait = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(wait.current), []);
  const box = useRef<HTMLInputElement>(null);
  // Words that come from elsewhere, a kept view or the way back, are shown; what is being typed is left alone.
  useEffect(() => {
    if (box.current && document.activeElement !== box.current) box.current.value = asked.words;
  }, [asked.words]);
  const rest = new URLSearchParams(writeAsked(shape, { ...asked, words: '' }));
  const find = (words: string) => onChange((now) => (words.trim() === now.words ? now : { ...now, words: words.trim() }));
  return (
    <Form role="search" className="flex">
      {[...others, ...rest].map(([key, value]) => (
        <input key={key} type="hidden" name={key} value={value} />
      ))}
      <input
        ref={box}
        type="search"
        name="q"
        aria-label={label}
        placeholder={label}
        defaultValue={asked.words}
        maxLength={100}
        className="input h-7! min-h-0! w-64 text-sm"
        onChange={(e) => {
          clearTimeout(wait.current);
          const { value } = e.target;
          wait.current = setTimeout(() => find(value), 350);
        }}
        // Whoever goes on to something else has said it all.
        onBlur={(e) => {
          clearTimeout(wait.current);
          find(e.target.value);
        }}
      />
    </Form>
  );
}
